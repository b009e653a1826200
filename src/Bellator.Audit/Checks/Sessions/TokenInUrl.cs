using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Text;

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
            yield return Found(lookup.InAddress!, lookup.At, "looked up", $"The token that comes in “{lookup.Sent.Origin.Name}” is taken from “{lookup.InAddress!.Origin.Name}” in the address as well, where logs and histories keep it.");
        }

        foreach (var (taint, at) in Verified(context).DistinctBy(v => v.Taint.Origin))
        {
            yield return Found(taint, at, "verified", $"The token that signs in is taken from “{taint.Origin.Name}” in the address, where logs and histories keep it.");
        }
    }

    private Finding Found(Taint taint, Location at, string does, string message) => new()
    {
        Check = this,
        At = taint.Trace.Steps().FirstOrDefault()?.At ?? at,
        Certainty = CheckContext.CertaintyOf(taint, false),
        Message = message,
        Steps = CheckContext.Steps(taint, at, does),
        Subject = taint.Origin.Name ?? "",
    };

    /// <summary>Signed tokens from the address: those that a scheme of sign-in is told to take, and those that are verified where tokens from headers or cookies are. A token of a link in a mail comes by its address alone.</summary>
    private static IEnumerable<(Taint Taint, Location At)> Verified(CheckContext context)
    {
        foreach (var same in context.EventsAt("token").GroupBy(e => e.At))
        {
            var sent = same.SelectMany(e => FieldAccess.DeepTaints(e.Role("value")).Where(t => t.IsSent).Select(t => (Taint: t, e.At, IsSetting: e.Fact?.Sinks.Exists(s => s.Kind == "signing-key") != true))).ToList();
            foreach (var (taint, at, isSetting) in sent.Where(s => s.Taint.Origin is { Part: "query", Name: not null }))
            {
                if (isSetting || sent.Exists(o => o.Taint.Origin.Part is "header" or "cookie"))
                {
                    yield return (taint, at);
                }
            }
        }
    }
}
