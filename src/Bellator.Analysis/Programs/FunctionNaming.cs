using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Programs;

/// <summary>What people call a function: its own name or, for one that has none, what it is first kept as.</summary>
public static class FunctionNaming
{
    /// <summary>With its class, as <c>Class::name</c> or <c>Class#name</c>; empty for a function that is only handed on.</summary>
    public static string Of(IrFunction function)
    {
        var name = function.Name.Length > 0 ? function.Name : KeptAs(function);
        return name.Length == 0 || name[0] == '<' ? ""
            : function.Class is { } type ? type.ShortName + (function.IsStatic ? "::" : "#") + name : name;
    }

    /// <summary>The name without its class.</summary>
    public static string LastPart(string name) => name[(name.LastIndexOfAny(['#', ':']) + 1)..];

    private static string KeptAs(IrFunction function)
    {
        if (function.Outer is not { } outer)
        {
            return "";
        }

        for (var i = 0; i < outer.Instructions.Length; i++)
        {
            if (outer.Instructions[i] is { Op: Opcode.Function, A: var index } && index < function.File.Functions.Count && function.File.Functions[index] == function)
            {
                return outer.Names.GetValueOrDefault(i) ?? MemberOf(outer, i) ?? "";
            }
        }

        return "";
    }

    /// <summary>The member of an object, or the name a module shows to others, that becomes the value.</summary>
    private static string? MemberOf(IrFunction outer, int value)
    {
        foreach (var instruction in outer.Instructions)
        {
            switch (instruction.Op)
            {
                case Opcode.SetField or Opcode.WithField or Opcode.SetStatic or Opcode.StoreShared when instruction.B == value:
                case Opcode.Export when instruction.A == value:
                    return instruction.Text;
                case Opcode.Object:
                    foreach (var operand in outer.List(instruction))
                    {
                        if (operand.Value == value && operand.Name is { } name)
                        {
                            return name;
                        }
                    }

                    break;
            }
        }

        return null;
    }
}
