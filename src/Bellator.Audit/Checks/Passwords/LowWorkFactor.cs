using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Accounts;
using Bellator.Passwords;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>
/// A password hash is cheaper than the published minimum of the OWASP Password Storage Cheat Sheet, as <see cref="HashRating"/> has it.
/// </summary>
public sealed class LowWorkFactor : Check
{
    public override string Id => "passwords/low-work-factor";

    public override string Title => "Password hash with a low work factor";

    public override IReadOnlyList<int> Cwes => [916];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "The work factor is what makes each guess cost time. Below the published minimum a stolen table can be guessed through many times faster than intended; each step of bcrypt's cost doubles it.";

    public override string FalsePositiveIf => "The low value is only used in tests, or a setting raises it in production.";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Leave the cost out of password_hash() (its default is 10, 12 from PHP 8.4), or set ['cost' => 12]; PBKDF2 with SHA-256 needs 600 000 rounds.",
        _ => "Use a bcrypt cost of 12, at least 10; PBKDF2 with SHA-256 needs 600 000 rounds; scrypt N 131072; Argon2id 19 MiB and 2 passes.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var hash in context.EventsOf(EventKind.Hash))
        {
            var use = HashUse.Of(hash);
            var scheme = use.Scheme;
            if (use.Rating is not { Strength: Strength.BelowMinimum, IsOnlyVariant: false } rating)
            {
                continue;
            }

            // Key derivation is also used for other secrets; bcrypt and Argon2 are for passwords only.
            if (scheme is "pbkdf2" or "scrypt" && !context.Passwords(FieldAccess.DeepTaints(hash.Role("input"))).Any())
            {
                continue;
            }

            yield return new Finding
            {
                Check = this,
                At = hash.Place,
                Certainty = Certainty.Matched,
                Message = $"{use.Title} is used with {rating.Reason}",
                Subject = scheme,
            };
        }
    }
}
