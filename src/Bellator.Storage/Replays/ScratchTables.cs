using System.Globalization;
using System.Text;
using Bellator.Audit.Tables;

namespace Bellator.Storage.Replays;

/// <summary>Writes temporary tables like the application's, with a few invented rows. The application's own declarations are never run.</summary>
internal static class ScratchTables
{
    public const int RowCount = 4;
    private const int MaxTables = 200;
    private const int MaxColumns = 120;
    private const int MaxNameLength = 60;
    /// <summary>Names that every table of PostgreSQL has already (PostgreSQL 15 documentation, section 5.5, "System Columns").</summary>
    private static readonly string[] SystemColumns = ["tableoid", "xmin", "cmin", "xmax", "cmax", "ctid"];

    private static readonly string[] Names = ["elm", "oak", "ash", "yew"];

    /// <summary>Statements that make the tables and fill them.</summary>
    public static string For(DatabaseSchema schema)
    {
        var text = new StringBuilder();
        foreach (var table in schema.Tables.Where(t => t.Columns.Count is > 0 and <= MaxColumns && IsPlain(t.Name)).OrderBy(t => t.Name, StringComparer.Ordinal).Take(MaxTables))
        {
            var columns = table.Columns.Where(c => IsPlain(c.Name) && !SystemColumns.Contains(c.Name, StringComparer.OrdinalIgnoreCase)).DistinctBy(c => c.Name.ToLowerInvariant()).ToList();
            if (columns.Count > 0)
            {
                Write(text, table.Name, columns);
            }
        }

        return text.ToString();
    }

    private static void Write(StringBuilder text, string table, List<Column> columns)
    {
        // Names without quotes are folded to lower case when a statement is read; so are these.
        var name = Quoted(table.ToLowerInvariant());
        text.Append(CultureInfo.InvariantCulture, $"CREATE TEMPORARY TABLE {name} ({string.Join(", ", columns.Select(c => $"{Quoted(c.Name.ToLowerInvariant())} {TypeOf(c)}"))});\n");
        for (var row = 0; row < RowCount; row++)
        {
            text.Append(CultureInfo.InvariantCulture, $"INSERT INTO {name} VALUES ({string.Join(", ", columns.Select(c => ValueOf(c, row)))});\n");
        }
    }

    private static bool IsPlain(string name) => name.Length is > 0 and <= MaxNameLength && !name.Contains('\0', StringComparison.Ordinal);

    private static string Quoted(string name) => "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    /// <summary>The kind of value that a declared type holds, as PostgreSQL names it.</summary>
    private static string TypeOf(Column column)
    {
        var type = column.Type;
        bool Has(params ReadOnlySpan<string> words)
        {
            foreach (var word in words)
            {
                if (type.Contains(word, StringComparison.Ordinal))
                {
                    return true;
                }
            }

            return false;
        }

        return Has("interval", "point") ? "text"
            : Has("bool") || (type == "tinyint" && column.Length == 1) || type == "bit" ? "boolean"
            : Has("int", "serial") ? "bigint"
            : Has("decimal", "numeric", "float", "double", "real", "money", "number") ? "numeric"
            : Has("timestamp", "datetime") ? "timestamp"
            : type is "date" ? "date"
            : type is "uuid" or "uniqueidentifier" ? "uuid"
            : "text";
    }

    private static string ValueOf(Column column, int row) => TypeOf(column) switch
    {
        "boolean" => row % 2 == 0 ? "true" : "false",
        "bigint" or "numeric" => (row + 1).ToString(CultureInfo.InvariantCulture),
        "timestamp" or "date" => $"'2026-05-0{row + 1}'",
        "uuid" => $"'00000000-0000-4000-8000-00000000000{row + 1}'",
        _ => $"'{Names[row]}'",
    };
}
