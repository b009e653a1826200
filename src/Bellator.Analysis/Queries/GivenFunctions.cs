using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Queries;

/// <summary>The calls by which a function runs what it, or the function around it, was given.</summary>
public static class GivenFunctions
{
    /// <summary>Indices of calls whose callee came in by a parameter.</summary>
    public static IReadOnlySet<int> CalledIn(IrFunction function)
    {
        HashSet<int>? found = null;
        foreach (var i in function.OutgoingCalls)
        {
            if (function.Instructions[i] is { Op: Opcode.Call, A: >= 0 and var callee } && function.Instructions[callee].Op is Opcode.Parameter or Opcode.LoadCell)
            {
                (found ??= []).Add(i);
            }
        }

        return found ?? (IReadOnlySet<int>)System.Collections.Frozen.FrozenSet<int>.Empty;
    }

    /// <summary>Those of the calls whose callee differs from caller to caller: what one caller handed in says nothing of the way of another.</summary>
    public static IReadOnlySet<int> SharedIn(IrFunction function, IReadOnlyList<CallEdge> calls)
    {
        var given = CalledIn(function);
        return given.Count == 0 ? given : calls.Where(c => given.Contains(c.Instruction)).GroupBy(c => c.Instruction).Where(g => g.Select(c => c.Target).Distinct().Skip(1).Any()).Select(g => g.Key).ToHashSet();
    }
}
