using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Records;

/// <summary>Somebody asks whether the person may, and nobody looks at the answer.</summary>
public sealed class CheckIgnored : Check
{
    public override string Id => "records/check-ignored";

    public override string Title => "Result of an authorization check ignored";

    public override IReadOnlyList<int> Cwes => [252, 754, 862];

    public override IReadOnlyList<string> Asvs => ["V8.2.1", "V8.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "The code looks protected, but carries on whatever the check returns.";

    public override string FalsePositiveIf => "The call itself throws or ends the request when access is denied.";

    public override string HowToFix(string language) => language switch
    {
        "csharp" => "Test the result and return Forbid() when access is denied; await asynchronous checks.",
        "python" => "Raise the exception, or return the response, that is created here.",
        "ruby" => "Return unless the check passed, or use the variant that raises.",
        "php" => "Test the result and stop when access is denied, or use the variant that throws.",
        _ => "Test the result and return when access is denied; await asynchronous checks.",
    };

    /// <summary>What comes to more functions than these does more than answer.</summary>
    private const int MaxFunctions = 12;

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        var seen = new HashSet<Location>();

        // Not only what entry points are seen to reach: a program may find its handlers in ways of its own.
        var reached = context.Access.Entries.SelectMany(e => context.Accounts.Surface.OwnReach(e.Entry.Handler!)).ToHashSet();
        foreach (var function in context.Functions.Where(f => !f.IsTopLevel || reached.Contains(f)))
        {
            foreach (var finding in reached.Contains(function) ? Unawaited(context, function).Where(f => seen.Add(f.At)) : [])
            {
                yield return finding;
            }

            foreach (var call in UnusedResults.Of(function).Where(c => !UnusedResults.GivesCallback(function, c, context.Words)))
            {
                var at = function.LocationOf(call);
                var targets = Targets(context, function, call);
                var said = IsAskedOfPolicy(context, function, call) ? "is called for its result, which is ignored"
                    : targets.Count == 0 ? reached.Contains(function) ? OfLibrary(context, function, call) : null
                    : reached.Contains(function) && (context.Words.AsksForRights(CalledName(function, call)) || targets.TrueForAll(t => TiesToPerson(context, function, t))) && targets.TrueForAll(t => Answers(context, function, t)) ? "is called for its result, which is ignored"
                    : targets.TrueForAll(t => GivesRefusal(context, t)) ? "returns a refusal that is ignored"
                    : null;
                if (said is not null && seen.Add(at))
                {
                    yield return new Finding
                    {
                        Check = this,
                        At = at,
                        Certainty = targets.Count > 0 ? Certainty.Traced : Certainty.Matched,
                        Message = $"“{context.Program.Tree.TextOf(at)}” {said}: the code after it runs for everyone.",
                        Related = [.. targets.Select(t => new Location(t.File.Index, t.Span.Start, t.Span.Start)).Take(1)],
                        Subject = CalledName(function, call),
                    };
                }
            }
        }
    }

    internal static List<IrFunction> Targets(CheckContext context, IrFunction function, int call) => [.. context.Flow.SummaryOf(function).Calls.Where(c => c.Instruction == call).Select(c => c.Target)];

    /// <summary>The answer comes later, and the code does not wait for it: what is tested is the promise, and a refusal ends nothing.</summary>
    private IEnumerable<Finding> Unawaited(CheckContext context, IrFunction function)
    {
        foreach (var call in UnawaitedCalls.TestedIn(function).Where(c => IsLater(context, function, c)))
        {
            yield return Of(call, "is used as a condition without await, and a pending promise is always truthy", Targets(context, function, call)[0]);
        }

        foreach (var call in UnusedResults.Of(function).Where(c => !UnawaitedCalls.IsAwaited(function, c) && IsLater(context, function, c) && Targets(context, function, c).TrueForAll(t => Refuses(context, t))))
        {
            yield return Of(call, "is not awaited, so denying access stops nothing", Targets(context, function, call)[0]);
        }

        foreach (var (call, given) in UnawaitedCalls.GivenIn(function, context.Words).Where(g => context.Words.RunsForEach(CalledName(function, g.Call)) && Decides(context, [g.Given])))
        {
            yield return Of(call, "does not wait for the checks in its asynchronous callback", given);
        }

        Finding Of(int call, string said, IrFunction target)
        {
            var at = function.LocationOf(call);
            return new Finding
            {
                Check = this,
                At = at,
                Certainty = Certainty.Traced,
                Message = $"“{context.Program.Tree.TextOf(at)}” {said}: the code after it runs for everyone.",
                Related = [new Location(target.File.Index, target.Span.Start, target.Span.Start)],
                Subject = CalledName(function, call),
            };
        }
    }

