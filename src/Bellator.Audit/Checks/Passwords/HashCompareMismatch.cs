using Bellator.Analysis.Domain;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Signing in compares by a scheme that no way of setting a password uses.</summary>
public sealed class HashCompareMismatch : Check
{
    public override string Id => "passwords/hash-compare-mismatch";

    public override string Title => "Sign-in hashes differently from registration";

    public override IReadOnlyList<int> Cwes => [697];

    public override IReadOnlyList<string> Asvs => ["V11.4.2"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:N/I:L/A:L";

    public override string Why => "Either people cannot sign in, or there is a second store of passwords beside the one that was meant, with its own weaker hashes.";

    public override string FalsePositiveIf => "The way in belongs to other accounts, whose passwords are set by something that was not read.";

    public override string HowToFix(string language) => "Verify with the same function that set the password; take the old way in, and its column, away.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var journey in context.Journeys.Where(j => j.Kind == JourneyKind.SignIn && j.Step("compared") is { State: StepState.Absent } step && step.Text.Contains(SignInSteps.NotAsRegistered, StringComparison.Ordinal)))
        {
            var step = journey.Step("compared")!;
            yield return new Finding
            {
                Check = this,
                At = step.Evidence.Count > 0 ? step.Evidence[0].At : journey.At,
                Certainty = Certainty.Matched,
                Message = $"{journey.Address} compares by {step.Text[..step.Text.IndexOf(',', StringComparison.Ordinal)]}; {step.Reason[(step.Reason.IndexOf("Registering", StringComparison.Ordinal))..]}",
                Steps = [.. step.Evidence.Select(e => new FindingStep(StepKind.Checked, e.At, e.Note))],
                Related = [journey.At],
                Subject = journey.Address,
            };
        }
    }
}
