using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Queries;
using Bellator.Syntax;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password stands in the code: to open the database, or to be compared with what a visitor types.</summary>
public sealed class HardCodedCredential : Check
{
    public override string Id => "passwords/hard-coded-credential";

    public override string Title => "Hard-coded credential";

    public override IReadOnlyList<int> Cwes => [798];

    public override IReadOnlyList<string> Asvs => ["V13.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Everybody with access to the code, its history or a backup knows the password, and it cannot be changed without a release.";

    public override string FalsePositiveIf => "It is a placeholder that is replaced at installation, or the code only runs in development.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Read it from the environment or from a file outside of the code and its history: getenv('DB_PASSWORD'). Change the password that stood here.",
        _ => "Read it from the environment: process.env.DB_PASSWORD. Change the password that stood here.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var connection in context.EventsOf(EventKind.Connect))
        {
            if (IsText(connection.Role("password")))
            {
                yield return new Finding
                {
                    Check = this,
                    At = connection.At,
                    Certainty = Certainty.Matched,
                    Message = connection.Role("user").Constant is { Length: > 0 } user
                        ? $"The password of the database user “{user}” stands in the code."
                        : "The password of the database stands in the code.",
                    Subject = "database",
                };
            }
        }

        // A field that is compared with several texts is a choice between options, not a password.
        var compared = Comparisons(context).ToList();
        foreach (var (comparison, password, text) in compared)
        {
            if (!compared.Exists(c => c.Text != text && c.Comparison.Function == comparison.Function && c.Password.Origin.IsSameValue(password.Origin)))
            {
                yield return new Finding
                {
                    Check = this,
                    At = comparison.At,
                    Certainty = CheckContext.CertaintyOf(password, false),
                    Message = "The typed password is compared with one that stands in the code.",
                    Steps = CheckContext.Steps(password, comparison, "compared with a fixed text"),
                    Subject = "compared",
                };
            }
        }
    }

    private static IEnumerable<(AnalysisEvent Comparison, Taint Password, string Text)> Comparisons(CheckContext context)
    {
        foreach (var comparison in context.EventsOf(EventKind.Compare))
        {
            var (left, right) = (comparison.Role("left"), comparison.Role("right"));
            var (typed, text) = IsText(right) ? (left, right.Constant!) : IsText(left) ? (right, left.Constant!) : (null, "");
            if (typed is { Text: null } && context.Passwords(typed).FirstOrDefault(t => t.Origin.Kind == OriginKind.Request && t.Transform == PasswordTransform.Plain) is { } password && !DefaultValues.IsDefault(comparison.Function, text))
            {
                yield return (comparison, password, text);
            }
        }
    }

    private static bool IsText(AbstractValue value) => value is { Constant.Length: > 0, ConstantKind: LiteralKind.Text, Taints.Count: 0, IsConfiguration: false };
}
