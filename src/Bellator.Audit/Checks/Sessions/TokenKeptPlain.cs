namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token that opens accounts for long is kept as it is sent.</summary>
public sealed class TokenKeptPlain : Check
{
    public override string Id => "sessions/token-kept-plain";

    public override string Title => "Long-lived token stored in plain text";

    public override IReadOnlyList<int> Cwes => [522, 312, 256];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever reads the table, by an injection, a backup or a replica, can send what is in it and is signed in as everyone who has a token there.";

    public override string FalsePositiveIf => "The tokens are used up within minutes, or what is kept is not what is sent.";

    public override string HowToFix(string language) => "Keep the SHA-256 digest of the token, and look it up by the digest of what is sent: a random token of 128 bits or more needs no slow hash.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var kept in CredentialChecks.Of(context).All)
        {
            if (kept.IsPlain && context.Words.IsSecretToken(kept.Column))
            {
                yield return new Finding
                {
                    Check = this,
                    At = kept.Issued.Count > 0 ? kept.Issued[0] : kept.Lookups[0].At,
                    Related = [kept.Lookups[0].At],
                    Certainty = CheckContext.CertaintyOf(kept.Lookups[0].Sent, false),
                    Message = $"“{kept.Carrier}” is looked up in {kept.Table}.{kept.Column} exactly as it is sent, so the table holds tokens that open accounts.",
                    Steps = CheckContext.Steps(kept.Lookups[0].Sent, kept.Lookups[0].At, "looked up"),
                    Subject = kept.Table,
                };
            }
        }
    }
}
