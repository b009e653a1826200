using Bellator.Analysis.Ir;
using Bellator.Syntax;

namespace Bellator.Analysis.Queries;

/// <summary>Functions that take the keys out of an object which a document store would read as operators: <c>if (/^\$/.test(key)) delete value[key]</c>.</summary>
public static class OperatorKeys
{
    /// <summary>Somewhere it takes away a part whose name is only known when it runs, and it speaks of the sign that operators begin with.</summary>
    public static bool AreRemovedBy(IrFunction function) => function.DerivedCache(f => new Found(Look(f))).Removes;

    private sealed record Found(bool Removes);

    private static bool Look(IrFunction function)
    {
        var (takes, names) = (false, false);
        foreach (ref readonly var instruction in function.Instructions.AsSpan())
        {
            takes |= instruction.Op is Opcode.WithItem or Opcode.SetItem && instruction.B >= 0 && function.Instructions[instruction.B].Op != Opcode.Constant
                && instruction.C >= 0 && function.Instructions[instruction.C] is { Op: Opcode.Constant, A: (int)LiteralKind.Null };
            names |= instruction is { Op: Opcode.Constant, Text: { Length: > 0 and < 12 } text } && text.Contains('$', StringComparison.Ordinal);
        }

        return takes && names;
    }
}
