using System.Globalization;
using System.Text;
using Bellator.Audit.Auditing;

namespace Bellator.Audit.Reports.Handover;

/// <summary>A report as CommonMark with pipe tables. Names and code from audited material are escaped, so that they stay what they are.</summary>
public static class MarkdownReport
{
    public static string Write(ReportContent content)
    {
        var text = new StringBuilder();
        text.Append(CultureInfo.InvariantCulture, $"# {Escape(ReportText.Title(content))}\n\n{Escape(ReportText.AsOf(content))}\n");
        foreach (var section in ReportSections.Of(content))
        {
            text.Append(CultureInfo.InvariantCulture, $"\n## {ReportSections.Title(section)}\n\n");
            if (content.Settings.Words.TryGetValue(section, out var words))
            {
                text.Append(words).Append("\n\n");
            }

            Write(text, content, section);
        }

        return text.ToString();
    }

    private static void Write(StringBuilder text, ReportContent content, string section)
    {
        switch (section)
        {
            case ReportSections.Summary:
                text.AppendJoin("\n\n", ReportText.Summary(content).Select(Escape)).Append('\n');
                break;
            case ReportSections.Method:
                text.Append(ReportText.Method).Append('\n');
                break;
            case ReportSections.Scope:
                Scope(text, content);
                break;
            case ReportSections.Findings or ReportSections.Open or ReportSections.Accepted or ReportSections.Dismissed:
                Causes(text, content, section);
                break;
            case ReportSections.Changes when content.Changes is { } changes:
                text.Append(CultureInfo.InvariantCulture, $"Compared with {Escape(changes.Since)}. {Escape(changes.Headline)}\n\n");
                Table(text, ["State", "Finding", "Place", "How it is known"], changes.Findings.Select(c => (string[])[c.State, c.Title, c.Place, c.Reason]));
                Table(text, ["Part", "Change", "What", ""], changes.Parts.Select(p => (string[])[p.Part, p.Kind, p.Subject, p.Text]));
                break;
            case ReportSections.Standards:
                foreach (var standard in content.Standards)
                {
                    text.Append(CultureInfo.InvariantCulture, $"### {standard.Title}\n\n{standard.Coverage}{(standard.IsFromMemory ? " Numbers were written down from memory, and the words are ours." : "")}\n\n");
                    Table(text, ["Number", "Requirement", "State", "Evidence"], standard.Chapters.SelectMany(c => c.Requirements).Select(r => (string[])[r.Number, r.Text, r.State, string.Join("; ", r.Evidence.Take(6).Concat(r.Reason is { } reason ? [$"{r.By} says: {reason}"] : []))]));
                }

                break;
            case ReportSections.Journeys:
                foreach (var journey in content.About.Accounts?.Journeys ?? [])
                {
                    text.Append(CultureInfo.InvariantCulture, $"### {JourneyText.Title(journey.Kind)} {Code(journey.Address)}\n\n");
                    Table(text, ["Step", "State", "What was found"], journey.Steps.Select(s => (string[])[s.Name, JourneyText.State(s.State), s.Text]));
                }

                break;
            case ReportSections.Appendix:
                text.Append("### Endpoints\n\n");
                Table(text, ["Method", "Path", "Sign-in", "Code"], content.About.Surface.Entries.Select(e => (string[])[e.Method, e.Path, SurfaceReport.Words(e.SignIn), $"{e.Declared.Path}:{e.Declared.Region.StartLine}"]));
                text.Append("### Tables\n\n");
                Table(text, ["Table", "Columns"], content.About.Surface.Tables.Select(t => (string[])[t.Name, string.Join(", ", t.Columns.Select(c => c.Name))]));
                break;
        }
    }

