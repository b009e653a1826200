using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Queries;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A secret that nobody set up equals one that nobody sent.</summary>
public sealed class MissingSecretAccepted : Check
{
    public override string Id => "sessions/missing-secret-accepted";

    public override string Title => "Missing secret equals a missing header";

    public override IReadOnlyList<int> Cwes => [287, 697];

    public override IReadOnlyList<string> Asvs => ["V13.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Where the setting was forgotten, the program compares nothing with nothing, and everybody who sends no key at all passes.";

    public override string FalsePositiveIf => "The program refuses to start without the setting, in code that was not read.";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Read the setting with os.environ[\"KEY\"], which fails where there is none, refuse empty values, and compare with hmac.compare_digest.",
        "ruby" => "Read the setting with ENV.fetch(\"KEY\"), refuse blank values, and compare with ActiveSupport::SecurityUtils.secure_compare.",
        _ => "Refuse to start without the setting, refuse a request without the value, and compare in constant time.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        HashSet<string>? asked = null;
        foreach (var comparison in context.EventsOf(EventKind.Compare).Where(c => c.Fact is null && c.Depth == 0))
        {
            var (left, right) = (comparison.Role("left"), comparison.Role("right"));
            var (sent, setting, name, sentName) = Sent(left) is not null ? (left, right, comparison.Role("rightName").Constant, comparison.Role("leftName").Constant) : (right, left, comparison.Role("leftName").Constant, comparison.Role("rightName").Constant);
            if (Sent(sent) is not { } taint || MadeText.IsIn(comparison.Function, comparison.At, context.Words) || setting is not { IsConfiguration: true, Fallback: null, Constant: null } || !setting.Types.Contains(AbstractValue.MayBeMissing) || !(context.Words.NamesKey(setting.Name ?? "") || context.Words.NamesKey(name ?? "")))
            {
                continue;
            }

            // Whoever asks for the setting anywhere may have seen to it that it is there.
            asked ??= context.Functions.SelectMany(AskedNames.In).ToHashSet(StringComparer.Ordinal);
            var here = AskedNames.In(comparison.Function).ToHashSet(StringComparer.OrdinalIgnoreCase);
            if ((setting.Name is { Length: > 0 } key && asked.Contains(key)) || (name is not null && here.Contains(name)) || (sentName is not null && here.Contains(sentName)) || here.Contains(taint.Origin.Name ?? ""))
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = comparison.At,
                Certainty = CheckContext.CertaintyOf(taint, false),
                Message = $"If the setting “{(setting.Name is { Length: > 0 } set ? set : name)}” is missing, a request without {CheckContext.Describe(taint.Origin)} passes: both sides of the comparison are empty.",
                Steps = CheckContext.Steps(taint, comparison, "compared"),
                Subject = setting.Name ?? name ?? "",
            };
        }
    }

    private static Taint? Sent(AbstractValue value) => value.Taints.FirstOrDefault(t => t is { IsSent: true, Guessed: false, Altered: false } && t.Origin.Part is not "path");
}
