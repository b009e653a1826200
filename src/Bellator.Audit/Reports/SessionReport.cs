using System.Globalization;
using System.Text.Json;
using Bellator.Audit.Auditing;
using CsvHelper;

namespace Bellator.Audit.Reports;

/// <summary>Writes what an application hands out to be recognised by, and what ends it.</summary>
public static class SessionReport
{
    public static void Text(ReportedSessions sessions, TextWriter output)
    {
        foreach (var credential in sessions.Credentials)
        {
            output.WriteLine($"{SummaryReport.Printable(credential.Name)} ({SessionText.Kind(credential.Kind)}, {credential.Family}): {SessionText.Summary(credential)}");
            foreach (var operation in credential.Operations)
            {
                output.WriteLine($"  {operation.Kind,-18} {operation.Text}{Place(operation.Evidence)}");
            }

            foreach (var cell in credential.Life)
            {
                output.WriteLine($"  {SessionText.Event(cell.Event),-18} {SessionText.State(cell.State)}: {cell.Text}{Place(cell.Evidence)}");
            }

            output.WriteLine();
        }

        foreach (var row in sessions.Forgery)
        {
            output.WriteLine($"{row.Method,-6} {row.Path}: {SessionText.Forgery(row.State)} ({row.By}){Place(row.Evidence)}");
        }
    }

    public static string Json(ReportedSessions sessions) => JsonSerializer.Serialize(sessions, new JsonSerializerOptions(ReportedApplication.Options) { WriteIndented = true });

    /// <summary>One line for each credential and event, and one for each entry point that changes something.</summary>
    public static string Csv(ReportedSessions sessions)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, PasswordReport.Configuration))
        {
            SurfaceReport.Row(csv, ["what", "name", "kind", "event", "state", "reason", "file", "line"]);
            foreach (var credential in sessions.Credentials)
            {
                foreach (var cell in credential.Life)
                {
                    SurfaceReport.Row(csv, ["credential", credential.Name, SessionText.Kind(credential.Kind), SessionText.Event(cell.Event), SessionText.State(cell.State), cell.Text, .. At(cell.Evidence)]);
                }
            }

            foreach (var row in sessions.Forgery)
            {
                SurfaceReport.Row(csv, ["forgery", $"{row.Method} {row.Path}", "", "", SessionText.Forgery(row.State), row.By, .. At(row.Evidence)]);
            }
        }

        return text.ToString();
    }

    private static string[] At(IReadOnlyList<ReportedEvidence> evidence) => evidence.Count == 0 ? ["", ""] : [evidence[0].At.Path, evidence[0].At.Region.StartLine.ToString(CultureInfo.InvariantCulture)];

    private static string Place(IReadOnlyList<ReportedEvidence> evidence) => evidence.Count == 0 ? "" : $"  {evidence[0].At.Path}:{evidence[0].At.Region.StartLine}";
}
