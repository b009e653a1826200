using System.Globalization;
using Bellator.Analysis.Libraries;
using CsvHelper;
using CsvHelper.Configuration;

namespace Bellator.Passwords;

/// <summary>The file cannot be read as a table.</summary>
public sealed class PasswordCsvException(string message) : Exception(message);

/// <summary>Reads a user table from CSV (RFC 4180), with a comma, semicolon or tab between the columns.</summary>
public static class PasswordCsv
{
    public const int MostRows = 200_000;
    private const int MostColumns = 200;

    private static readonly IdentifierClassifier Names = new(LibraryModels.Shipped);

    /// <summary>The columns that the first line names.</summary>
    public static IReadOnlyList<string> Columns(string text)
    {
        using var reader = Open(text);
        return Header(reader);
    }

    /// <summary>The column that most likely holds the stored passwords, or null.</summary>
    public static string? Guess(IReadOnlyList<string> columns) => columns.FirstOrDefault(Names.IsPasswordColumn);

    /// <summary>The column that most likely names the person, or null.</summary>
    public static string? GuessOwner(IReadOnlyList<string> columns) => columns.FirstOrDefault(Names.IsAccountName) ?? columns.FirstOrDefault(Names.IsAccountNumber);

    /// <summary>The column that most likely says since when the value stands there, or null.</summary>
    public static string? GuessAge(IReadOnlyList<string> columns) => columns.FirstOrDefault(Names.IsSince);

    /// <summary>Values that stand one on each line, without anything else.</summary>
    public static IReadOnlyList<StoredPassword> Lines(string text) => [.. text.Split('\n').Select(l => l.Trim()).Where(l => l.Length > 0).Select(l => new StoredPassword("", l))];

    /// <param name="password">Name of the column with the stored values.</param>
    /// <param name="owner">Name of the column that tells rows apart, or null.</param>
    /// <param name="age">Name of a column with a date, or null.</param>
    /// <exception cref="PasswordCsvException">There is no such column, or the text is no table.</exception>
    public static IReadOnlyList<StoredPassword> Read(string text, string password, string? owner = null, string? age = null)
    {
        using var reader = Open(text);
        var columns = Header(reader);
        int At(string name) => columns.ToList().IndexOf(name) is >= 0 and var at ? at : throw new PasswordCsvException($"there is no column “{name}”; there are {string.Join(", ", columns)}");
        var (value, person, date) = (At(password), owner is null ? -1 : At(owner), age is null ? -1 : At(age));
        var rows = new List<StoredPassword>();
        try
        {
            while (reader.Read())
            {
                if (rows.Count >= MostRows)
                {
                    throw new PasswordCsvException($"the table has more than {MostRows.ToString(CultureInfo.InvariantCulture)} rows");
                }

                string Field(int at) => at >= 0 && reader.TryGetField<string>(at, out var field) ? field ?? "" : "";
                rows.Add(new StoredPassword(Field(person), Field(value), date < 0 ? null : Field(date)));
            }
        }
        catch (CsvHelperException e)
        {
            throw new PasswordCsvException($"row {reader.Parser.Row}: {e.Message.Split('\n')[0].Trim()}");
        }

        return rows;
    }

    private static CsvReader Open(string text) => new(
        new StringReader(text),
        new CsvConfiguration(CultureInfo.InvariantCulture) { DetectDelimiter = true, DetectDelimiterValues = [",", ";", "\t"], BadDataFound = null, MissingFieldFound = null, TrimOptions = TrimOptions.Trim });

    private static string[] Header(CsvReader reader)
    {
        if (!reader.Read() || !reader.ReadHeader() || reader.HeaderRecord is not { Length: > 0 } columns)
        {
            throw new PasswordCsvException("the file has no first line that names the columns");
        }

        return columns.Length <= MostColumns ? columns : throw new PasswordCsvException($"the table has more than {MostColumns} columns");
    }
}
