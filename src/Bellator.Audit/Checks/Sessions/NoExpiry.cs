using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>A token is issued without an end.</summary>
public sealed class NoExpiry : SwitchCheck
{
    public override string Id => "sessions/no-expiry";

    public override string Title => "Token without expiry";

    public override IReadOnlyList<int> Cwes => [613];

    public override IReadOnlyList<string> Asvs => ["V9.2.1", "V7.3.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "A token that never ends stays good in every log, backup and browser in which it was left, and only a new key for everybody revokes it.";

    public override string FalsePositiveIf => "The token is kept on the server, too, and is looked up and ended there.";

    public override string HowToFix(string language) => language switch
    {
        "javascript" => "Pass { expiresIn: '15m' } to sign, or put exp into the payload.",
        "python" => "Put exp into the payload: datetime.now(timezone.utc) + timedelta(minutes=15).",
        "ruby" => "Put exp into the payload.",
        "php" => "Put exp into the payload: time() + 900.",
        _ => "Give the token an expiry time.",
    };

    protected override string Kind => "token-no-expiry";

    protected override string Message(AnalysisEvent happening) => "The token is signed here without an expiry time: neither the options nor the payload sets one.";
}
