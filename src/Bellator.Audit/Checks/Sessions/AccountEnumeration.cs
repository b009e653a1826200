using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Audit.Accounts;

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

    public override IEnumerable<Finding> Run(CheckContext context)
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
