using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token is kept in web storage.</summary>
public sealed class TokenInWebStorage : CredentialSwitchCheck
{
    public override string Id => "sessions/token-in-web-storage";

    public override string Title => "Token kept in web storage";

    public override IReadOnlyList<int> Cwes => [922, 312];

    public override IReadOnlyList<string> Asvs => ["V14.3.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:H/I:L/A:N";

    public override string Why => "Every script of the page reads web storage, and it outlives the sign-out if nothing clears it: one cross-site scripting flaw hands out the tokens of all who see the page.";

    public override string FalsePositiveIf => "What is kept opens nothing, or ends within minutes and is bound to a key that stays in the browser.";

    public override string HowToFix(string language) => "Carry the token in a cookie with HttpOnly, Secure and SameSite, or keep it in memory only.";

    protected override string Kind => "token-in-web-storage";

    protected override string Message(AnalysisEvent happening) => NameOf(happening) is { Length: > 0 } name ? $"“{name}” is kept in web storage, where any script of the page can read it." : "A token is kept in web storage, where any script of the page can read it.";
}
