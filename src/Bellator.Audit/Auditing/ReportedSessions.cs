using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Sessions;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>What an application hands out to be recognised by, what ends it, and what keeps forged requests out.</summary>
public sealed record ReportedSessions(IReadOnlyList<ReportedCredential> Credentials, IReadOnlyList<ReportedForgery> Forgery)
{
    public static readonly ReportedSessions Empty = new([], []);
}

/// <param name="Kind">session, token, keptToken, programKey or oneTimeLink.</param>
/// <param name="Family">The language of the code that issues it.</param>
public sealed record ReportedCredential(string Name, string Kind, string Family, IReadOnlyList<ReportedOperation> Operations, IReadOnlyList<ReportedLifeCell> Life);

/// <param name="Kind">issued, carried, kept, checked, renewed or ended.</param>
public sealed record ReportedOperation(string Kind, string Text, IReadOnlyList<ReportedEvidence> Evidence);

/// <param name="Event">signIn, register, roleChange, passwordChange, passwordReset, signOut, accountDisabled, idle or absolute.</param>
/// <param name="State">ends, stays, unclear or notNeeded.</param>
public sealed record ReportedLifeCell(string Event, string State, string Text, IReadOnlyList<ReportedEvidence> Evidence);

/// <param name="State">protected, open, exempt, notNeeded or unclear.</param>
public sealed record ReportedForgery(string Method, string Path, string State, string By, IReadOnlyList<ReportedEvidence> Evidence);

/// <summary>Turns credentials and their life into what is kept of them.</summary>
internal static class SessionReporting
{
    public static ReportedSessions Report(AccountContext context, SessionContext sessions, AccessMap access, IReadOnlyList<Journey> journeys)
    {
        var tree = context.Program.Tree;
        ReportedEvidence[] Places(IReadOnlyList<StepEvidence> evidence) => [.. evidence.Where(e => e.At.IsKnown).Select(e => new ReportedEvidence(e.Note, new ReportedPlace(tree.Files[e.At.File].Path, tree.RegionOf(e.At))))];
        return new ReportedSessions(
            [.. new CredentialFinder(context, sessions, journeys).Find().Select(c => new ReportedCredential(
                c.Name, SurfaceReporting.Name(c.Kind), c.Family,
                [.. c.Operations.Select(o => new ReportedOperation(SurfaceReporting.Name(o.Kind), o.Text, Places(o.Evidence)))],
                [.. c.Life.Select(l => new ReportedLifeCell(SurfaceReporting.Name(l.Event), SurfaceReporting.Name(l.State), l.Text, Places(l.Evidence)))]))],
            [.. new ForgeryTable(context, sessions, access, journeys).Rows().Select(f => new ReportedForgery(f.Entry.Method, f.Entry.Path, SurfaceReporting.Name(f.State), f.By, Places(f.Evidence)))]);
    }
}
