using Bellator.Analysis.Libraries;

namespace Bellator.Audit.Tables;

/// <summary>What a column is about, with the reason.</summary>
/// <param name="Meaning">One of <see cref="ColumnMeanings.All"/>, or empty.</param>
public sealed record ColumnMeaning(string Meaning, string Why);

/// <summary>Recognises what columns hold, by their names and types. A reviewer may know better.</summary>
public static class ColumnMeanings
{
    public const string Password = "password";
    public const string ResetToken = "reset token";
    public const string SessionToken = "session token";
    public const string Role = "role";
    public const string Owner = "owner";
    public const string Tenant = "tenant";
    public const string Contact = "contact";
    public const string Personal = "personal";
    public const string SignInName = "sign-in name";

    /// <summary>All meanings, in the order in which they are tried.</summary>
    public static IReadOnlyList<string> All { get; } = [Password, ResetToken, SessionToken, Role, Tenant, Owner, Contact, SignInName, Personal];

    public static ColumnMeaning Of(Column column, Table table, IdentifierClassifier words)
    {
        if (table.Corrections.TryGetValue(column.Name, out var said))
        {
            return new ColumnMeaning(said, "a reviewer says so");
        }

        if (words.IsPasswordColumn(column.Name) && !IsNumberOrDate(column.Type) && (!words.IsAnyHash(column.Name) || words.IsAccounts(table.Name) || table.Columns.Exists(c => words.IsEmail(c.Name) || words.Means(c.Name, SignInName) is not null)))
        {
            return new ColumnMeaning(Password, $"“{column.Name}” is a name for a password or its hash");
        }

        foreach (var meaning in All.Skip(1))
        {
            if (words.Means(column.Name, meaning) is { } word && Fits(meaning, column, table, word))
            {
                if (meaning == SessionToken && words.TellsOfRecovery(table.Name))
                {
                    return new ColumnMeaning(ResetToken, $"“{word}” in its name, in a table of them");
                }

                return new ColumnMeaning(meaning, meaning == Owner && IsReference(column, table) is { } to ? $"refers to {to}" : $"“{word}” in its name");
            }
        }

        return IsReference(column, table) is { } people && words.IsAccounts(people) ? new ColumnMeaning(Owner, $"refers to {people}") : new ColumnMeaning("", "");
    }

    private static bool Fits(string meaning, Column column, Table table, string word) => meaning switch
    {
        ResetToken or SessionToken or SignInName => !IsNumberOrDate(column.Type),
        Contact => !IsNumberOrDate(column.Type) && !IsBoolean(column.Type),
        _ => true,
    };

    private static string? IsReference(Column column, Table table) => table.ForeignKeys.Find(k => k.Columns.Count == 1 && k.Columns[0].Equals(column.Name, StringComparison.OrdinalIgnoreCase))?.Table;

    private static bool IsNumberOrDate(string type) => type is "date" or "timestamp" or "datetime" or "time" or "boolean" or "bool" or "integer" or "int" or "bigint" or "smallint" or "numeric";

    private static bool IsBoolean(string type) => type is "boolean" or "bool" or "tinyint";
}
