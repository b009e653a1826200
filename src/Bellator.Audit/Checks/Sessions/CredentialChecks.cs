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
    /// <summary>Those of the audited program, found once.</summary>
    public static KeptCredentials Of(CheckContext context) =>
        context.Kept(() => new KeptCredentials(context.Accounts, context.Access, context.EventsOf(EventKind.Query, EventKind.Run, EventKind.Access)));

    /// <summary>The credentials that are still good after an entry point has run that should end them.</summary>
    /// <param name="entries">Entry points, with what they change.</param>
    public static IEnumerable<(KeptCredential Credential, EntryPoint Entry)> Outliving(CheckContext context, IEnumerable<EntryPoint> entries, Func<KeptCredential, EntryPoint, bool> counts, Func<IReadOnlyList<TableAccess>, bool> changes)
    {
        foreach (var entry in entries.Where(e => e.Handler is not null).DistinctBy(e => e.Handler))
        {
            var done = context.Accounts.Surface.Of(entry).Accesses.Where(a => a.Action is RecordAction.Delete or RecordAction.Edit && (!IsOfWayIn(context, a) || IsCalledBy(context, entry.Handler!, a.Function))).ToList();
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

    /// <summary>Entry points whose handlers reach a place of what most of them have on their way: whatever it does is no answer to one of them.</summary>
    private const int ManyEntries = 2;

    /// <summary>What changes rows on the way of most entry points, as a token does that is exchanged each time it is used.</summary>
    private static bool IsOfWayIn(CheckContext context, TableAccess access)
    {
        var reached = context.Kept(() => new ReachedPlaces(context)).By(access.At);
        return reached >= ManyEntries && reached * 2 > context.Access.Entries.Select(e => e.Entry.Handler).Distinct().Count();
    }

    /// <summary>The handler comes to the function by calls of its own, not only by a file that it includes or a step on its way.</summary>
    private static bool IsCalledBy(CheckContext context, IrFunction handler, IrFunction function)
    {
        var seen = new HashSet<IrFunction>();
        var open = new Stack<IrFunction>([handler]);
        while (open.TryPop(out var at))
        {
            if (at == function)
            {
                return true;
            }

            if (seen.Add(at))
            {
                foreach (var edge in context.Flow.SummaryOf(at).Calls.Where(c => !c.Target.IsTopLevel))
                {
                    open.Push(edge.Target);
                }
            }
        }

        return false;
    }

    /// <summary>By how many handlers each place is reached where records are used.</summary>
    private sealed class ReachedPlaces(CheckContext context)
    {
        private readonly Dictionary<Location, int> _counts = context.Access.Entries.DistinctBy(e => e.Entry.Handler)
            .SelectMany(e => context.Accounts.Surface.Of(e.Entry).Accesses.Select(a => a.At).Distinct()).CountBy(a => a).ToDictionary();

        public int By(Location at) => _counts.GetValueOrDefault(at);
    }

    /// <summary>The credential is asked for on the way of everything, or by entry points beside this one: an application may have several doors.</summary>
    public static bool IsOfSameDoor(CheckContext context, KeptCredential credential, EntryPoint entry)
    {
        var doors = context.Access.Entries.Where(e => e.Uses.Any(u => credential.Lookups.Exists(l => l.At == u.Access.At))).Select(e => Door(e.Entry)).ToHashSet(StringComparer.Ordinal);
        return doors.Count == 0 || doors.Contains(Door(entry));
    }

    /// <summary>The ways in beside a way out; all of them where none stands beside it.</summary>
    public static IReadOnlyList<Journey> SignInsOf(CheckContext context, Journey signOut)
    {
        var all = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).ToList();
        var doors = signOut.Entries.Select(Door).ToHashSet(StringComparer.Ordinal);
        return all.FindAll(j => j.Entries.Any(e => doors.Contains(Door(e)))) is { Count: > 0 } beside ? beside : all;
    }

    private static string Door(EntryPoint entry) => entry.Path.Trim('/').Split('/')[0];

    /// <summary>Where the entry clears a cookie: in its handler, or else beside the code that looks the credential up; the handler where it clears none.</summary>
    public static Location PlaceOf(CheckContext context, EntryPoint entry, KeptCredential credential)
    {
        var cleared = new JourneyEvidence(context.Accounts, entry).CallsNamed(_ => true).Select(e => e.At).Where(a => context.Program.Tree.TextOf(a, 60).Contains("ookie", StringComparison.Ordinal)).ToList();
        var files = credential.Lookups.Select(l => l.At.File).ToHashSet();
        var handler = new Location(entry.Handler!.File.Index, entry.Handler.Span.Start, entry.Handler.Span.End);
        return cleared.OrderByDescending(a => handler.File == a.File && handler.Start <= a.Start && a.End <= handler.End ? 2 : files.Contains(a.File) ? 1 : 0).FirstOrDefault(entry.Handler.LocationOf(0));
    }

    /// <summary>The row goes, or is changed, or a look-up holds the credential against what is changed: a stamp, a version, the password’s hash.</summary>
    private static bool Ends(KeptCredential credential, TableAccess change) =>
        change.Table.Equals(credential.Table, StringComparison.OrdinalIgnoreCase)
        || (change.Action == RecordAction.Delete && credential.Lookups.Exists(l => l.Tables.Contains(change.Table, StringComparer.OrdinalIgnoreCase)))
        || (change.Action == RecordAction.Edit && (change.Columns.Count == 0 || credential.Lookups.Exists(l => WrittenColumns.Of(change).Any(l.Looked.Contains))));
}
