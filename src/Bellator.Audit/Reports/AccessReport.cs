using Bellator.Audit.Auditing;

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
