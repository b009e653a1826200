using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>In which order two things happen in a function, as far as its branches tell.</summary>
public static class FlowOrder
{
    /// <summary>The instructions of a function by which it comes to a place: the ones that stand there, or calls of what it is in.</summary>
    /// <param name="reaches">The callee comes to the place.</param>
    public static List<int> InstructionsOf(IrFunction function, FunctionSummary summary, Location at, Func<IrFunction, bool> reaches)
    {
        var found = new List<int>();
        if (at.File == function.File.Index && at.Start >= function.Span.Start && at.End <= function.Span.End)
        {
            found.AddRange(function.OutgoingCalls.Where(i => function.LocationOf(i) == at && IsReachable(function, i)));
            if (found.Count == 0)
            {
                found.AddRange(Enumerable.Range(0, function.Instructions.Length).Where(i => function.Instructions[i].Op is Opcode.Binary && function.LocationOf(i) == at && IsReachable(function, i)));
            }
        }

        if (found.Count == 0)
        {
            found.AddRange(summary.Calls.Where(c => (uint)c.Instruction < (uint)function.BlockOf.Length && IsReachable(function, c.Instruction) && reaches(c.Target)).Select(c => c.Instruction).Distinct());
        }

        return found;
    }

    /// <summary>Some way leads from one of the first to one of the second.</summary>
    public static bool Leads(IrFunction function, IReadOnlyList<int> first, IReadOnlyList<int> second)
    {
        foreach (var from in first)
        {
            var after = After(function, function.BlockOf[from]);
            if (second.Any(to => function.BlockOf[to] == function.BlockOf[from] ? to > from || after.Contains(function.BlockOf[to]) : after.Contains(function.BlockOf[to])))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>It compares and does nothing else; a call may stop by itself.</summary>
    public static bool IsComparison(IrFunction function, int instruction) => function.Instructions[instruction].Op == Opcode.Binary;

    /// <summary>Whichever way is taken from the first, it passes one of the second: what was found out at the first changes nothing there.</summary>
    public static bool AlwaysLeads(IrFunction function, int first, IReadOnlyList<int> second)
    {
        var goals = second.Select(i => function.BlockOf[i]).ToHashSet();
        var start = function.BlockOf[first];
        if (goals.Contains(start))
        {
            return second.Any(i => function.BlockOf[i] == start && i > first);
        }

        var seen = new HashSet<int>();
        var open = new Stack<int>(function.Blocks[start].Successors);
        if (open.Count == 0)
        {
            return false;
        }

        while (open.TryPop(out var at))
        {
            if (goals.Contains(at) || !seen.Add(at))
            {
                continue;
            }

            // A value that depends on the way may carry the answer.
            var block = function.Blocks[at];
            if (block.Successors.Count == 0 || block.NeverContinues || at == start || block.Instructions.Any(i => function.Instructions[i].Op == Opcode.Phi))
            {
                return false;
            }

            foreach (var next in block.Successors)
            {
                open.Push(next);
            }
        }

        return !goals.Any(g => function.Blocks[g].Instructions.Any(i => function.Instructions[i].Op == Opcode.Phi));
    }

    private static bool IsReachable(IrFunction function, int instruction) => function.Blocks[function.BlockOf[instruction]].IsReachable;

    private static HashSet<int> After(IrFunction function, int block)
    {
        var seen = new HashSet<int>();
        var open = new Stack<int>(function.Blocks[block].Successors);
        while (open.TryPop(out var at))
        {
            if (seen.Add(at))
            {
                foreach (var next in function.Blocks[at].Successors)
                {
                    open.Push(next);
                }
            }
        }

        return seen;
    }
}
