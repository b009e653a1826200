namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token that opens accounts is taken from the address, too.</summary>
public sealed class TokenInUrl : Check
{
    public override string Id => "sessions/token-in-url";

    public override string Title => "Token is accepted in the URL";

    public override IReadOnlyList<int> Cwes => [598];

    public override IReadOnlyList<string> Asvs => ["V14.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "Addresses stand in access logs, browser histories, bookmarks and Referer headers, and are shared by people: whoever finds one there is signed in.";

    public override string FalsePositiveIf => "The token is of one use and a short life, such as that of a link in a mail.";

    public override string HowToFix(string language) => "Take the token from the Authorization header or a cookie only; where a client can send neither, issue a ticket of one use and a few seconds for the address.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var lookup in CredentialChecks.Of(context).All.SelectMany(k => k.Lookups).Where(l => l.InAddress is not null).DistinctBy(l => l.InAddress!.Origin))
        {
            yield return new Finding
            {
                Check = this,
                At = lookup.InAddress!.Trace.Steps().FirstOrDefault()?.At ?? lookup.At,
                Certainty = CheckContext.CertaintyOf(lookup.InAddress, false),
                Message = $"The token that comes in “{lookup.Sent.Origin.Name}” is taken from “{lookup.InAddress.Origin.Name}” in the address as well, where logs and histories keep it.",
                Steps = CheckContext.Steps(lookup.InAddress, lookup.At, "looked up"),
                Subject = lookup.InAddress.Origin.Name ?? "",
            };
        }
    }
}
