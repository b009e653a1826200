using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A cookie that carries a credential is sent over plain HTTP too.</summary>
public sealed class CookieNotSecure : CredentialSwitchCheck
{
    public override string Id => "sessions/cookie-not-secure";

    public override string Title => "Credential cookie without Secure";

    public override IReadOnlyList<int> Cwes => [614];

    public override IReadOnlyList<string> Asvs => ["V3.3.1"];

    public override string Vector => "CVSS:3.1/AV:A/AC:H/PR:N/UI:R/S:U/C:H/I:L/A:N";

    public override string Why => "Without the attribute Secure (RFC 6265bis, 4.1.2.5) the browser also sends the cookie with a request over plain HTTP, where anybody on the way reads it.";

    public override string FalsePositiveIf => "A proxy in front adds the attribute, or the value is set for development only.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Set secure: true in the cookie’s options (behind a proxy also app.set('trust proxy', 1)).",
        "php" => "Pass ['secure' => true, 'httponly' => true, 'samesite' => 'Lax'] as options, or set session.cookie_secure.",
        "python" => "Pass secure=True, or set SESSION_COOKIE_SECURE = True.",
        "ruby" => "Pass secure: true, or force TLS with config.force_ssl.",
        "csharp" => "Set CookieOptions.Secure = true, or Cookie.SecurePolicy = CookieSecurePolicy.Always.",
        _ => "Set the attribute Secure.",
    };

    protected override string Kind => "cookie-not-secure";

    protected override string Message(AnalysisEvent happening) => $"{CookieOf(happening)} is set without the attribute Secure, so that it is also sent over plain HTTP.";

    protected override string LeftOut(string of, string setting) => $"{of} is sent over plain HTTP too: {setting} is left at its default.";
}