    private static bool IsLater(CheckContext context, IrFunction function, int call) =>
        Targets(context, function, call) is { Count: > 0 } targets && targets.TrueForAll(t => UnawaitedCalls.AnswersLater(t, context.Words) && IsDeciding(context, function, t));

    /// <summary>The function holds something against the person, by itself or with what its caller hands over.</summary>
    internal static bool IsDeciding(CheckContext context, IrFunction caller, IrFunction function) =>
        context.Accounts.Surface.Reach.From(function) is var reach && (Decides(context, reach) || Decides(context, reach, context.Flow.SummaryOf(caller).Events.Where(e => reach.Contains(e.Function))));

    internal static bool Refuses(CheckContext context, IrFunction function) =>
        context.Accounts.Surface.Reach.From(function).Any(f => f.Blocks.Any(b => b.IsReachable && (b.NeverContinues || b.Instructions.Any(i => f.Instructions[i].Op is Opcode.Throw or Opcode.Exit))));

    /// <summary>Something is held against the person, or looked up by it.</summary>
    private static bool Decides(CheckContext context, IReadOnlyCollection<IrFunction> reach) => Decides(context, reach, reach.SelectMany(f => context.Flow.SummaryOf(f).Events));

    private static bool Decides(CheckContext context, IReadOnlyCollection<IrFunction> reach, IEnumerable<AnalysisEvent> events) =>
        reach.Count <= MaxFunctions && events.Any(e => e is { Kind: EventKind.Decision, Guessed: false } || context.Access.RowsOf(e).Any(r => r.Access.Action is RecordAction.View or RecordAction.List && r.Terms.OfSubject));

    /// <summary>The function does nothing but say whether: it holds something against the person, gives the result back, and neither stops nor changes anything.</summary>
    private static bool Answers(CheckContext context, IrFunction caller, IrFunction function)
    {
        var exits = function.Blocks.Where(b => b.IsReachable && b.Successors.Count == 0).ToList();
        if (exits.Count == 0 || exits.Exists(b => b.NeverContinues || !b.Instructions.Any(i => function.Instructions[i] is { Op: Opcode.Return, A: >= 0 })) || function.Blocks.Any(b => b.IsReachable && (b.NeverContinues || b.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit or Opcode.SetField or Opcode.StoreShared or Opcode.SetStatic))))
        {
            return false;
        }

        var reach = context.Accounts.Surface.Reach.From(function);
        if (reach.Count > MaxFunctions || reach.Any(f => f != function && (f.NeverReturns || f.Blocks.Any(b => b.IsReachable && (b.NeverContinues || b.Instructions.Any(i => f.Instructions[i].Op is Opcode.Throw or Opcode.Exit))))))
        {
            return false;
        }

        // What the caller hands over may be what shows that it is about the person.
        var here = context.Flow.SummaryOf(caller).Events.Where(e => reach.Contains(e.Function)).ToList();
        var decides = Decides(context, reach, here);
        foreach (var happening in reach.SelectMany(f => context.Flow.SummaryOf(f).Events).Concat(here))
        {
            if (context.Accounts.Surface.AccessesOf(happening).Any(a => a.Action is RecordAction.Create or RecordAction.Edit or RecordAction.Delete && IsIn(context, a, reach)))
            {
                return false;
            }

            decides |= happening is { Kind: EventKind.Decision, Guessed: false } || (context.Words.Authorizes(function.Name) && context.Access.RowsOf(happening).Any(r => r.Terms.OfSubject));
        }

