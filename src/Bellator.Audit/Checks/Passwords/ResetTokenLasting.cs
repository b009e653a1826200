using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Token for a new password does not end.</summary>
public sealed class ResetTokenLasting : StepCheck
{
    public override string Id => "passwords/reset-token-lasting";

    public override string Title => "Reset token does not expire";

    public override IReadOnlyList<int> Cwes => [613];

    public override IReadOnlyList<string> Asvs => ["V6.4.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "Old messages, logs and histories of browsers stay full of keys that still fit.";

    public override string FalsePositiveIf => "A task elsewhere takes old tokens away, or the time is part of the token.";

    public override string HowToFix(string language) => "Keep a time with the token, an hour ahead at most, and refuse it afterwards; take it away when it is used.";

    protected override JourneyKind Journey => JourneyKind.Recover;

    protected override string Step => "ends";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: no time was found after which the token is worth nothing.";

    /// <summary>Only where the token itself was seen: otherwise its end may stand where it was not read.</summary>
    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) =>
        journey.Step("token made") is { State: not StepState.Unclear } || journey.Step("kept") is { State: StepState.Shown or StepState.Absent };
}
