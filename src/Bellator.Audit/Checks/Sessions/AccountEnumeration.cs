using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Signing in answers otherwise where there is no such account than where the password is wrong.</summary>
public sealed class AccountEnumeration : Check
{
    public override string Id => "sessions/account-enumeration";

    public override string Title => "User enumeration at sign-in";

    public override IReadOnlyList<int> Cwes => [204];

    public override IReadOnlyList<string> Asvs => ["V6.3.8"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "Whoever tries names learns which of them have an account: a list to guess passwords for, to send forged mail to, and in some services a secret by itself.";

    public override string FalsePositiveIf => "The names of all accounts are public anyway, or the two answers are made the same further on.";

    public override string HowToFix(string language) => "Give one answer for both, with the same status, text and way back; verify against a made-up hash where there is no such account, so that the time is the same too.";

    public override IEnumerable<Finding> Run(CheckContext context) => ByWords(context).Concat(ByTime(context));

    private IEnumerable<Finding> ByWords(CheckContext context)
    {
        foreach (var function in context.Functions)
        {
            if (SignInAnswers.In(function, context.Words) is { Differ: true } answers && IsSignIn(context, function))
            {
                yield return new Finding
                {
                    Check = this,
                    At = answers.MissingAt,
                    Certainty = Certainty.Matched,
                    Message = $"Where there is no such account the answer is {Quote(answers.Missing)}, where the password is wrong {Quote(answers.Wrong)}.",
                    Steps = [new FindingStep(StepKind.Checked, answers.MissingAt, "no such account"), new FindingStep(StepKind.Checked, answers.WrongAt, "wrong password")],
                    Related = [answers.WrongAt],
                };
            }
        }
    }

    /// <summary>
    /// An address that leaves before any hash is computed where there is no such account, while another of the application computes one for
    /// accounts that are not there: the time of the answer tells.
    /// </summary>
    private IEnumerable<Finding> ByTime(CheckContext context)
    {
        var early = new List<(IrFunction Function, int Condition)>();
        var even = new Dictionary<string, IrFunction>(StringComparer.Ordinal);
        foreach (var function in context.Functions.Where(f => f.Class is null || !f.IsTopLevel))
        {
            var calls = VerifyingCalls(context, function);
            if (calls.Count == 0)
            {
                continue;
            }

            if (UnverifiedExits.Before(function, calls).Select(c => (int?)c).FirstOrDefault() is { } condition)
            {
                early.Add((function, condition));
            }
            else if (context.Accounts.Surface.HandledAround(function).Any(h => h.SignIn == SignInNeed.NotNeeded))
            {
                even.TryAdd(Languages.Family(function.File.Source.Language), function);
            }
        }

        foreach (var (function, condition) in early.Where(e => context.Accounts.Surface.HandledAround(e.Function).Any(h => h.SignIn != SignInNeed.Needed)))
        {
            if (!even.TryGetValue(Languages.Family(function.File.Source.Language), out var other))
            {
                continue;
            }

            var at = function.LocationOf(condition);
            yield return new Finding
            {
                Check = this,
                At = at,
                Certainty = Certainty.Traced,
                Message = $"For an unknown account the answer comes before any hash is computed, unlike at {context.Accounts.Surface.HandledAround(other).First().Address}: its time tells who has an account.",
                Related = [new Location(other.File.Index, other.Span.Start, other.Span.Start)],
                Subject = "time",
            };
        }
    }

    /// <summary>The calls of a function that verify a password, or come to where that is done.</summary>
    private static List<int> VerifyingCalls(CheckContext context, IrFunction function)
    {
        var summary = context.Flow.SummaryOf(function);
        var verified = summary.Events.Where(e => e.Kind == EventKind.Verify).ToList();
        return verified.Count == 0 ? [] :
        [
            .. function.OutgoingCalls.Where(i => verified.Exists(v => v.Depth == 0 && v.At == function.LocationOf(i))),
            .. summary.Calls.Where(c => (uint)c.Instruction < (uint)function.BlockOf.Length && verified.Exists(v => v.Depth > 0 && context.Accounts.Surface.Reach.From(c.Target).Contains(v.Function))).Select(c => c.Instruction),
        ];
    }

    /// <summary>The function signs people in, or it, its file or the route it is given to is named for signing in.</summary>
    private static bool IsSignIn(CheckContext context, IrFunction function)
    {
        if (context.Journeys.Any(j => j.Kind == JourneyKind.SignIn && j.Entries.Any(e => e.Handler == function)) || context.Words.IsSignIn(function.Name) || context.Words.IsSignIn(function.File.Source.Path[(function.File.Source.Path.LastIndexOf('/') + 1)..]))
        {
            return true;
        }

        // A handler without a name stands beside its route.
        if (function.Outer is not { } outer)
        {
            return false;
        }

        var position = function.File.Functions.IndexOf(function);
        foreach (var call in outer.Instructions.Where(i => i.Op is Opcode.Call or Opcode.CallMethod))
        {
            var operands = outer.List(call).ToArray();
            if (operands.Any(o => outer.Instructions[o.Value] is { Op: Opcode.Function } handler && handler.A == position)
                && operands.Any(o => outer.Instructions[o.Value] is { Op: Opcode.Constant, Text: { } route } && context.Words.IsSignIn(route)))
            {
                return true;
            }
        }

        return false;
    }

    private static string Quote(IEnumerable<string> said) => string.Join(" and ", said.Take(2).Select(s => $"“{(s.Length > 60 ? s[..60] + "…" : s)}”")) is { Length: > 0 } text ? text : "another one";
}
