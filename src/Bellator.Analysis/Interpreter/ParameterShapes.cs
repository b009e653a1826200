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
                Look(function, [ParameterAt(function, 0), ParameterAt(function, 1)], shape, isUsed, 0);
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
    private static void Look(IrFunction function, int[] values, ShapeModel shape, bool[] isUsed, int depth)
    {
        var cells = new int?[2];
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            ref readonly var instruction = ref function.Instructions[i];
            switch (instruction.Op)
            {
                case Opcode.GetField when instruction.A == values[0] && values[0] >= 0:
                    isUsed[0] |= shape.Reads.Contains(instruction.Text!);
                    break;
                case Opcode.CallMethod when instruction.A == values[1] && values[1] >= 0:
                    isUsed[1] |= shape.Calls.Contains(instruction.Text!);
                    break;
                case Opcode.StoreCell:
                    for (var v = 0; v < 2; v++)
                    {
                        cells[v] = instruction.B == values[v] && values[v] >= 0 ? instruction.A : cells[v];
                    }

                    break;
            }
        }

        if (depth < 3 && (cells[0] ?? cells[1]) is not null && !(isUsed[0] && isUsed[1]))
        {
            foreach (var inner in function.File.Functions.Where(f => f.Outer == function))
            {
                LookInside(inner, cells, shape, isUsed, depth + 1);
            }
        }
    }

    private static void LookInside(IrFunction function, int?[] cells, ShapeModel shape, bool[] isUsed, int depth)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (function.Instructions[i].Op == Opcode.LoadCell)
            {
                Look(function, [function.Instructions[i].A == cells[0] ? i : -1, function.Instructions[i].A == cells[1] ? i : -1], shape, isUsed, 3);
            }
        }

        foreach (var inner in depth < 3 ? function.File.Functions.Where(f => f.Outer == function) : [])
        {
            LookInside(inner, cells, shape, isUsed, depth + 1);
        }
    }
}
