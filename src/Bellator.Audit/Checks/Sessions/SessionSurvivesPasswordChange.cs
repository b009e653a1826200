using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;

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

    protected override bool Counts(CheckContext context, Journey journey, JourneyStep step) => !journey.Entries.Any(e => CredentialChecks.EndsSome(context, e));

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        bool ChangesPassword(TableAccess access) => access.Action == RecordAction.Edit && context.Accounts.Accounts.Has(access.Table) && access.Columns.Any(context.Words.IsPasswordColumn);

        // Signing in may keep the same password under a better hash. Keys that people make for programs commonly outlive a password.
        var rehashing = context.Journeys.Where(j => j.Kind is JourneyKind.SignIn or JourneyKind.Register).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        foreach (var (credential, entry) in CredentialChecks.Outliving(context, context.Access.Entries.Select(e => e.Entry).Where(e => !rehashing.Contains(e.Handler)), (c, _) => !context.Words.TellsOfProgramKey(c.Table), done => done.Any(ChangesPassword)))
        {
            yield return new Finding
            {
                Check = this,
                At = context.Accounts.Surface.Of(entry).Accesses.Where(ChangesPassword).Select(a => a.At).FirstOrDefault(entry.At),
                Certainty = Certainty.Traced,
                Message = $"{entry.Method} {entry.Path} sets a new password and leaves the rows of {credential.Table} by which “{credential.Carrier}” signs in: whoever has one stays in.",
                Related = [credential.Lookups[0].At, entry.At],
                Subject = credential.Table,
            };
        }
    }
}
