using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// Tells by use what the parameters of a function are that nothing known calls: whoever reads the query of its first and sends with its second
/// handles a request, however they are called.
/// </summary>
internal static class ParameterShapes
{
    /// <summary>The type of a parameter, as facts name it; null if its use does not tell.</summary>
    public static string? TypeOf(IrFunction function, int position, LanguageModels facts) =>
        facts.Shapes.Count == 0 || function.Parameters.Count == 0 ? null : function.DerivedCache(f => new Found(Find(f, facts))).Shape is { } shape && position < shape.Parameters.Count ? shape.Parameters[position] : null;

    private sealed record Found(ShapeModel? Shape);

    /// <summary>What a function does with its first parameter, and with the one that answers.</summary>
    private sealed class Use
    {
        public HashSet<string> Read { get; } = new(StringComparer.Ordinal);

        public bool Answers { get; set; }

        public bool Fits(ShapeModel shape) => Read.Count >= shape.Least && (Answers || shape.Calls.Count + shape.Sets.Count == 0);
    }

    private static ShapeModel? Find(IrFunction function, LanguageModels facts)
    {
        foreach (var shape in facts.Shapes)
        {
            if (function.Parameters.Count < shape.Parameters.Count || (shape.Named.Count > 0 && !shape.Named.Contains(function.Parameters[0].Name)))
            {
                continue;
            }

            var use = new Use();
            Look(function, [ParameterAt(function, 0), ParameterAt(function, shape.Parameters.Count - 1)], new int?[2], shape, use, 0);
            if (use.Fits(shape))
            {
                return shape;
            }
        }

        return null;
    }

    private static int ParameterAt(IrFunction function, int position) => Array.FindIndex(function.Instructions, i => i.Op == Opcode.Parameter && i.A == position);

    /// <summary>Looks in the function, and in those written in it, at what is read of the first value and called on, or set of, the one that answers.</summary>
    /// <param name="values">The instructions that give the two values; -1 where they come by a variable only.</param>
    /// <param name="cells">The variables of the functions around it that hold them.</param>
    private static void Look(IrFunction function, int[] values, int?[] cells, ShapeModel shape, Use use, int depth)
    {
        int?[] kept = [.. cells];
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            ref readonly var instruction = ref function.Instructions[i];
            switch (instruction.Op)
            {
                case Opcode.GetField when Is(instruction.A, 0) && shape.Reads.Contains(instruction.Text!):
                    use.Read.Add(instruction.Text!);
                    break;
                case Opcode.CallMethod when Is(instruction.A, 1):
                    use.Answers |= shape.Calls.Contains(instruction.Text!);
                    break;
                case Opcode.SetField or Opcode.WithField when Is(instruction.A, 1):
                    use.Answers |= shape.Sets.Contains(instruction.Text!);
                    break;
                case Opcode.StoreCell:
                    for (var v = 0; v < 2; v++)
                    {
                        kept[v] = instruction.B == values[v] && values[v] >= 0 ? instruction.A : kept[v];
                    }

                    break;
            }
        }

        if (depth < 4 && (kept[0] ?? kept[1]) is not null && !use.Fits(shape))
        {
            foreach (var inner in function.File.Functions.Where(f => f.Outer == function))
            {
                Look(inner, [-1, -1], kept, shape, use, depth + 1);
            }
        }

        bool Is(int value, int v) => value >= 0 && (value == values[v] || (cells[v] is { } cell && function.Instructions[value] is { Op: Opcode.LoadCell, A: var loaded } && loaded == cell));
    }
}
