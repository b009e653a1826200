using Bellator.Audit.Access;
using Bellator.Audit.Accounts;
using Bellator.Audit.Endpoints;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>The access map as it is kept: who can do what to which records.</summary>
public sealed record ReportedRecords(IReadOnlyList<ReportedRecordUse> Uses, IReadOnlyList<ReportedOwnership> Owned)
{
    public static readonly ReportedRecords Empty = new([], []);
}

/// <param name="SignIn">needed, notNeeded or unclear.</param>
/// <param name="Action">list, view, create, edit or delete.</param>
/// <param name="Rows">own, role, chosen, all, new or unclear.</param>
/// <param name="Condition">In the access language, with named unknowns; empty for none.</param>
/// <param name="Written">Columns that are filled, and from what.</param>
public sealed record ReportedRecordUse(string Method, string Path, string SignIn, string Table, string Action, string Rows, string Condition, IReadOnlyList<string> Written, string How, ReportedPlace At)
{
    /// <summary>It is part of a journey of the account itself, where nobody is known yet.</summary>
    public bool IsJourney { get; init; }
}

/// <summary>A table whose records belong to people, by the columns that say so.</summary>
public sealed record ReportedOwnership(string Table, IReadOnlyList<string> Columns);

internal static class RecordReporting
{
    public static ReportedRecords Report(AccessMap map, IReadOnlyList<Journey> journeys, SourceTree tree)
    {
        var handlers = journeys.Where(j => j.Kind != JourneyKind.Profile).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        ReportedPlace PlaceOf(Location at) => new(tree.Files[at.File].Path, tree.RegionOf(at));
        var uses = map.Entries.SelectMany(e => e.Uses.Select(u => new ReportedRecordUse(
            e.Entry.Method, e.Entry.Path, SurfaceReporting.Name(e.Entry.SignIn), u.Access.Table, SurfaceReporting.Name(u.Access.Action), SurfaceReporting.Name(map.ReachOf(e, u)), map.ConditionOf(e, u, at => tree.TextOf(at, 60)),
            u.Access.Action is not (RecordAction.Create or RecordAction.Edit) ? [] : [.. u.Terms.FromSubject.Concat(u.Terms.FromRequest).Select(t => $"{t.Column} = {t.Value}").Distinct()], u.Access.How, PlaceOf(u.Access.At))
        { IsJourney = handlers.Contains(e.Entry.Handler) }))
            .DistinctBy(u => (u.Method, u.Path, u.Table, u.Action, u.Rows, u.Condition, string.Join('\n', u.Written), u.At));
        return new ReportedRecords([.. uses], [.. map.OwnedTables.Where(o => o.Columns.Count > 0).Select(o => new ReportedOwnership(o.Table, [.. o.Columns]))]);
    }
}
