using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Token for a new password is kept as it was sent.</summary>
public sealed class ResetTokenKeptPlain : StepCheck
{
    public override string Id => "passwords/reset-token-kept-plain";

    public override string Title => "Reset token is stored in plain text";

    public override IReadOnlyList<int> Cwes => [522];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:H/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever reads the table, a backup or a log of statements can use every token in it: it is as good as a password while it lasts.";

    public override string FalsePositiveIf => "What is kept is already a hash that was made elsewhere.";

    public override string HowToFix(string language) => "Keep SHA-256 of the token (it is random, so a fast hash is enough), and look for the hash of what comes back.";

    protected override JourneyKind Journey => JourneyKind.Recover;

    protected override string Step => "kept";

    protected override string Message(Journey journey, JourneyStep step) => $"The token is kept {step.Text}.";

    /// <summary>A token of few bits is found by its hash as well: the first weakness to mend is another one.</summary>
    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) => step.Evidence.Count > 0;
}
