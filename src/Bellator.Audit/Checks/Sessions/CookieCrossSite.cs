using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A cookie that carries a credential is sent with requests from other sites.</summary>
public sealed class CookieCrossSite : CredentialSwitchCheck
{
    public override string Id => "sessions/cookie-cross-site";

    public override string Title => "Credential cookie with SameSite=None";

    public override IReadOnlyList<int> Cwes => [1275];

    public override IReadOnlyList<string> Asvs => ["V3.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:N/I:L/A:N";

    public override string Why => "With SameSite=None (RFC 6265bis, 4.1.2.7) the browser sends the cookie with every request that another site makes; a forged form or picture acts in the name of whoever is signed in.";

    public override string FalsePositiveIf => "The application is meant to be framed or called from other sites, and every change asks for a token against forgery.";

    public override string HowToFix(string language) => "Set SameSite to Lax, or to Strict where nobody comes in by a link.";

    protected override string Kind => "cookie-cross-site";

    protected override string Message(AnalysisEvent happening) => $"{CookieOf(happening)} is set with SameSite=None, so that requests from other sites carry it.";

    protected override string LeftOut(string of, string setting) => $"{of} goes along with requests from other sites: {setting} is left at its default, without SameSite.";
}
