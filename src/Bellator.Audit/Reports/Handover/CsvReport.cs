using System.Globalization;
using CsvHelper;

namespace Bellator.Audit.Reports.Handover;

/// <summary>Findings, and requirements of standards, as CSV (RFC 4180). Fields that a spreadsheet would take for formulas are made harmless.</summary>
public static class CsvReport
{
    public static string Findings(ReportContent content) => Write(
        ["check", "title", "area", "severity", "certainty", "cwe", "path", "line", "message", "cause", "endpoints", "verdict", "reason", "judged_by", "judged_on", "state", "fingerprint"],
        content.Causes.SelectMany(c => c.Findings.Select(f => (string[])
        [
            c.CheckId, c.Title, c.Area, c.Score.ToString("0.0", CultureInfo.InvariantCulture), f.Certainty, string.Join(' ', c.Cwes.Select(n => "CWE-" + n)), f.Path, f.Line.ToString(CultureInfo.InvariantCulture), f.Message, c.Place,
            string.Join("; ", c.Ways.Select(w => $"{w.Method} {w.Path}")), f.Verdict, f.Reason ?? "", f.By ?? "", f.At?.ToString("O", CultureInfo.InvariantCulture) ?? "", f.State ?? "", f.Fingerprint,
        ])));

    public static string Standards(IReadOnlyList<ReportStandard> standards) => Write(
        ["standard", "chapter", "number", "requirement", "state", "evidence", "reason", "by"],
        standards.SelectMany(s => s.Chapters.SelectMany(c => c.Requirements.Select(r => (string[])[s.Title, c.Title, r.Number, r.Text, r.State, string.Join("; ", r.Evidence), r.Reason ?? "", r.By ?? ""]))));

    private static string Write(string[] head, IEnumerable<string[]> rows)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        using (var csv = new CsvWriter(text, PasswordReport.Configuration))
        {
            foreach (var row in rows.Prepend(head))
            {
                foreach (var field in row)
                {
                    csv.WriteField(field);
                }

                csv.NextRecord();
            }
        }

        return text.ToString();
    }
}
