using System.Globalization;
using Bellator.Analysis.Queries;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Code that derives keys from passwords does it with few rounds where its caller says nothing else.</summary>
public sealed class LowDefaultWorkFactor : Check
{
    /// <summary>
    /// Fewer rounds than this are reported. The OWASP Password Storage Cheat Sheet asks for 210 000 of PBKDF2 with SHA-512, the fewest that it
    /// accepts (the number is from memory); half of that is no matter of opinion any more.
    /// </summary>
    private const int FewRounds = 100_000;

    public override string Id => "passwords/low-default-work-factor";

    public override string Title => "Key derivation with a low default work factor";

    public override IReadOnlyList<int> Cwes => [916, 1188];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:N/A:N";

    public override string Why =>
        "Most callers rely on defaults. With few iterations, a key derived from a password can be guessed almost as fast as a plain hash of it.";

    public override string FalsePositiveIf => "The input is a random key and no password, or every caller states its own number.";

    public override string HowToFix(string language) => "Raise the default to a published minimum (PBKDF2: 600 000 rounds of SHA-256, 210 000 of SHA-512), or have no default, so that callers must choose.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var found in context.Functions.SelectMany(f => WorkFactorDefaults.In(f, context.Words)).Where(f => f.Rounds < FewRounds))
        {
            yield return new Finding
            {
                Check = this,
                At = found.At,
                Certainty = Certainty.Matched,
                Message = $"The key derivation defaults to “{found.Name}” = {found.Rounds.ToString("N0", CultureInfo.InvariantCulture).Replace(",", " ", StringComparison.Ordinal)}{(found.Hash is null ? "" : $", with {found.Hash}")}.",
                Subject = found.Name,
            };
        }
    }
}