    private static void Scope(StringBuilder text, ReportContent content)
    {
        var scope = content.Scope;
        text.Append(CultureInfo.InvariantCulture, $"- Handed in: {Escape(scope.Name)}{(scope.Snapshot is { } number ? $", snapshot {number}" : "")}\n- SHA-256: {Code(scope.Digest)}\n- Audited: {ReportText.Say(scope.Files, "file")}, {ReportText.Say(scope.Lines, "line")}\n- Left out: {scope.LeftOutCount}\n");
        foreach (var stated in scope.Stated)
        {
            text.Append(CultureInfo.InvariantCulture, $"- Stated by a reviewer: {Escape(stated)}\n");
        }

        foreach (var omission in scope.LeftOut)
        {
            text.Append(CultureInfo.InvariantCulture, $"  - {Code(omission.Path)}: {Escape(omission.Reason)}\n");
        }

        foreach (var note in scope.Notes)
        {
            text.Append(CultureInfo.InvariantCulture, $"- Note: {(note.Path.Length > 0 ? Code(note.Path) + ": " : "")}{Escape(note.Text)}\n");
        }
    }

    private static void Causes(StringBuilder text, ReportContent content, string section)
    {
        var causes = ReportText.CausesOf(content, section);
        text.Append(causes.Count == 0 ? "None.\n" : "");
        foreach (var (cause, findings) in causes)
        {
            text.Append(CultureInfo.InvariantCulture, $"### {cause.Title} ({ReportText.Severity(cause.Score)}, {cause.Certainty})\n\n{string.Join(", ", cause.Cwes.Select(c => "CWE-" + c))}; ASVS 5.0 {string.Join(", ", cause.Asvs)}; {Code(cause.Vector)}\n\n**Where to change:** {Escape(cause.WhereToChange)}\n\n");
            if (cause.Ways.Count > 0)
            {
                text.Append(CultureInfo.InvariantCulture, $"**Reached from:** {Escape(string.Join("; ", cause.Ways.Take(12).Select(ReportText.Way)))}\n\n");
            }

            foreach (var finding in findings)
            {
                text.Append(CultureInfo.InvariantCulture, $"- {Escape(finding.Message)} {Code($"{finding.Path}:{finding.Line}")}\n");
                foreach (var step in finding.Steps)
                {
                    text.Append(CultureInfo.InvariantCulture, $"  1. {Code($"{step.Path}:{step.Line}")} {Escape(step.Text)}{(step.Code.Length > 0 ? ": " + Code(step.Code) : "")}\n");
                }

                if (finding.Witness is { } witness)
                {
                    text.Append(CultureInfo.InvariantCulture, $"\n  Witness: {Code(witness.Crafted)} {Escape(witness.Explanation)}\n");
                }

                text.Append(CultureInfo.InvariantCulture, $"\n  **{Escape(ReportText.Verdict(finding))}**\n");
            }

            text.Append(CultureInfo.InvariantCulture, $"\n**Why it matters:** {Escape(cause.Why)}\n\n**How to fix:** {Escape(cause.HowToFix)}\n\n");
        }
    }

    private static void Table(StringBuilder text, IReadOnlyList<string> head, IEnumerable<string[]> rows)
    {
        text.Append(CultureInfo.InvariantCulture, $"| {string.Join(" | ", head)} |\n|{string.Concat(head.Select(_ => "---|"))}\n");
        foreach (var row in rows)
        {
            text.Append(CultureInfo.InvariantCulture, $"| {string.Join(" | ", row.Select(Escape))} |\n");
        }

        text.Append('\n');
    }

    /// <summary>Text in which nothing is markup (CommonMark 0.31.2, section 2.4: any ASCII punctuation may be escaped).</summary>
    internal static string Escape(string text)
    {
        var escaped = new StringBuilder(text.Length + 8);
        foreach (var c in text.ReplaceLineEndings(" "))
        {
            escaped.Append(c is '\\' or '`' or '*' or '_' or '[' or ']' or '<' or '>' or '|' or '#' or '~' or '!' or '&' ? "\\" : "").Append(c);
        }

        return escaped.ToString();
    }

    /// <summary>A code span, with more backticks around it than stand in it (section 6.1).</summary>
    internal static string Code(string text)
    {
        text = text.ReplaceLineEndings(" ");
        var longest = 0;
        for (var (i, run) = (0, 0); i < text.Length; i++)
        {
            run = text[i] == '`' ? run + 1 : 0;
            longest = Math.Max(longest, run);
        }

        var fence = new string('`', longest + 1);
        return longest > 0 ? $"{fence} {text} {fence}" : text.Length == 0 ? "" : $"{fence}{text}{fence}";
    }
}
