using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A cookie that carries a credential can be read by scripts.</summary>
public sealed class CookieReadable : CredentialSwitchCheck
{
    public override string Id => "sessions/cookie-readable";

    public override string Title => "Credential cookie without HttpOnly";

    public override IReadOnlyList<int> Cwes => [1004];

    public override IReadOnlyList<string> Asvs => ["V3.3.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:H/I:L/A:N";

    public override string Why => "Without the attribute HttpOnly (RFC 6265bis, 4.1.2.6) every script of the page reads the cookie: one cross-site scripting flaw hands out the sessions of all who see the page.";

    public override string FalsePositiveIf => "A script of the application has to read the value, and it opens nothing by itself.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Set httpOnly: true in the cookie’s options.",
        "php" => "Pass 'httponly' => true, or set session.cookie_httponly.",
        "python" => "Pass httponly=True; leave SESSION_COOKIE_HTTPONLY on.",
        "ruby" => "Pass httponly: true.",
        "csharp" => "Set CookieOptions.HttpOnly = true.",
        _ => "Set the attribute HttpOnly.",
    };

    protected override string Kind => "cookie-readable";

    protected override string Message(AnalysisEvent happening) => $"{CookieOf(happening)} is set without the attribute HttpOnly, so that any script of the page can read it.";

    protected override string LeftOut(string of, string setting) => $"{of} can be read by scripts: {setting} is left at its default.";
}
