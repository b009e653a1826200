using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
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
        foreach (var function in context.Access.Entries.SelectMany(e => context.Accounts.Surface.OwnReach(e.Entry.Handler!)).Distinct())
        {
            foreach (var call in UnusedResults.Of(function))
            {
                var at = function.LocationOf(call);
                var targets = context.Flow.SummaryOf(function).Calls.Where(c => c.Instruction == call).Select(c => c.Target).ToList();
                var said = targets.Count > 0 ? context.Words.AsksForRights(CalledName(function, call)) && targets.TrueForAll(t => Answers(context, t)) ? "is called for its result, which is ignored" : null : OfLibrary(context, function, call);
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

    /// <summary>The function does nothing but say whether: it holds something against the person, gives the result back, and neither stops nor changes anything.</summary>
    private static bool Answers(CheckContext context, IrFunction function)
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

        var decides = false;
        foreach (var happening in reach.SelectMany(f => context.Flow.SummaryOf(f).Events))
        {
            if (context.Accounts.Surface.AccessesOf(happening).Any(a => a.Action is RecordAction.Create or RecordAction.Edit or RecordAction.Delete))
            {
                return false;
            }

            decides |= happening is { Kind: EventKind.Decision, Guessed: false } || context.Accounts.Surface.AccessesOf(happening).Any(a => RowTerms.Of(happening, a).OfSubject && context.Words.Authorizes(function.Name));
        }

        return decides;
    }

    private static string CalledName(IrFunction function, int call)
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
