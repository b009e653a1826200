using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>The check against forged requests is switched off.</summary>
public sealed class Forgery : SwitchCheck
{
    public override string Id => "sessions/forgery";

    public override string Title => "CSRF protection disabled";

    public override IReadOnlyList<int> Cwes => [352];

    public override IReadOnlyList<string> Asvs => ["V3.5.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:U/C:N/I:H/A:N";

    public override string Why => "A form or picture on another site makes the browser send the request with the visitor’s own cookie; without a token that the other site cannot know, the application takes it for the visitor’s wish.";

    public override string FalsePositiveIf => "Nobody is recognised by a cookie here: the request carries a token or key in a header.";

    public override string HowToFix(string language) => "Leave the protection on; exempt only endpoints that are called with a key in a header and never with the session cookie.";

    protected override string Kind => "forgery-off";

    protected override string Message(AnalysisEvent happening) => "The framework’s CSRF protection is disabled here.";
}
