using System.Globalization;
using System.Text.Json.Nodes;
using Bellator.Passwords;
using CsvHelper;

namespace Bellator.Audit.Reports;

/// <summary>What a table of stored passwords holds, as JSON and as CSV. Values and found passwords are masked unless asked for.</summary>
public static class PasswordReport
{
    /// <summary>Fields that a spreadsheet would take for formulas are made harmless.</summary>
    internal static readonly CsvHelper.Configuration.CsvConfiguration Configuration = new(CultureInfo.InvariantCulture) { InjectionOptions = CsvHelper.Configuration.InjectionOptions.Escape };

    public static string Json(PasswordTable table, SearchResult? search, string version, bool shown) => new JsonObject
    {
        ["bellator"] = version,
        ["values"] = table.Rows.Count,
        ["longest"] = table.Longest,
        ["schemes"] = new JsonArray([.. table.Groups.Select(g => new JsonObject
        {
            ["scheme"] = g.Example.Scheme.Id,
            ["title"] = g.Title,
            ["kind"] = PasswordText.Of(g.Example.Kind),
            ["count"] = g.Indices.Count,
            ["strength"] = PasswordText.Of(g.Rating.Strength),
            ["reason"] = g.Rating.Reason,
            ["source"] = g.Rating.Source,
            ["owners"] = new JsonArray([.. g.Indices.Select(i => (JsonNode)table.Rows[i].Owner)]),
        })]),
        ["equal"] = Shared(table, table.Equal),
        ["sameSalt"] = Shared(table, table.SameSalt),
        ["search"] = search is null ? null : new JsonObject
        {
            ["tried"] = search.Tried,
            ["seconds"] = Math.Round(search.Time.TotalSeconds, 1),
            ["ended"] = search.Ended,
            ["found"] = new JsonArray([.. search.Found.Select(f => new JsonObject
            {
                ["owner"] = table.Rows[f.Index].Owner,
                ["password"] = shown ? f.Password : PasswordTable.Masked(f.Password),
                ["how"] = f.How,
            })]),
        },
    }.ToJsonString(JsonReport.Indented);

    public static string Csv(PasswordTable table, SearchResult? search, bool shown)
    {
        var found = search?.Found.ToDictionary(f => f.Index) ?? [];
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, Configuration))
        {
            foreach (var title in (ReadOnlySpan<string>)["owner", "value", "scheme", "settings", "strength", "reason", "source", "found"])
            {
                csv.WriteField(title);
            }

            csv.NextRecord();
            foreach (var group in table.Groups)
            {
                foreach (var i in group.Indices)
                {
                    csv.WriteField(table.Rows[i].Owner);
                    csv.WriteField(shown ? table.Rows[i].Value : PasswordTable.Masked(table.Rows[i].Value));
                    csv.WriteField(group.Example.Scheme.Id);
                    csv.WriteField(group.Title);
                    csv.WriteField(PasswordText.Of(group.Rating.Strength));
                    csv.WriteField(group.Rating.Reason);
                    csv.WriteField(group.Rating.Source);
                    csv.WriteField(found.TryGetValue(i, out var password) ? shown ? password.Password : PasswordTable.Masked(password.Password) : "");
                    csv.NextRecord();
                }
            }
        }

        return text.ToString();
    }

    private static JsonArray Shared(PasswordTable table, IReadOnlyList<SharedValue> shared) =>
        [.. shared.Select(s => new JsonArray([.. s.Indices.Select(i => (JsonNode)table.Rows[i].Owner)]))];
}
