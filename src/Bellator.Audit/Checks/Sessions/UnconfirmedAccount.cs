using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>An account works before its address is confirmed.</summary>
public sealed class UnconfirmedAccount : StepCheck
{
    public override string Id => "sessions/unconfirmed-account";

    public override string Title => "Account usable before its address is confirmed";

    public override IReadOnlyList<int> Cwes => [287];

    public override IReadOnlyList<string> Asvs => ["V6.3.5"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:N/I:L/A:N";

    public override string Why => "Accounts can be made in the name of somebody else’s address: their later sign-up, invitations to them and rights by domain go to the wrong person.";

    public override string FalsePositiveIf => "The address is never used for anything but signing in, or is confirmed by a step that was not read.";

    public override string HowToFix(string language) => "Send a link with a random token that ends after a day, and let the account do nothing until it was followed.";

    protected override JourneyKind Journey => JourneyKind.Register;

    protected override string Step => "confirmed";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: there are means to confirm addresses, and neither this way in nor signing in uses them.";

    /// <summary>Many applications confirm nothing on purpose; one that has the means to, and does not use them here, has switched it off or forgot it.</summary>
    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) =>
        (context.Accounts.Accounts.Tables.Exists(t => t.Columns.Exists(c => context.Words.TellsOfConfirmed(c.Name)))
            || context.Functions.Any(f => context.Words.TellsOfConfirmed(f.Name)))
        && context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).All(j => j.Step("status checked") is not { State: StepState.Shown });
}
