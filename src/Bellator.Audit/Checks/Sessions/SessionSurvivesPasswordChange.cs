using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Sessions outlive a new password.</summary>
public sealed class SessionSurvivesPasswordChange : StepCheck
{
    public override string Id => "sessions/session-survives-password-change";

    public override string Title => "Sessions survive a password change";

    public override IReadOnlyList<int> Cwes => [613];

    public override IReadOnlyList<string> Asvs => ["V7.4.3"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "A password is changed when somebody else may know it; whoever is signed in with the old one stays signed in.";

    public override string FalsePositiveIf => "Sessions carry a stamp that changes with the password, in code that was not read.";

    public override string HowToFix(string language) => "End the account’s other sessions and remembered tokens in the same transaction, or raise a stamp that every session is held against.";

    protected override JourneyKind Journey => JourneyKind.ChangePassword;

    protected override string Step => "sessions end";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: no code was found that ends the account’s other sessions and remembered tokens.";
}
