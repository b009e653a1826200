using Bellator.Analysis.Libraries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Checks.Records;

/// <summary>Records that belong to a record of another table: the participants of a trip, the photos of a wall.</summary>
internal static class ChildRecords
{
    /// <summary>The column of a table that says to which record of another table its rows belong; null where it has none.</summary>
    public static string? ColumnTo(CheckContext context, string child, string parent)
    {
        var table = context.Schema.Find(child);
        return table?.ForeignKeys.Find(k => k.Columns.Count == 1 && k.Table.Equals(parent, StringComparison.OrdinalIgnoreCase))?.Columns[0]
            ?? table?.Columns.Find(c => OwnerColumns.IsKeyOf(c.Name, parent))?.Name;
    }

    /// <summary>The condition names a parent that the entry has found for the person.</summary>
    public static bool IsTiedToHeld(CheckContext context, EntryAccess entry, RecordUse use) =>
        entry.Uses.Concat(entry.OnTheWay).Any(o => o != use && IsHeld(context, entry, o) && ColumnTo(context, use.Access.Table, o.Access.Table) is { } column
            && (use.Terms.Request.Any(t => Names(t.Column, column)) || use.Terms.Other.Any(c => Names(c, column)) || use.Happening.Role("model").Fields is not null));

    /// <summary>The row is the person's own, or everything about it was understood and something asks whose it is.</summary>
    public static bool IsHeld(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Terms.OfSubject || (context.Access.ReachOf(entry, use) == RowReach.Own);

    public static bool Names(string column, string other) => column.Split('.')[^1].Equals(other, StringComparison.OrdinalIgnoreCase);
}
