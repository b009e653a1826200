using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>What checks ask of the credentials that the server keeps.</summary>
internal static class CredentialChecks
{
    /// <summary>Those of the audited program.</summary>
    public static KeptCredentials Of(CheckContext context) => context.Sessions.Kept;

    /// <summary>The credentials that are still good after an entry point has run that should end them.</summary>
    /// <param name="entries">Entry points, with what they change.</param>
    public static IEnumerable<(KeptCredential Credential, EntryPoint Entry)> Outliving(CheckContext context, IEnumerable<EntryPoint> entries, Func<KeptCredential, EntryPoint, bool> counts, Func<IReadOnlyList<TableAccess>, bool> changes)
    {
        foreach (var entry in entries.Where(e => e.Handler is not null).DistinctBy(e => e.Handler))
        {
            var done = context.Sessions.Ends.ChangesOf(entry);
            foreach (var credential in changes(done) ? Of(context).All.Where(c => c.Lookups.Count > 0 && counts(c, entry)) : [])
            {
                if (!done.Any(a => CredentialEnds.Ends(credential, a)))
                {
                    yield return (credential, entry);
                }
            }
        }
    }

    /// <summary>The entry ends a credential that the server keeps.</summary>
    public static bool EndsSome(CheckContext context, EntryPoint entry) => context.Sessions.Ends.EndsSome(entry);

    /// <summary>The ways in beside a way out; all of them where none stands beside it.</summary>
    public static IReadOnlyList<Journey> SignInsOf(CheckContext context, Journey signOut)
    {
        var all = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).ToList();
        var doors = signOut.Entries.Select(CredentialEnds.Door).ToHashSet(StringComparer.Ordinal);
        return all.FindAll(j => j.Entries.Any(e => doors.Contains(CredentialEnds.Door(e)))) is { Count: > 0 } beside ? beside : all;
    }

    /// <summary>Where the entry clears a cookie: in its handler, or else beside the code that looks the credential up; the handler where it clears none.</summary>
    public static Location PlaceOf(CheckContext context, EntryPoint entry, KeptCredential credential)
    {
        var cleared = new JourneyEvidence(context.Accounts, entry).CallsNamed(_ => true).Select(e => e.At).Where(a => context.Program.Tree.TextOf(a, 60).Contains("ookie", StringComparison.Ordinal)).ToList();
        var files = credential.Lookups.Select(l => l.At.File).ToHashSet();
        var handler = new Location(entry.Handler!.File.Index, entry.Handler.Span.Start, entry.Handler.Span.End);
        return cleared.OrderByDescending(a => handler.File == a.File && handler.Start <= a.Start && a.End <= handler.End ? 2 : files.Contains(a.File) ? 1 : 0).FirstOrDefault(entry.Handler.LocationOf(0));
    }
}
