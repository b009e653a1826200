using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>
/// Tests by which a function leaves before it comes to a costly call, where they ask whether what the call works on is there at all: the answer
/// then comes sooner for what is not there.
/// </summary>
public static class UnverifiedExits
{
    private const int MaxDepth = 6;

    /// <param name="calls">The costly calls of the function.</param>
    /// <returns>The conditions, in the order of the code.</returns>
    public static IEnumerable<int> Before(IrFunction function, IReadOnlyCollection<int> calls)
    {
        var worked = calls.SelectMany(c => RootsOf(function, c)).ToHashSet();
        foreach (var block in function.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: 2 }))
        {
            if (worked.Contains(TestedValue.Of(function, block.Condition)) && calls.All(c => function.BlockOf[c] != block.Index)
                && block.Successors.Any(s => Reaches(function, s, calls)) && block.Successors.Any(s => !Reaches(function, s, calls)))
            {
                yield return block.Condition;
            }
        }
    }

    /// <summary>The values that the call's object and arguments are, or are members of.</summary>
    private static IEnumerable<int> RootsOf(IrFunction function, int call)
    {
        var instruction = function.Instructions[call];
        foreach (var operand in function.List(instruction).ToArray().Select(o => o.Value).Append(instruction.A).Where(v => v >= 0))
        {
            var at = operand;
            for (var depth = 0; depth < MaxDepth && function.Instructions[at] is { Op: Opcode.GetField or Opcode.GetItem or Opcode.Cast, A: >= 0 and var of }; depth++)
            {
                at = of;
            }

            if (function.Instructions[at].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic)
            {
                yield return at;
            }
        }
    }

    private static bool Reaches(IrFunction function, int start, IReadOnlyCollection<int> calls)
    {
        var goals = calls.Select(c => function.BlockOf[c]).ToHashSet();
        var seen = new HashSet<int>();
        var open = new Stack<int>([start]);
        while (open.TryPop(out var at))
        {
            if (goals.Contains(at))
            {
                return true;
            }

            if (seen.Add(at))
            {
                foreach (var next in function.Blocks[at].Successors)
                {
                    open.Push(next);
                }
            }
        }

        return false;
    }
}
