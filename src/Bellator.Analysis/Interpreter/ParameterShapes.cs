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
        facts.Shapes.Count == 0 || function.Parameters.Count < 2 ? null : function.DerivedCache(f => new Found(Find(f, facts))).Shape is { } shape && position < shape.Parameters.Count ? shape.Parameters[position] : null;

    private sealed record Found(ShapeModel? Shape);

    private static ShapeModel? Find(IrFunction function, LanguageModels facts)
    {
        foreach (var shape in facts.Shapes)
        {
            var isUsed = new bool[2];
            if (function.Parameters.Count >= shape.Parameters.Count)
            {
                Look(function, [ParameterAt(function, 0), ParameterAt(function, 1)], new int?[2], shape, isUsed, 0);
            }

            if (isUsed[0] && isUsed[1])
            {
                return shape;
            }
        }

        return null;
    }

    private static int ParameterAt(IrFunction function, int position) => Array.FindIndex(function.Instructions, i => i.Op == Opcode.Parameter && i.A == position);

    /// <summary>Looks in the function, and in those written in it, at what is read of the first value and called on the second.</summary>
    /// <param name="values">The instructions that give the two values; -1 where they come by a variable only.</param>
    /// <param name="cells">The variables of the functions around it that hold them.</param>
    private static void Look(IrFunction function, int[] values, int?[] cells, ShapeModel shape, bool[] isUsed, int depth)
    {
        int?[] kept = [.. cells];
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            ref readonly var instruction = ref function.Instructions[i];
            switch (instruction.Op)
            {
                case Opcode.GetField when Is(instruction.A, 0):
                    isUsed[0] |= shape.Reads.Contains(instruction.Text!);
                    break;
                case Opcode.CallMethod when Is(instruction.A, 1):
                    isUsed[1] |= shape.Calls.Contains(instruction.Text!);
                    break;
                case Opcode.StoreCell:
                    for (var v = 0; v < 2; v++)
                    {
                        kept[v] = instruction.B == values[v] && values[v] >= 0 ? instruction.A : kept[v];
                    }

                    break;
            }
        }

        if (depth < 4 && (kept[0] ?? kept[1]) is not null && !(isUsed[0] && isUsed[1]))
        {
            foreach (var inner in function.File.Functions.Where(f => f.Outer == function))
            {
                Look(inner, [-1, -1], kept, shape, isUsed, depth + 1);
            }
        }

        bool Is(int value, int v) => value >= 0 && (value == values[v] || (cells[v] is { } cell && function.Instructions[value] is { Op: Opcode.LoadCell, A: var loaded } && loaded == cell));
    }
}
