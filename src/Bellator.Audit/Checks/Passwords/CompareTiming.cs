using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>A hash made of the typed password is compared by an ordinary comparison.</summary>
public sealed class CompareTiming : Check
{
    public override string Id => "passwords/compare-timing";

    public override string Title => "Hash comparison leaks timing";

    public override IReadOnlyList<int> Cwes => [208, 697];

    public override IReadOnlyList<string> Asvs => ["V11.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "An ordinary comparison ends at the first difference, and in some languages takes two texts that look like numbers for equal ones.";

    public override string FalsePositiveIf => "The two sides are hashed once more with a random key before they are compared, or time cannot be measured from outside.";

    public override string HowToFix(string language) => language switch { "php" => "Use password_verify(), or hash_equals() for other digests.", "python" => "Use the library's check function, or hmac.compare_digest().", "ruby" => "Use has_secure_password, or ActiveSupport::SecurityUtils.secure_compare.", "csharp" => "Use CryptographicOperations.FixedTimeEquals.", _ => "Use bcrypt.compare, or crypto.timingSafeEqual." };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var comparison in context.EventsOf(EventKind.Compare).Where(c => c.Fact is null))
        {
            var (left, right) = (comparison.Role("left"), comparison.Role("right"));
            if ((Hashed(context, left) ?? Hashed(context, right)) is { } typed && (IsKept(context, left) || IsKept(context, right)))
            {
                yield return new Finding
                {
                    Check = this,
                    At = comparison.At,
                    Certainty = Certainty.Matched,
                    Message = "The hash of the typed password is compared with the stored one by a comparison that ends at the first difference.",
                    Steps = CheckContext.Steps(typed, comparison, "compared"),
                    Subject = typed.Origin.Name ?? "",
                };
            }
        }
    }

    private static Taint? Hashed(CheckContext context, AbstractValue value) =>
        value.Taints.FirstOrDefault(t => t.Transform is PasswordTransform.FastHash or PasswordTransform.SlowHash && t.Origin.Kind == OriginKind.Request && context.Words.IsPassword(t.Origin.Name));

    private static bool IsKept(CheckContext context, AbstractValue value) =>
        value.Taints.Any(t => t.Origin.Kind == OriginKind.Stored && context.Words.IsPasswordColumn(t.Origin.Name)) || (value.Taints.Count == 0 && value.Constant is null && context.Words.IsPasswordColumn(value.Name));
}
