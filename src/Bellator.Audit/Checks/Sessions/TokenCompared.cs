using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token or key that was sent is compared by an ordinary comparison.</summary>
public sealed class TokenCompared : Check
{
    public override string Id => "sessions/token-compare-timing";

    public override string Title => "Token comparison leaks timing";

    public override IReadOnlyList<int> Cwes => [208, 697];

    public override IReadOnlyList<string> Asvs => ["V11.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "An ordinary comparison stops at the first difference, so its duration reveals how much was right; one that converts types treats a missing value, or two strings that look like numbers, as equal.";

    public override string FalsePositiveIf => "What is compared is looked up by its digest before, or is no secret.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Use hash_equals() on two texts, after both are known to be texts and not empty.",
        "javascript" => "Use crypto.timingSafeEqual on two buffers of one length.",
        "python" => "Use hmac.compare_digest() or secrets.compare_digest().",
        "ruby" => "Use ActiveSupport::SecurityUtils.secure_compare.",
        "csharp" => "Use CryptographicOperations.FixedTimeEquals.",
        _ => "Use a comparison made for secrets.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var comparison in context.EventsOf(EventKind.Compare).Where(c => c.Fact is null && c.Depth == 0))
        {
            var (left, right) = (comparison.Role("left"), comparison.Role("right"));
            var sent = Sent(left) ?? Sent(right);
            if (sent is null || !(Sent(left) is not null ? IsSecret(context, sent, right, comparison, "rightName") : IsSecret(context, sent, left, comparison, "leftName")))
            {
                continue;
            }

            var converts = comparison.Role("sign").Constant is "==" or "!=" && LanguageSemantics.For(context.Program.Files[comparison.At.File].Source.Language).LooseEquality;
            yield return new Finding
            {
                Check = this,
                At = comparison.At,
                Certainty = CheckContext.CertaintyOf(sent, false),
                Message = $"{Capital(CheckContext.Describe(sent.Origin))} is compared with the secret by an ordinary comparison, whose duration reveals how much of it was right{(converts ? ", and which converts types first" : "")}.",
                Steps = CheckContext.Steps(sent, comparison, "compared"),
                Subject = sent.Origin.Name ?? "",
            };
        }
    }

    private static string Capital(string text) => char.ToUpperInvariant(text[0]) + text[1..];

    private static Taint? Sent(AbstractValue value) => value.Taints.FirstOrDefault(t => t.IsSent && !t.Guessed);

    /// <summary>A kept token, a key from the settings, or the digest by which a message is told to be genuine: not what was sent, and no text that everybody knows.</summary>
    private static bool IsSecret(CheckContext context, Taint sent, AbstractValue value, AnalysisEvent comparison, string name)
    {
        if (value.Constant is not null)
        {
            return false;
        }

        if (context.Words.NamesSignature(sent.Origin.Name ?? "") && value.Taints.Count > 0 && value.Taints.All(t => t.Transform == PasswordTransform.FastHash))
        {
            return true;
        }

        bool IsNamed(string? said) => said is { Length: > 0 } && (context.Words.IsSecretToken(said) || (value.IsConfiguration && context.Words.NamesKey(said)));
        return !value.Taints.Any(t => t.IsSent)
            && (value.Taints.Any(t => t.Origin.Kind == OriginKind.Stored && context.Words.IsSecretToken(t.Origin.Name ?? ""))
                || (value.Taints.Count == 0 && (IsNamed(value.Name) || (value.IsConfiguration && IsNamed(comparison.Role(name).Constant)))));
    }
}
