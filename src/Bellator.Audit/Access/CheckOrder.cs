using System.Collections.Concurrent;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Analysis.Summaries;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Access;

/// <summary>
/// Whether a test comes before what it is to protect: one that is made on another branch, or after the change, protects nothing, and neither does
/// one whose answer makes no difference to whether the change is made.
/// </summary>
internal sealed class CheckOrder(SurfaceModel surface, ProgramAnalysis flow)
{
    /// <summary>False only where the code of one function shows that the test does not protect the change.</summary>
    public bool Holds(EntryAccess entry, SubjectDecision decision, RecordUse use) => Holds(entry, decision.Happening.At, use, decides: true);

    public bool Holds(EntryAccess entry, RecordUse test, RecordUse use) => Holds(entry, test.Access.At, use, decides: false);

    private bool Holds(EntryAccess entry, Location testAt, RecordUse use, bool decides)
    {
        if (use.IsFetched)
        {
            return true;
        }

        // What is read may be tested when it is there.
        var isChange = use.Access.Action is RecordAction.Edit or RecordAction.Delete;

        // Where it stands in the code, not the helper that runs the statement for it.
        var testIn = flow.Program.FunctionAt(testAt);
        foreach (var function in new[] { use.In, entry.Entry.Handler! }.Distinct())
        {
            var summary = flow.SummaryOf(function);
            var effects = LeadingTo(function, use.Access.At);
            var tests = effects.Count == 0 ? [] : LeadingTo(function, testAt);
            if (tests.Count == 0 || tests.Exists(effects.Contains))
            {
                continue;
            }

            if (testIn != function && tests.TrueForAll(t => IsUnheeded(function, t, summary)))
            {
                return false;
            }

            return !isChange || FlowOrder.Leads(function, tests, effects)
                && !(decides && testIn == function && tests.TrueForAll(t => FlowOrder.IsComparison(function, t) && FlowOrder.AlwaysLeads(function, t, effects)));
        }

        return true;
    }

    /// <summary>The instructions of a function by which it comes to a place; asked for every pair of tests and uses.</summary>
    private List<int> LeadingTo(IrFunction function, Location at) => _leading.GetOrAdd((function, at), key =>
    {
        var goal = flow.Program.FunctionAt(key.At);
        return FlowOrder.InstructionsOf(key.Function, flow.SummaryOf(key.Function), key.At, f => goal is not null && surface.Reach.From(f).Contains(goal));
    });

    private readonly ConcurrentDictionary<(IrFunction Function, Location At), List<int>> _leading = new();

    /// <summary>Nothing looks at what the call answers, and all that is called does is to answer.</summary>
    private bool IsUnheeded(IrFunction function, int call, FunctionSummary summary) =>
        _unused.GetOrAdd(function, f => [.. UnusedResults.Of(f)]).Contains(call)
        && summary.Calls.Where(c => c.Instruction == call).Select(c => c.Target).ToList() is { Count: > 0 } targets
        && targets.TrueForAll(t => surface.Reach.From(t).All(OnlyAnswers));

    private readonly ConcurrentDictionary<IrFunction, HashSet<int>> _unused = new();

    private static bool OnlyAnswers(IrFunction function) =>
        !function.NeverReturns && function.PrunedEdges.Count == 0 && function.Blocks.Where(b => b.IsReachable).All(b =>
            !b.NeverContinues && !b.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit)
            && (b.Successors.Count > 0 || b.Instructions.Any(i => function.Instructions[i] is { Op: Opcode.Return, A: >= 0 })));
}
