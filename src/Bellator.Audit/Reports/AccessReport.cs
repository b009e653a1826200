using System.Globalization;
using System.Text.Json;
using Bellator.Audit.Auditing;
using CsvHelper;

namespace Bellator.Audit.Reports;

/// <summary>Writes the access map as lines to read.</summary>
public static class AccessReport
{
    public static void Text(ReportedRecords records, TextWriter output)
    {
        foreach (var table in records.Uses.GroupBy(u => u.Table, StringComparer.OrdinalIgnoreCase).OrderBy(g => g.Key, StringComparer.OrdinalIgnoreCase))
        {
            var owned = records.Owned.FirstOrDefault(o => o.Table.Equals(table.Key, StringComparison.OrdinalIgnoreCase));
            output.WriteLine(owned is null ? table.Key : $"{table.Key}, whose rows belong to people by {string.Join(", ", owned.Columns)}");
            foreach (var use in table.OrderBy(u => u.Path, StringComparer.Ordinal).ThenBy(u => u.Method, StringComparer.Ordinal))
            {
                output.WriteLine($"  {use.Method,-6} {use.Path}: {use.Action} {Words(use.Rows)}{(use.Condition.Length > 0 ? " where " + use.Condition : "")}{(use.Written.Count > 0 ? " with " + string.Join(", ", use.Written) : "")}  {use.At.Path}:{use.At.Region.StartLine}");
            }

            output.WriteLine();
        }
    }

    public static string Json(ReportedRecords records) => JsonSerializer.Serialize(records, new JsonSerializerOptions(ReportedApplication.Options) { WriteIndented = true });

    /// <summary>One line for each use of a record type by an entry point.</summary>
    public static string Csv(ReportedRecords records)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, PasswordReport.Configuration))
        {
            SurfaceReport.Row(csv, ["table", "action", "method", "path", "sign_in", "rows", "condition", "written", "file", "line"]);
            foreach (var use in records.Uses)
            {
                SurfaceReport.Row(csv, [use.Table, use.Action, use.Method, use.Path, SurfaceReport.Words(use.SignIn), use.Rows, use.Condition, string.Join("; ", use.Written), use.At.Path, use.At.Region.StartLine.ToString(CultureInfo.InvariantCulture)]);
            }
        }

        return text.ToString();
    }

    /// <summary>Whose rows are reached, in words.</summary>
    public static string Words(string rows) => rows switch
    {
        "own" => "own rows",
        "role" => "all rows, by role",
        "chosen" => "any row the request names",
        "all" => "all rows",
        "new" => "a new row",
        _ => "unclear which rows",
    };
}
