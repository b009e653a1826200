using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;

namespace Bellator.Audit.Reports;

/// <summary>The summary that the command line prints: by area, most serious first.</summary>
public static class SummaryReport
{
    /// <summary>What could not be audited as it should is said here too, up to so many lines.</summary>
    private const int ShownNotes = 20;

    public static void Write(AuditResult result, TextWriter output)
    {
        foreach (var area in CheckList.Areas)
        {
            var findings = result.Findings.Where(f => f.Area == area).ToList();
            if (findings.Count == 0)
            {
                continue;
            }

            output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{char.ToUpperInvariant(area[0])}{area[1..]} ({findings.Count})"));
            findings.ForEach(f => Write(f, output));

            output.WriteLine();
        }

        WriteFigures(result, output);
    }

    /// <summary>What was audited, and what could not be.</summary>
    public static void WriteFigures(AuditResult result, TextWriter output)
    {
        foreach (var note in result.Notes.Take(ShownNotes))
        {
            output.WriteLine($"Note: {(note.Path.Length > 0 ? Printable(note.Path) + ": " : "")}{Printable(note.Text)}");
        }

        if (result.Notes.Count > ShownNotes)
        {
            output.WriteLine(string.Create(CultureInfo.InvariantCulture, $"… and {result.Notes.Count - ShownNotes} more notes, which the reports have."));
        }

        var figures = result.Figures;
        output.WriteLine(string.Create(
            CultureInfo.InvariantCulture,
            $"{Counted(result.Findings.Count, "finding")} in {Counted(figures.Files, "file")}, {Counted(figures.Lines, "line")}; {Counted(result.Skipped.Count, "file or folder", "files or folders")} left out; {figures.TotalTime.TotalSeconds:0.0} s."));
        if (figures.Nodes > 0 && (figures.OpaqueNodes > 0 || figures.ParseErrors > 0))
        {
            output.WriteLine(string.Create(
                CultureInfo.InvariantCulture,
                $"Not understood: {100.0 * figures.OpaqueNodes / figures.Nodes:0.###} % of the code ({figures.OpaqueNodes} nodes); {figures.ParseErrors} places did not parse."));
        }
    }

    private static string Counted(long count, string one, string? many = null) => string.Create(CultureInfo.InvariantCulture, $"{count} {(count == 1 ? one : many ?? one + "s")}");

    /// <summary>Two lines on one finding.</summary>
    /// <param name="sign">Stands before it.</param>
    public static void Write(ReportedFinding finding, TextWriter output, char sign = ' ')
    {
        output.WriteLine(string.Create(
            CultureInfo.InvariantCulture,
            $"{sign} {finding.Score,4:0.0}  {Printable(finding.Path)}:{finding.Region.StartLine}  {finding.Certainty.ToString().ToLowerInvariant()}  {finding.CheckId}"));
        output.WriteLine("        " + Printable(finding.Message));
    }

    /// <summary>Names come from audited material: nothing in them may steer the terminal.</summary>
    public static string Printable(string text) => string.Concat(text.Select(c => char.IsControl(c) ? '?' : c));
}
