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
            var isSecret = sent is not null && (Sent(left) is not null ? IsSecret(context, sent, right, comparison, "rightName") : IsSecret(context, sent, left, comparison, "leftName"));
            var shown = isSecret ? sent : HeldAgainstMac(left, right) ?? HeldAgainstMac(right, left);
            if (shown is null)
            {
                continue;
            }

            var converts = comparison.Role("sign").Constant is "==" or "!=" && LanguageSemantics.For(context.Program.Files[comparison.At.File].Source.Language).LooseEquality;
            yield return new Finding
            {
                Check = this,
                At = comparison.At,
                Certainty = shown.IsSent ? CheckContext.CertaintyOf(shown, false) : Certainty.Matched,
                Message = $"{Capital(CheckContext.Describe(shown.Origin))} is compared with {(isSecret ? "the secret" : "the expected digest")} by an ordinary comparison, whose duration reveals how much of it was right{(converts ? ", and which converts types first" : "")}.",
                Steps = CheckContext.Steps(shown, comparison, "compared"),
                Subject = shown.Origin.Name ?? "",
            };
        }
    }

    /// <summary>
    /// What came in, where it is held against a digest that only who has the key can make: of anything, or, where it is not known to be a key
    /// that was mixed in, of another part of the same thing. Two digests may be compared in any way, since nobody can choose them; what was
    /// read from a record was found by something else before.
    /// </summary>
    private static Taint? HeldAgainstMac(AbstractValue value, AbstractValue digest) => value.Constant is not null ? null : value.Taints.FirstOrDefault(t =>
        t is { Key: DigestKey.None, Guessed: false, Selects: false, Transform: PasswordTransform.Plain or PasswordTransform.Encoded, Origin.Kind: OriginKind.Request or OriginKind.Parameter }
        && digest.Taints.Any(d => d.Transform == PasswordTransform.FastHash && (d.Key == DigestKey.Keyed || (d.Key == DigestKey.Mixed && d.Origin.IsSameValue(t.Origin)))));

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
