using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Token for a new password can be guessed.</summary>
public sealed class ResetTokenPredictable : StepCheck
{
    public override string Id => "passwords/reset-token-predictable";

    public override string Title => "Reset token is predictable";

    public override IReadOnlyList<int> Cwes => [640, 338, 330];

    public override IReadOnlyList<string> Asvs => ["V6.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:H/I:H/A:N";

    public override string Why => "Whoever guesses the token sets the password of an account, without ever having seen a message. Ordinary random numbers follow from a few earlier ones; the clock is known to everybody.";

    public override string FalsePositiveIf => "The value is not the token, or is only a part of it beside one that cannot be guessed.";

    public override string HowToFix(string language) => "Make it from at least 16 bytes of the system’s source for secrets: random_bytes, crypto.randomBytes, secrets.token_urlsafe, SecureRandom, RandomNumberGenerator.GetBytes.";

    protected override JourneyKind Journey => JourneyKind.Recover;

    protected override string Step => "token made";

    protected override string Message(Journey journey, JourneyStep step) => $"The token is made by {step.Text}. {step.Reason}";
}
