using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bellator.Audit.Auditing;
using CsvHelper;

namespace Bellator.Audit.Reports;

/// <summary>Writes the surface of an application: as JSON with Bellator's own names, as CSV, and as lines to read.</summary>
public static class SurfaceReport
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web) { WriteIndented = true, Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull };

    public static string Json(ReportedSurface surface) => JsonSerializer.Serialize(surface, Options);

    public static ReportedSurface Read(string json) => JsonSerializer.Deserialize<ReportedSurface>(json, Options) ?? ReportedSurface.Empty;

    /// <summary>The whole application: what <see cref="Json(ReportedSurface)"/> has, and its journeys and policies.</summary>
    public static string Json(ReportedSurface surface, ReportedAccounts accounts) =>
        JsonSerializer.Serialize(new { surface.Entries, surface.Tables, surface.Everywhere, accounts.Journeys, accounts.Policies }, Options);

    /// <summary>One line for each use of a table by an address; addresses that use none have one line too.</summary>
    public static string Csv(ReportedSurface surface)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, PasswordReport.Configuration))
        {
            string[] head = ["method", "path", "handler", "file", "line", "sign_in", "guards", "inputs", "action", "table", "columns", "at", "answers"];
            Row(csv, head);
            foreach (var entry in surface.Entries)
            {
                foreach (var access in entry.Accesses.Count > 0 ? entry.Accesses.Cast<ReportedAccess?>() : [null])
                {
                    Row(csv,
                    [
                        entry.Method, entry.Path, entry.Handler, entry.Declared.Path, entry.Declared.Region.StartLine.ToString(CultureInfo.InvariantCulture), Words(entry.SignIn),
                        string.Join(" > ", entry.Guards.Select(g => g.Name)), string.Join(", ", entry.Inputs.Select(Input)), access?.Action ?? "", access?.Table ?? "",
                        access is null ? "" : string.Join(", ", access.Columns), access is null ? "" : $"{access.At.Path}:{access.At.Region.StartLine}", string.Join("; ", entry.Answers),
                    ]);
                }
            }
        }

        return text.ToString();
    }

    internal static void Row(CsvWriter csv, IEnumerable<string> fields)
    {
        foreach (var field in fields)
        {
            csv.WriteField(field);
        }

        csv.NextRecord();
    }

    public static string Input(ReportedInput input) => input.Name.Length == 0 ? $"whole {input.Part}" : $"{input.Part} {input.Name}";

    /// <summary>The state of sign-in in words.</summary>
    public static string Words(string signIn) => signIn switch
    {
        "needed" => "needed",
        "unclear" => "unclear",
        _ => "not needed",
    };

    /// <summary>The journeys, one line for each step.</summary>
    public static void Journeys(ReportedAccounts accounts, TextWriter output)
    {
        foreach (var journey in accounts.Journeys)
        {
            output.WriteLine();
            output.WriteLine($"{JourneyText.Title(journey.Kind)}  {journey.Address}  ({journey.By}, {journey.At.Path}:{journey.At.Region.StartLine})");
            foreach (var step in journey.Steps)
            {
                output.WriteLine($"  {JourneyText.State(step.State),-10} {step.Name,-16} {step.Text}");
            }
        }

        foreach (var policy in accounts.Policies)
        {
            output.WriteLine();
            output.WriteLine($"Passwords, {policy.Name}: {(policy.Rules.Count == 0 ? "no rule was found" : string.Join(", ", policy.Rules.Select(r => $"{r.Kind} {(r.Value.Length > 0 ? r.Value : "as a setting says")}")))}; {(policy.Tried == 0 ? "how many of the common ones are taken is not known" : $"{policy.Accepted} of the {policy.Tried} most common are taken")}");
        }
    }

    public static void Text(ReportedSurface surface, TextWriter output)
    {
        output.WriteLine($"{surface.Entries.Count} addresses, {surface.Tables.Count} tables");
        foreach (var entry in surface.Entries)
        {
            var uses = string.Join(", ", entry.Accesses.GroupBy(a => a.Table, StringComparer.OrdinalIgnoreCase).Select(g => $"{g.Key} ({string.Join(' ', g.Select(a => a.Action).Distinct())})"));
            output.WriteLine($"{entry.Method,-6} {entry.Path,-44} {(entry.SignIn == "needed" ? "signed in" : entry.SignIn == "unclear" ? "unclear" : "anybody"),-10} {entry.Declared.Path}:{entry.Declared.Region.StartLine} {entry.Handler}{(uses.Length > 0 ? "  → " + uses : "")}");
        }

        if (surface.OnMostWays.Length > 0)
        {
            output.WriteLine("On the way to most of them: " + surface.OnMostWays);
        }

        output.WriteLine();
        foreach (var table in surface.Tables)
        {
            output.WriteLine($"{table.Name}: {string.Join(", ", table.Columns.Select(c => c.Name + (c.Length is { } l ? $"({l})" : "") + (c.Meaning.Length > 0 ? $" [{c.Meaning}]" : "")))}");
        }
    }
}
