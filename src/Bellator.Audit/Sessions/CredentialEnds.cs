using Bellator.Analysis.Ir;
using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Sessions;

/// <summary>Which entry points end which of the credentials that the server keeps.</summary>
internal sealed class CredentialEnds(AccountContext context, AccessMap access, KeptCredentials kept)
{
    /// <summary>Entry points whose handlers reach a place of what most of them have on their way: whatever it does is no answer to one of them.</summary>
    private const int ManyEntries = 2;

    private Dictionary<Location, int>? _reached;

    /// <summary>What an entry point changes and removes itself.</summary>
    public IReadOnlyList<TableAccess> ChangesOf(EntryPoint entry) =>
        [.. context.Surface.Of(entry).Accesses.Where(a => a.Action is RecordAction.Delete or RecordAction.Edit && (!IsOfWayIn(a) || IsCalledBy(entry.Handler!, a.Function)))];

    /// <summary>The entry ends a credential that the server keeps.</summary>
    public bool EndsSome(EntryPoint entry) =>
        entry.Handler is not null && context.Surface.Of(entry).Accesses.Any(a => a.Action is RecordAction.Delete or RecordAction.Edit && kept.All.Any(c => Ends(c, a)));

    /// <summary>The row goes, or is changed, or a look-up holds the credential against what is changed: a stamp, a version, the password’s hash.</summary>
    public static bool Ends(KeptCredential credential, TableAccess change) =>
        change.Table.Equals(credential.Table, StringComparison.OrdinalIgnoreCase)
        || (change.Action == RecordAction.Delete && credential.Lookups.Exists(l => l.Tables.Contains(change.Table, StringComparer.OrdinalIgnoreCase)))
        || (change.Action == RecordAction.Edit && (change.Columns.Count == 0 || credential.Lookups.Exists(l => WrittenColumns.Of(change).Any(l.Looked.Contains))));

    /// <summary>The credential is asked for on the way of everything, or by entry points beside this one: an application may have several doors.</summary>
    public bool IsOfSameDoor(KeptCredential credential, EntryPoint entry)
    {
        var doors = access.Entries.Where(e => e.Uses.Concat(e.OnTheWay).Any(u => credential.Lookups.Exists(l => l.At == u.Access.At))).Select(e => Door(e.Entry)).ToHashSet(StringComparer.Ordinal);
        return doors.Count == 0 || doors.Contains(Door(entry));
    }

    public static string Door(EntryPoint entry) => entry.Path.Trim('/').Split('/')[0];

    /// <summary>What changes rows on the way of most entry points, as a token does that is exchanged each time it is used.</summary>
    private bool IsOfWayIn(TableAccess change)
    {
        _reached ??= access.Entries.DistinctBy(e => e.Entry.Handler).SelectMany(e => context.Surface.Of(e.Entry).Accesses.Select(a => a.At).Distinct()).CountBy(a => a).ToDictionary();
        var reached = _reached.GetValueOrDefault(change.At);
        return reached >= ManyEntries && reached * 2 > access.Entries.Select(e => e.Entry.Handler).Distinct().Count();
    }

    /// <summary>The handler comes to the function by calls of its own, not only by a file that it includes or a step on its way.</summary>
    private bool IsCalledBy(IrFunction handler, IrFunction function)
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
}
