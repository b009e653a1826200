using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>Who may not is refused, and the code goes on all the same.</summary>
public sealed class RunsOnAfterRefusal : Check
{
    public override string Id => "records/runs-on-after-refusal";

    public override string Title => "Execution continues after access is denied";

    public override IReadOnlyList<int> Cwes => [698, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.1", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "A redirect or status code only tells the client something: the code after it still runs, and its output is sent too.";

    public override string FalsePositiveIf => "The call that denies access ends the request itself, in code outside the audit.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Call exit after the header, in helpers too.",
        "ruby" => "redirect_to … and return, or do it in a before_action.",
        _ => "Return right after denying access.",
    };

    /// <summary>A refusal stands at most so many blocks behind its test.</summary>
    private const int MaxBlocks = 4;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        // Which code answers requests is not always understood, and this shows in the code of one function alone.
        var handlers = context.Access.Entries.Select(e => e.Entry.Handler!).ToHashSet();
        foreach (var function in context.Functions.Where(f => HasRefusal(context, f)))
        {
            foreach (var block in function.Blocks.Where(b => b.IsReachable && b.Condition >= 0 && b.Successors.Count == 2 && b.Successors[0] != b.Successors[1]))
            {
                var isAboutPerson = IsAboutPerson(context, function, block.Condition);

                // Which side of “less than” is the refused one, the refusal tells.
                int[] sides = !isAboutPerson ? [0, 1] : function.Instructions[block.Condition] is { Op: Opcode.Binary, Text: "<" or ">" or "<=" or ">=" } ? [0, 1] : [AuthorizationChecks.IsPresence(function, block.Condition) ? 1 : 0];
                foreach (var side in sides)
                {
                    if (Refusal(context, function, block.Successors[side], out var joins) is not (>= 0 and var refusal)
                        || !(isAboutPerson ? GoesOn(context, function, joins, handlers.Contains(function)) : IsRedirect(context, function, refusal) && DeletesBehind(context, function, joins)))
                    {
                        continue;
                    }

                    var at = function.LocationOf(refusal);
                    yield return new Finding
                    {
                        Check = this,
                        At = at,
                        Certainty = Certainty.Traced,
                        Message = $"“{context.Program.Tree.TextOf(function.LocationOf(block.Condition))}” {(isAboutPerson ? "denies access" : "redirects")} with “{context.Program.Tree.TextOf(at)}” but does not stop: the code after it runs for everyone.",
                        Related = [function.LocationOf(block.Condition)],
                        Subject = function.Name,
                    };
                }
            }
        }
    }

    private static bool IsAboutPerson(CheckContext context, IrFunction function, int condition)
    {
        if (context.Accounts.Surface.AskedBy(function, condition) is Requirement.SignIn or Requirement.Role)
        {
            return true;
        }

        var at = function.LocationOf(condition);
        return context.Flow.SummaryOf(function).Events.Any(e => e is { Kind: EventKind.Decision, Guessed: false, Depth: 0 } && e.At.File == at.File && e.At.Start >= at.Start && e.At.End <= at.End);
    }

    /// <summary>The call that refuses on the way from a block, and the block where both sides go on; -1 where the way ends, or nothing refuses.</summary>
    private static int Refusal(CheckContext context, IrFunction function, int start, out int joins)
    {
        joins = -1;
        var refusal = -1;
        var at = start;
        for (var steps = 0; steps < MaxBlocks; steps++)
        {
            var block = function.Blocks[at];
            if (!AuthorizationChecks.Dominates(function, start, at))
            {
                joins = at;
                return refusal;
            }

            foreach (var i in block.Instructions)
            {
                if (function.Instructions[i].Op is Opcode.Return or Opcode.Throw or Opcode.Exit)
                {
                    return -1;
                }

                if (refusal < 0 && Refuses(context, function, i))
                {
                    refusal = i;
                }
            }

            if (block.NeverContinues || block.Successors.Count != 1)
            {
                return -1;
            }

            at = block.Successors[0];
        }

        return -1;
    }

    internal static bool Refuses(CheckContext context, IrFunction function, int index)
    {
        ref readonly var call = ref function.Instructions[index];
        if (call.Op is not (Opcode.Call or Opcode.CallMethod or Opcode.CallStatic))
        {
            return false;
        }

        var name = IrClass.ShortOf((call.Op == Opcode.Call ? function.Instructions[call.A].Text ?? function.Names.GetValueOrDefault(call.A) : call.Text) ?? "");
        var first = call.C > 0 ? Beginning(function, function.List(call)[0].Value) : "";
        return context.Words.Redirects(name) || IsOwnRefusal(context, function, index, name) || (context.Words.SendsStatus(name) && (first is "401" or "403" or ":unauthorized" or ":forbidden" or "unauthorized" or "forbidden"
            || first.StartsWith("Location:", StringComparison.OrdinalIgnoreCase) || first.Contains(" 401", StringComparison.Ordinal) || first.Contains(" 403", StringComparison.Ordinal)));
    }

    private static bool HasRefusal(CheckContext context, IrFunction function) => function.OutgoingCalls.Any(i => Refuses(context, function, i));

    /// <summary>A helper of the program's own that is named for refusing and sends an answer.</summary>
    private static bool IsOwnRefusal(CheckContext context, IrFunction function, int call, string name) =>
        context.Words.IsThereToRefuse(name) && context.Flow.SummaryOf(function).Calls.FirstOrDefault(e => e.Instruction == call).Target is { } helper && context.Flow.SummaryOf(helper).Events.Any(e => e is { Kind: EventKind.Sink, Sink.Kind: "response" or "page" or "redirect" });

    private static string Beginning(IrFunction function, int value) => function.Instructions[value] switch
    {
        { Op: Opcode.Constant, Text: { } text } => text,
        { Op: Opcode.Concat, C: > 0 } joined => Beginning(function, function.List(joined)[0].Value),
        _ => "",
    };

    internal static HashSet<int> Behind(IrFunction function, int from)
    {
        var reached = new HashSet<int> { from };
        var open = new Stack<int>([from]);
        while (open.TryPop(out var at))
        {
            foreach (var next in function.Blocks[at].Successors.Where(reached.Add))
            {
                open.Push(next);
            }
        }

        return reached;
    }

    internal static HashSet<Location> Places(IrFunction function, HashSet<int> blocks) => [.. blocks.SelectMany(b => function.Blocks[b].Instructions).Select(i => function.LocationOf(i))];

    private static bool IsRedirect(CheckContext context, IrFunction function, int call) =>
        context.Words.Redirects(IrClass.ShortOf((function.Instructions[call] is { Op: Opcode.Call } plain ? function.Instructions[plain.A].Text ?? function.Names.GetValueOrDefault(plain.A) : function.Instructions[call].Text) ?? ""));

    /// <summary>Whoever was sent elsewhere deletes a record all the same, whatever was asked before.</summary>
    private static bool DeletesBehind(CheckContext context, IrFunction function, int from)
    {
        if (from < 0)
        {
            return false;
        }

        var behind = Places(function, Behind(function, from));
        return context.Flow.SummaryOf(function).Events.Any(e => e.Kind is EventKind.Query or EventKind.Run or EventKind.Access && behind.Contains(e.Place) && context.Accounts.Surface.AccessesOf(e).Any(a => a.Action == RecordAction.Delete));
    }

    /// <summary>Behind the block something is done that only the right people should do; in a helper whose language does not stop, that is with its callers.</summary>
    private static bool GoesOn(CheckContext context, IrFunction function, int from, bool isHandler)
    {
        if (from < 0)
        {
            return false;
        }

        var reached = Behind(function, from);
        if (AuthorizationChecks.Passing(function).Exists(reached.Contains))
        {
            return true;
        }

        var behind = Places(function, reached);
        if (context.Flow.SummaryOf(function).Events.Any(e => (e.Kind is EventKind.Query or EventKind.Run or EventKind.Access && behind.Contains(e.Place)) || (e is { Depth: 0, Sink.Kind: "response" or "page" or "template" } && e.Function == function && behind.Contains(e.At))))
        {
            return true;
        }

        // The helper ends here, and the page that called it goes on.
        return !isHandler && LanguageSemantics.For(function.File.Source.Language).OnlyExitEndsRequest && !function.IsTopLevel
            && !reached.Any(b => function.Blocks[b].NeverContinues || function.Blocks[b].Instructions.Any(i => function.Instructions[i].Op is Opcode.Exit or Opcode.Throw || function.Instructions[i] is { Op: Opcode.Return, A: >= 0 }));
    }
}
