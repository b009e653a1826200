using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>Names of members and keys on whose values a function decides: they are compared, or stand in a condition.</summary>
public static class TestedNames
{
    private const int Deepest = 4;

    public static IEnumerable<string> In(IrFunction function)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (function.Instructions[i] is { Op: Opcode.Binary, Text: "==" or "===" or "!=" or "!==" or "<" or ">" or "<=" or ">=" } compared)
            {
                foreach (var name in NamesOf(function, compared.A, 0).Concat(NamesOf(function, compared.B, 0)))
                {
                    yield return name;
                }
            }
        }

        foreach (var block in function.Blocks)
        {
            foreach (var name in block.Condition < 0 ? [] : NamesOf(function, block.Condition, 0))
            {
                yield return name;
            }
        }
    }

    private static IEnumerable<string> NamesOf(IrFunction function, int value, int depth)
    {
        if (value < 0 || depth > Deepest)
        {
            yield break;
        }

        var read = function.Instructions[value];
        if (read is { Op: Opcode.GetField or Opcode.CallMethod, Text: { Length: > 0 } member })
        {
            yield return member.TrimEnd('?');
        }
        else if (read is { Op: Opcode.GetItem, B: >= 0 } && function.Instructions[read.B] is { Op: Opcode.Constant, Text: { Length: > 0 } key })
        {
            yield return key;
        }

        // What is made of it by a test or a call without arguments is the same in another form.
        if (read.Op is Opcode.Unary or Opcode.GetField or Opcode.CallMethod)
        {
            foreach (var name in NamesOf(function, read.A, depth + 1))
            {
                yield return name;
            }
        }
    }
}
