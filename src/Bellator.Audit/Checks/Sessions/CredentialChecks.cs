using Bellator.Analysis.Events;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Sessions;
using Bellator.Text;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>What checks ask of the credentials that the server keeps.</summary>
internal static class CredentialChecks
{
    /// <summary>Those of the audited program, found once.</summary>
    public static KeptCredentials Of(CheckContext context) =>
        context.Kept(() => new KeptCredentials(context.Accounts, context.EventsOf(EventKind.Query, EventKind.Run, EventKind.Access)));

    /// <summary>The credentials that are still good after an entry point has run that should end them.</summary>
    /// <param name="entries">Entry points, with what they change.</param>
    public static IEnumerable<(KeptCredential Credential, EntryPoint Entry)> Outliving(CheckContext context, IEnumerable<EntryPoint> entries, Func<KeptCredential, EntryPoint, bool> counts, Func<IReadOnlyList<TableAccess>, bool> changes)
    {
        foreach (var entry in entries.Where(e => e.Handler is not null).DistinctBy(e => e.Handler))
        {
            var done = context.Accounts.Surface.Of(entry).Accesses.Where(a => a.Action is RecordAction.Delete or RecordAction.Edit).ToList();
            foreach (var credential in changes(done) ? Of(context).All.Where(c => c.Lookups.Count > 0 && counts(c, entry)) : [])
            {
                if (!done.Exists(a => Ends(credential, a)))
                {
                    yield return (credential, entry);
                }
            }
        }
    }

    /// <summary>The entry ends a credential that the server keeps.</summary>
    public static bool EndsSome(CheckContext context, EntryPoint entry) =>
        entry.Handler is not null && context.Accounts.Surface.Of(entry).Accesses.Any(a => a.Action is RecordAction.Delete or RecordAction.Edit && Of(context).All.Any(c => Ends(c, a)));

    /// <summary>The credential is asked for on the way of everything, or by entry points beside this one: an application may have several doors.</summary>
    public static bool IsOfSameDoor(CheckContext context, KeptCredential credential, EntryPoint entry)
    {
        var doors = context.Access.Entries.Where(e => e.Uses.Any(u => credential.Lookups.Exists(l => l.At == u.Access.At))).Select(e => Door(e.Entry)).ToHashSet(StringComparer.Ordinal);
        return doors.Count == 0 || doors.Contains(Door(entry));
    }

    private static string Door(EntryPoint entry) => entry.Path.Trim('/').Split('/')[0];

    /// <summary>Where the entry clears a cookie; its handler where it clears none.</summary>
    public static Location PlaceOf(CheckContext context, EntryPoint entry) =>
        new JourneyEvidence(context.Accounts, entry).CallsNamed(n => n.Contains("ookie", StringComparison.Ordinal)).Select(e => e.At).FirstOrDefault(entry.Handler!.LocationOf(0));

    /// <summary>The row goes, or is changed, or a look-up holds the credential against what is changed: a stamp, a version, the password’s hash.</summary>
    private static bool Ends(KeptCredential credential, TableAccess change) =>
        change.Table.Equals(credential.Table, StringComparison.OrdinalIgnoreCase)
        || (change.Action == RecordAction.Delete && credential.Lookups.Exists(l => l.Tables.Contains(change.Table, StringComparer.OrdinalIgnoreCase)))
        || (change.Action == RecordAction.Edit && (change.Columns.Count == 0 || credential.Lookups.Exists(l => WrittenColumns.Of(change).Any(l.Looked.Contains))));
}
