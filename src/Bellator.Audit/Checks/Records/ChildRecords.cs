using Bellator.Analysis.Libraries;
using Bellator.Audit.Access;
using Bellator.Audit.Endpoints;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Checks.Records;

/// <summary>Records that belong to a record of another table: the participants of a trip, the photos of a wall.</summary>
internal static class ChildRecords
{
    /// <summary>The column of a table that says to which record of another table its rows belong; null where it has none.</summary>
    public static string? ColumnTo(CheckContext context, string child, string parent) => context.Schema.Find(child) is { } table ? OwnerColumns.ReferenceTo(table, parent) : null;

    /// <summary>The table that the rows of another belong to and whose every query is limited to what the person belongs to; with the column that says to which row.</summary>
    public static (string Parent, string Key, string Column)? LimitedParent(CheckContext context, Table child) =>
        context.Schema.Tables.Where(t => !t.Name.Equals(child.Name, StringComparison.OrdinalIgnoreCase)).Select(t => (Parent: t.Name, Columns: context.Access.ScopeOf(t.Name))).Where(t => t.Columns.Count > 0)
            .Select(t => (t.Parent, Key: ColumnTo(context, child.Name, t.Parent)!, Column: t.Columns[0])).Where(t => t.Key is not null).Select(t => ((string, string, string)?)t).FirstOrDefault();

    /// <summary>The condition names a parent that the entry has found for the person.</summary>
    public static bool IsTiedToHeld(CheckContext context, EntryAccess entry, RecordUse use) =>
        entry.Uses.Concat(entry.OnTheWay).Any(o => o != use && IsHeld(context, entry, o) && ColumnTo(context, use.Access.Table, o.Access.Table) is { } column
            && (use.Terms.Request.Any(t => Names(t.Column, column)) || use.Terms.Other.Any(c => Names(c, column)) || use.Terms.IsRelated));

    /// <summary>The row is the person's own, or everything about it was understood and something asks whose it is.</summary>
    public static bool IsHeld(CheckContext context, EntryAccess entry, RecordUse use) =>
        use.Terms.OfSubject || (context.Access.ReachOf(entry, use) == RowReach.Own);

    public static bool Names(string column, string other) => column.Split('.')[^1].Equals(other, StringComparison.OrdinalIgnoreCase);
}
