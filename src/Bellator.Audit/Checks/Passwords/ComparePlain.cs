using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Sql;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A typed password is compared with the stored one as plain text.</summary>
public sealed class ComparePlain : Check
{
    public override string Id => "passwords/compare-plain";

    public override string Title => "Password is compared in plain text";

    public override IReadOnlyList<int> Cwes => [256];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:H/UI:N/S:C/C:H/I:L/A:N";

    public override string Why => "A comparison with the typed text can only succeed if the stored password is plain text too.";

    public override string FalsePositiveIf => "The stored side is not a password of a person, or was hashed before by a function that was not recognised.";

    public override string HowToFix(string language) => PasswordAdvice.Hash(language);

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var comparison in context.EventsOf(EventKind.Compare))
        {
            var (left, right) = (comparison.Role("left"), comparison.Role("right"));
            if (Typed(context, left) is { } fromLeft && IsKept(context, right))
            {
                yield return Found(comparison, fromLeft, right);
            }
            else if (Typed(context, right) is { } fromRight && IsKept(context, left))
            {
                yield return Found(comparison, fromRight, left);
            }
        }

        foreach (var use in Statements.Uses(context))
        {
            if (use.Slot.Clause == SqlClause.Where && use.Slot.Function is null && context.Words.IsPasswordColumn(use.Slot.Column)
                && context.Passwords(use.Taints).FirstOrDefault(t => t.Transform == PasswordTransform.Plain) is { } typed)
            {
                yield return new Finding
                {
                    Check = this,
                    At = use.Event.Place,
                    Certainty = CheckContext.CertaintyOf(typed, use.Event.Guessed),
                    Message = $"The statement looks for the typed password ({CheckContext.Describe(typed.Origin)}) in the column “{use.Slot.Column}”.",
                    Steps = CheckContext.Steps(typed, use.Event, "compared by the database"),
                    Subject = use.Slot.Column ?? "",
                };
            }
        }
    }

    private static Taint? Typed(CheckContext context, AbstractValue value) =>
        value.Text is null ? context.Passwords(value).FirstOrDefault(t => t.Transform == PasswordTransform.Plain && t.Origin.Kind == OriginKind.Request) : null;

    /// <summary>The other side is a password from the database, not the second field of a form.</summary>
    private static bool IsKept(CheckContext context, AbstractValue value) =>
        value.Constant is null && value.Text is null && !value.IsConfiguration
        && !value.Taints.Any(t => t.IsSent)
        && (context.Words.IsPasswordColumn(value.Name) || value.Taints.Any(t => t.Origin.Kind == OriginKind.Stored && context.Words.IsPasswordColumn(t.Origin.Name)));

    private Finding Found(AnalysisEvent comparison, Taint typed, AbstractValue kept) => new()
    {
        Check = this,
        At = comparison.At,
        Certainty = kept.Taints.Any(t => t.Origin.Kind == OriginKind.Stored) ? CheckContext.CertaintyOf(typed, false) : Certainty.Matched,
        Message = $"The typed password ({CheckContext.Describe(typed.Origin)}) is compared directly with the stored “{kept.Name}”.",
        Steps = CheckContext.Steps(typed, comparison, "compared with the stored password"),
        Subject = kept.Name ?? "",
    };
}
