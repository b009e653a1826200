using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Two passwords, or what was made of them, are compared by an operator that takes texts for numbers.</summary>
public sealed class CompareLoose : Check
{
    public override string Id => "passwords/compare-loose";

    public override string Title => "Loose comparison of passwords";

    public override IReadOnlyList<int> Cwes => [697, 1024];

    public override IReadOnlyList<string> Asvs => ["V11.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "“==” compares two numeric-looking strings as numbers: “1e3” equals “1000”, and digests that begin with 0e and digits all equal each other.";

    public override string FalsePositiveIf => "Both come from one form, to catch typing errors.";

    public override string HowToFix(string language) => "Use password_verify() against the stored hash, hash_equals() for digests and tokens, and === for everything else.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var comparison in context.EventsOf(EventKind.Compare).Where(c => c is { Fact: null, Depth: 0 } && c.Role("sign").Constant is "==" or "!=" && LanguageSemantics.For(context.Program.Files[c.At.File].Source.Language).ComparesTextAsNumbers))
        {
            var (left, right) = (NameOf(comparison.Role("left"), comparison.Role("leftName")), NameOf(comparison.Role("right"), comparison.Role("rightName")));
            if (IsPassword(context, left) && IsPassword(context, right) && left != right && comparison.Role("left").Constant is null && comparison.Role("right").Constant is null && !BothSent(comparison))
            {
                yield return new Finding
                {
                    Check = this,
                    At = comparison.At,
                    Certainty = Certainty.Matched,
                    Message = $"“{left}” and “{right}” are compared with a loose operator, which treats numeric-looking strings as numbers.",
                    Subject = left,
                };
            }
        }
    }

    private static string NameOf(AbstractValue value, AbstractValue name) => (name.Constant ?? value.Name ?? value.Taints.FirstOrDefault()?.Origin.Name ?? "").TrimStart('$');

    /// <summary>The second field of a form is there to catch slips.</summary>
    private static bool IsPassword(CheckContext context, string name) => (context.Words.IsPassword(name) || context.Words.IsPasswordColumn(name)) && !context.Words.TypedAgain(name) && !char.IsAsciiDigit(name[^1]);

    private static bool BothSent(AnalysisEvent comparison) => comparison.Role("left").Taints.Any(t => t.IsSent) && comparison.Role("right").Taints.Any(t => t.IsSent);
}