        return decides;
    }

    /// <summary>The function looks up whether there is a row that ties the person to what it was given, whatever it is called: there is nothing else to call it for than the answer.</summary>
    private static bool TiesToPerson(CheckContext context, IrFunction caller, IrFunction function)
    {
        var reach = context.Accounts.Surface.Reach.From(function);
        return context.Flow.SummaryOf(caller).Events.Where(e => reach.Contains(e.Function)).SelectMany(context.Access.RowsOf)
            .Any(r => IsIn(context, r.Access, reach) && r.Access.Action is RecordAction.View or RecordAction.List && r.Terms.OfSubject && r.Terms.Request.Count + r.Terms.Found.Count > 0);
    }

    /// <summary>It stands in the code of the functions, and is not what a caller had one of them do for it.</summary>
    private static bool IsIn(CheckContext context, TableAccess access, IReadOnlyCollection<IrFunction> functions) => context.Program.FunctionAt(access.At) is { } at && functions.Contains(at);

    /// <summary>A question of a policy, where names of questions end in their mark: <c>policy(hive).update?</c>.</summary>
    private static bool IsAskedOfPolicy(CheckContext context, IrFunction function, int call) =>
        function.Instructions[call] is { Op: Opcode.CallMethod, Text: [.., '?'], A: >= 0 and var asked } && function.Instructions[asked].Op is Opcode.Call or Opcode.CallMethod or Opcode.New
        && (context.Words.Authorizes(CalledName(function, asked)) || (function.Instructions[asked] is { Op: Opcode.CallMethod, Text: "new", A: >= 0 and var made } && context.Words.Authorizes(IdentifierClassifier.Parts(IrClass.ShortOf(function.Instructions[made].Text ?? "")).LastOrDefault(""))));

    /// <summary>The function gives back a refusal that it makes, or nothing: its caller would have to raise or to answer it, for it does not stop by itself.</summary>
    private static bool GivesRefusal(CheckContext context, IrFunction function)
    {
        var (refuses, passes) = (false, false);
        foreach (var block in function.Blocks.Where(b => b.IsReachable))
        {
            if (block.NeverContinues || block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit))
            {
                return false;
            }

            if (block.Successors.Count > 0)
            {
                continue;
            }

            var given = block.Instructions.Where(i => function.Instructions[i].Op == Opcode.Return).Select(i => function.Instructions[i].A).FirstOrDefault(-1);
            if (given < 0 || function.Instructions[given].Op is Opcode.Undefined or Opcode.Constant)
            {
                passes = true;
            }
            else if (IsRefusal(context, function, given))
            {
                refuses = true;
            }
            else
            {
                return false;
            }
        }

        return refuses && passes;
    }

    private static bool IsRefusal(CheckContext context, IrFunction function, int given) =>
        function.Instructions[given].Op is Opcode.New or Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && CalledName(function, given) is var made
        && (context.Words.NamesRefusal(made) || (LanguageSemantics.For(function.File.Source.Language).AnswersAreReturned && context.Words.MakesRefusingResponse(made)));

    internal static string CalledName(IrFunction function, int call)
    {
        ref readonly var instruction = ref function.Instructions[call];
        return IrClass.ShortOf((instruction.Op is Opcode.Call or Opcode.New ? function.Instructions[instruction.A].Text ?? function.Names.GetValueOrDefault(instruction.A) : instruction.Text) ?? "");
    }

    private static string? OfLibrary(CheckContext context, IrFunction function, int call)
    {
        var name = CalledName(function, call);
        return context.Words.AnswersRights(name) ? "is called for its result, which is ignored"
            : context.Words.NamesRefusal(name) ? "is created but not raised"
            : LanguageSemantics.For(function.File.Source.Language).AnswersAreReturned && context.Words.MakesRefusingResponse(name) ? "builds a response that is not returned"
            : null;
    }
}
