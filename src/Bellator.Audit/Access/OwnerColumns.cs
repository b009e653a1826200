using Bellator.Analysis.Libraries;
using Bellator.Audit.Tables;

namespace Bellator.Audit.Access;

/// <summary>
/// Columns that say whose a record is: those by which the code limits or fills records with the person who asks, the key of the accounts
/// under its usual name, and keys of what people belong to (a firm, a branch), which the accounts have as well.
/// </summary>
public sealed class OwnerColumns(AccessMap access, DatabaseSchema schema, AccountTables accounts, IdentifierClassifier words)
{
    /// <summary>True for a column that says to which person, or to whose organisation, the record belongs.</summary>
    public bool SaysWhose(string table, string column) => IsOwner(table, column) || IsTenant(table, column);

    /// <summary>The column names a person: <c>keeper_id</c> where keepers sign in. Others that refer to people (who approved, who is to do it) do not say whose it is.</summary>
    public bool IsOwner(string table, string column) =>
        !words.IsRecordKey(column) && !accounts.Has(table)
        && (IsHeld(table, column) || (HasColumn(table, column) && accounts.Tables.Select(a => a.Name).Concat(accounts.Models.Select(m => m.ShortName)).Any(a => IsKeyOf(column, a) && (ReferenceOf(table, column) is not { } target || accounts.Has(target)))));

    /// <summary>The code limits or fills records of the table by the column with who is asking; it is a key, not a name that is copied along.</summary>
    public bool IsHeld(string table, string column) =>
        !words.IsRecordKey(column) && (access.Owned(table)?.Columns.Contains(column) ?? false) && (words.IsKeyName(column) || ReferenceOf(table, column) is not null);

    /// <summary>The column names what people belong to.</summary>
    public bool IsTenant(string table, string column) => HasColumn(table, column) && accounts.Tables.Exists(a => a.Find(column) is not null && IsBelonging(a, column));

    /// <summary>A column of accounts that points at another table, which is no table of accounts: a firm, a branch, a district.</summary>
    public bool IsBelonging(Table account, string column) =>
        !words.IsRecordKey(column) && words.IsKeyName(column)
        && (account.ForeignKeys.Find(k => k.Columns is [var only] && only.Equals(column, StringComparison.OrdinalIgnoreCase)) is { } key ? !accounts.Has(key.Table)
            : schema.Tables.FirstOrDefault(t => IsKeyOf(column, t.Name)) is { } named && !accounts.Has(named.Name));

    /// <summary>The column of a table that says to which record of another table its rows belong; null where it has none.</summary>
    public static string? ReferenceTo(Table child, string parent) =>
        child.ForeignKeys.Find(k => k.Columns.Count == 1 && k.Table.Equals(parent, StringComparison.OrdinalIgnoreCase))?.Columns[0] ?? child.Columns.Find(c => IsKeyOf(c.Name, parent))?.Name;

    /// <summary>The column is named for a table: <c>trip_id</c>, <c>tripId</c> or <c>trip</c> for trips.</summary>
    public static bool IsKeyOf(string column, string table)
    {
        var words = IdentifierClassifier.Parts(column);
        var named = words is [.., "id"] ? words[..^1] : words is [var only] && only.EndsWith("id", StringComparison.Ordinal) ? [only[..^2]] : words;
        return named.Count > 0 && string.Concat(named).Equals(string.Concat(IdentifierClassifier.Parts(IdentifierClassifier.Singular(table))), StringComparison.OrdinalIgnoreCase);
    }

    private bool HasColumn(string table, string column) => schema.Find(table)?.Find(column) is not null;

    private string? ReferenceOf(string table, string column) => schema.Find(table)?.ForeignKeys.Find(k => k.Columns is [var only] && only.Equals(column, StringComparison.OrdinalIgnoreCase))?.Table;
}
