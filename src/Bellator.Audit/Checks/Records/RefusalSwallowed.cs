using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>A check denies access by an exception, which is caught around it, and the code goes on.</summary>
public sealed class RefusalSwallowed : Check
{
    public override string Id => "records/refusal-swallowed";

    public override string Title => "Denied access is caught and ignored";

    public override IReadOnlyList<int> Cwes => [755, 863, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.1", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "The exception is what denies access. Caught and logged, it changes nothing for the user: what it should prevent happens in the next line.";

    public override string FalsePositiveIf => "What follows is meant for everyone, and the check is only there for the log.";

    public override string HowToFix(string language) => "Let the exception pass, or end the request where it is caught.";

    /// <summary>Code that handles an exception is short.</summary>
    private const int MaxBlocks = 4;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var function in context.Functions)
        {
            foreach (var before in function.Blocks.Where(b => b.IsReachable && b.Condition < 0 && b.Successors.Count >= 2))
            {
                var body = before.Successors[^1];
                foreach (var handler in before.Successors.Take(before.Successors.Count - 1))
                {
                    if (Continues(context, function, handler) is not { } after || Denying(context, function, body, handler, after) is not (>= 0 and var call) || !DoesMore(context, function, after))
                    {
                        continue;
                    }

                    yield return new Finding
                    {
                        Check = this,
                        At = function.LocationOf(call),
                        Certainty = Certainty.Traced,
                        Message = $"“{context.Program.Tree.TextOf(function.LocationOf(call))}” denies access by an exception, which is caught here: the code after it runs for everyone.",
                        Related = function.Blocks[handler].Instructions.Select(function.LocationOf).Take(1).ToList(),
                        Subject = function.Name,
                    };
                }
            }
        }
    }

    /// <summary>Where the code goes on behind a handler that neither ends nor answers nor notes for later what has happened; null for any other.</summary>
    private static int? Continues(CheckContext context, IrFunction function, int handler)
    {
        var at = handler;
        for (var steps = 0; steps < MaxBlocks; steps++)
        {
            var block = function.Blocks[at];
            if (!block.IsReachable || block.NeverContinues || block.Successors.Count != 1
                || block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Return or Opcode.Throw or Opcode.Exit or Opcode.SetField or Opcode.StoreCell or Opcode.StoreShared or Opcode.SetStatic || RunsOnAfterRefusal.Refuses(context, function, i)))
            {
                return null;
            }

            at = block.Successors[0];
            if (function.Blocks[at].Predecessors.Count > 1)
            {
                // A variable that the handler sets tells the code behind it.
                return function.Blocks[at].Instructions.Any(i => function.Instructions[i].Op == Opcode.Phi) ? null : at;
            }
        }

        return null;
    }

    /// <summary>The call in the guarded code that throws where the person may not; -1 if there is none.</summary>
    private static int Denying(CheckContext context, IrFunction function, int body, int handler, int after)
    {
        var reached = new HashSet<int> { body };
        var open = new Stack<int>([body]);
        while (open.TryPop(out var at))
        {
            foreach (var call in function.Blocks[at].Instructions.Where(i => function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic))
            {
                var targets = CheckIgnored.Targets(context, function, call);
                if (targets.Count > 0 && targets.TrueForAll(t => CheckIgnored.Refuses(context, t) && CheckIgnored.IsDeciding(context, function, t)) && UnusedResults.Of(function).Contains(call))
                {
                    return call;
                }
            }

            foreach (var next in function.Blocks[at].Successors.Where(s => s != handler && s != after && reached.Count < MaxBlocks && reached.Add(s)))
            {
                open.Push(next);
            }
        }

        return -1;
    }

    private static bool DoesMore(CheckContext context, IrFunction function, int after)
    {
        var behind = RunsOnAfterRefusal.Places(function, RunsOnAfterRefusal.Behind(function, after));
        return context.Flow.SummaryOf(function).Events.Any(e => e.Kind is EventKind.Query or EventKind.Run or EventKind.Access && behind.Contains(e.Place));
    }
}
