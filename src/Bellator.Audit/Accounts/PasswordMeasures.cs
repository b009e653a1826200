using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>
/// Whether a program looks at how long or how good a password is, anywhere and in any of the usual ways: a comparison of its length, a
/// rule of a schema, a mark on a field, a function that is named for it. What is found by name counts too: this answers a question
/// of absence, where one sign is enough.
/// </summary>
public sealed class PasswordMeasures(ProgramModel program, IdentifierClassifier words)
{
    private const int MaxDepth = 8;

    /// <summary>True if something was found.</summary>
    public bool Any() =>
        program.Classes.Any(c => words.ChecksPasswords(c.ShortName) || c.Fields.Any(f => words.IsPassword(f.Name) && (f.Annotations.Any(Measures) || (f.Value is Call declared && declared.Arguments.Any(a => a.Name is { } option && words.IsMeasure(option))))))
        || program.Functions.Any(f => words.ChecksPasswords(f.Name) || f.Parameters.Any(p => words.IsPassword(p.Name.TrimStart('$')) && p.Annotations.Any(Measures)) || f.DerivedCache(c => new Measured(InCode(c))).IsSo);

    /// <summary>Where a schema in the file speaks of the password, or null.</summary>
    public Location? Declared(IrFile file)
    {
        foreach (var function in file.Functions)
        {
            foreach (var instruction in function.Instructions.Where(i => i.Op == Opcode.Object))
            {
                foreach (var operand in function.List(instruction))
                {
                    if (operand.Name is { } name && words.IsPassword(name) && function.Instructions[operand.Value].Op is Opcode.CallMethod or Opcode.Call && operand.At != default)
                    {
                        return new Location(file.Index, operand.At.Start, operand.At.End);
                    }
                }
            }
        }

        return null;
    }

    private sealed record Measured(bool IsSo);

    private bool Measures(Annotation mark) => words.IsMeasure(IrClass.ShortOf(mark.Name));

    private bool InCode(IrFunction function)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            ref readonly var instruction = ref function.Instructions[i];
            var found = instruction.Op switch
            {
                Opcode.GetField => words.IsMeasure(instruction.Text!) && IsPassword(function, instruction.A, 0),
                Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New => words.ChecksPasswords(CalledName(function, i)) || (words.IsMeasure(CalledName(function, i)) && SpeaksOfPassword(function, i, 0)) || DeclaresRule(function, i),
                Opcode.Object => HasRule(function, i),
                Opcode.StoreShared or Opcode.Export => words.ChecksPasswords(instruction.Text!),
                _ => false,
            };
            if (found)
            {
                return true;
            }
        }

        return false;
    }

    private static string CalledName(IrFunction function, int call)
    {
        var instruction = function.Instructions[call];
        var name = instruction.Op is Opcode.Call or Opcode.New ? function.Instructions[instruction.A].Text : instruction.Text;
        return IrClass.ShortOf(name ?? "");
    }

    /// <summary>An object whose member for the password has a rule: of a schema library, in a text, or as another object.</summary>
    private bool HasRule(IrFunction function, int index)
    {
        foreach (var operand in function.List(function.Instructions[index]))
        {
            if (operand.Name is { } name && words.IsPassword(name) && IsRule(function, operand.Value, 0))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>A call that names or is given the password, and gives options or objects with a rule: <c>validates :password, length: { minimum: 12 }</c>.</summary>
    private bool DeclaresRule(IrFunction function, int call)
    {
        var operands = function.List(function.Instructions[call]).ToArray();
        if (!operands.Any(o => function.Instructions[o.Value] is { Op: Opcode.Constant, Text: { } text } ? words.IsPassword(text) : IsPassword(function, o.Value, MaxDepth - 1)))
        {
            return false;
        }

        return operands.Any(o => MakesMeasure(function, o.Value, 0))
            || operands.Any(o => (o.Name is { } name && words.IsMeasure(name)) || (function.Instructions[o.Value].Op == Opcode.Object && function.List(function.Instructions[o.Value]).ToArray().Any(e => e.Name is { } key && words.IsMeasure(key))));
    }

    /// <summary>An object that is named for a measure, alone, in a list or among options.</summary>
    private bool MakesMeasure(IrFunction function, int value, int depth)
    {
        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Opcode.New => words.IsMeasure(IrClass.ShortOf(CalledName(function, value))),
            Opcode.List or Opcode.Object when depth < 2 => function.List(instruction).ToArray().Any(o => MakesMeasure(function, o.Value, depth + 1)),
            _ => false,
        };
    }

    private bool IsRule(IrFunction function, int value, int depth)
    {
        if (depth > MaxDepth || value < 0)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Opcode.Constant => instruction.Text is { } text && text.Split('|', ':', ',').Any(words.IsMeasure),
            Opcode.CallMethod => words.IsMeasure(instruction.Text!) || IsRule(function, instruction.A, depth + 1) || AnyRule(function, instruction, depth),
            Opcode.CallStatic or Opcode.New or Opcode.Call => words.IsMeasure(CalledName(function, value)) || words.ChecksPasswords(CalledName(function, value)) || AnyRule(function, instruction, depth),
            Opcode.Object or Opcode.List => AnyRule(function, instruction, depth),
            _ => false,
        };
    }

    private bool AnyRule(IrFunction function, in Instruction instruction, int depth)
    {
        foreach (var operand in function.List(instruction))
        {
            if ((operand.Name is { } name && words.IsMeasure(name)) || IsRule(function, operand.Value, depth + 1))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>The receiver or an argument of a call is a password, or a chain of calls that began with its name.</summary>
    private bool SpeaksOfPassword(IrFunction function, int call, int depth)
    {
        var instruction = function.Instructions[call];
        foreach (var operand in function.List(instruction))
        {
            if (IsPassword(function, operand.Value, depth))
            {
                return true;
            }
        }

        return instruction.Op == Opcode.CallMethod && IsPassword(function, instruction.A, depth);
    }

    private bool IsPassword(IrFunction function, int value, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return false;
        }

        if (function.Names.TryGetValue(value, out var variable) && words.IsPassword(variable.TrimStart('$')))
        {
            return true;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Opcode.Constant => instruction.A == (int)LiteralKind.Text && words.IsPassword(instruction.Text),
            Opcode.Parameter => words.IsPassword(function.Parameters[instruction.A].Name.TrimStart('$')),
            Opcode.Global or Opcode.LoadShared or Opcode.LoadCell => words.IsPassword(instruction.Text?.TrimStart('$')),
            Opcode.GetField => words.IsPassword(instruction.Text),
            Opcode.GetItem => IsPassword(function, instruction.B, depth + 1),
            Opcode.Cast or Opcode.Unary => IsPassword(function, instruction.A, depth + 1),
            Opcode.Binary => IsPassword(function, instruction.A, depth + 1) || IsPassword(function, instruction.B, depth + 1),
            Opcode.Call or Opcode.CallMethod or Opcode.CallStatic => SpeaksOfPassword(function, value, depth + 1),
            Opcode.Phi => function.List(instruction).ToArray().Any(o => o.Value < value && IsPassword(function, o.Value, depth + 2)),
            _ => false,
        };
    }
}
