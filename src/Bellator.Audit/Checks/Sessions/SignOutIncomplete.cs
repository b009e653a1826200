using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Signing out leaves the credential good on the server.</summary>
public sealed class SignOutIncomplete : StepCheck
{
    public override string Id => "sessions/sign-out-incomplete";

    public override string Title => "Sign-out does not end the session";

    public override IReadOnlyList<int> Cwes => [613];

    public override IReadOnlyList<string> Asvs => ["V7.4.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:L/UI:N/S:U/C:H/I:L/A:N";

    public override string Why => "Whoever signs out expects the session to be over; a copy of the cookie or token, from a shared computer or a log, still works.";

    public override string FalsePositiveIf => "The server’s record is ended by code that was not read.";

    public override string HowToFix(string language) => "Destroy the session on the server, delete the rows of remembered tokens, and clear each cookie with the attributes that it was set with.";

    /// <summary>A token that the server does not keep cannot be ended there; of a session that it keeps, the way in tells.</summary>
    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) =>
        !journey.Entries.Any(e => CredentialChecks.EndsSome(context, e)) && CredentialChecks.SignInsOf(context, journey).Any(j => j.Step("session new") is { State: StepState.Shown or StepState.Absent });

    protected override JourneyKind Journey => JourneyKind.SignOut;

    protected override string Step => "session ended";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: no code was found that ends the session on the server.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        foreach (var (credential, entry) in CredentialChecks.Outliving(context, context.Journeys.Where(j => j.Kind == JourneyKind.SignOut).SelectMany(j => j.Entries), (c, e) => c.IsCookie && context.Sessions.Ends.IsOfSameDoor(c, e), _ => true))
        {
            yield return new Finding
            {
                Check = this,
                At = CredentialChecks.PlaceOf(context, entry, credential),
                Certainty = Certainty.Traced,
                Message = $"{entry.Method} {entry.Path} leaves the row of {credential.Table} by which the cookie “{credential.Carrier}” signs in: a copy of the cookie still works.",
                Related = [credential.Lookups[0].At, entry.At],
                Subject = credential.Table,
            };
        }
    }
}
