using System.Globalization;
using System.Net;
using System.Reflection;
using System.Text;
using Bellator.Audit.Auditing;

namespace Bellator.Audit.Reports.Handover;

/// <summary>
/// A report as one HTML file: no script, nothing from elsewhere, and printed on A4 or Letter with page numbers. All that comes from
/// audited material or from people is encoded.
/// </summary>
public sealed class HtmlReport
{
    private const int MostRows = 400;

    private readonly StringBuilder _html = new();
    private readonly ReportContent _content;

    /// <summary>A cause has one number in all sections that it is in.</summary>
    private readonly Dictionary<ReportCause, int> _numbers = new(ReferenceEqualityComparer.Instance);

    private HtmlReport(ReportContent content)
    {
        _content = content;
        foreach (var cause in content.Causes)
        {
            _numbers[cause] = _numbers.Count + 1;
        }
    }

    public static string Write(ReportContent content)
    {
        var report = new HtmlReport(content);
        report.Write();
        return report._html.ToString();
    }

    private static readonly Lazy<string> Style = new(() =>
    {
        using var text = new StreamReader(Assembly.GetExecutingAssembly().GetManifestResourceStream("report.css")!);
        return text.ReadToEnd();
    });

    private void Write()
    {
        var sections = ReportSections.Of(_content);
        Raw("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        Raw("<meta http-equiv=\"Content-Security-Policy\" content=\"default-src 'none'; style-src 'unsafe-inline'\">\n");
        Raw($"<title>{E(ReportText.Title(_content))}</title>\n<style>\n{Style.Value}</style>\n</head>\n<body>\n<header>\n<h1>{E(ReportText.Title(_content))}</h1>\n<p class=\"as-of\">{E(ReportText.AsOf(_content))}</p>\n</header>\n");
        Raw("<nav aria-label=\"Contents\"><h2>Contents</h2><ol>");
        foreach (var section in sections)
        {
            Raw($"<li><a href=\"#{section}\">{E(ReportSections.Title(section))}</a>");
            if (section == ReportSections.Findings && ReportText.CausesOf(_content, section) is { Count: > 0 } causes)
            {
                Raw($"<ol>{string.Concat(causes.Select(c => $"<li><a href=\"#{IdOf(section, c.Cause)}\">{E(c.Cause.Title)}, {E(c.Cause.Place)}</a></li>"))}</ol>");
            }

            Raw("</li>");
        }

        Raw("</ol></nav>\n<main>\n");
        foreach (var section in sections)
        {
            Raw($"<section id=\"{section}\">\n<h2>{E(ReportSections.Title(section))}</h2>\n");
            if (_content.Settings.Words.TryGetValue(section, out var words))
            {
                Raw($"<div class=\"words\">{SafeMarkdown.Html(words)}</div>\n");
            }

            Write(section);
            Raw("</section>\n");
        }

        Raw("</main>\n</body>\n</html>\n");
    }

    private void Write(string section)
    {
        switch (section)
        {
            case ReportSections.Summary:
                foreach (var sentence in ReportText.Summary(_content))
                {
                    Raw($"<p>{E(sentence)}</p>\n");
                }

                Raw(ReportPictures.SeverityByArea(_content));
                break;
            case ReportSections.Scope:
                WriteScope();
                break;
            case ReportSections.Method:
                Raw(SafeMarkdown.Html(ReportText.Method));
                break;
            case ReportSections.Findings or ReportSections.Open or ReportSections.Accepted or ReportSections.Dismissed:
                WriteCauses(section);
                break;
            case ReportSections.Changes:
                WriteChanges(_content.Changes);
                break;
            case ReportSections.Standards:
                WriteStandards();
                break;
            case ReportSections.Journeys:
                WriteJourneys();
                break;
            default:
                WriteAppendix();
                break;
        }
    }

    private void WriteScope()
    {
        var scope = _content.Scope;
        Raw("<table class=\"facts\">");
        foreach (var (name, value) in ((string, string)[])
        [
            ("Handed in", scope.Name), ("Snapshot", scope.Snapshot?.ToString(CultureInfo.InvariantCulture) ?? ""), ("SHA-256", scope.Digest), ("Audited", $"{ReportText.Say(scope.Files, "file")}, {ReportText.Say(scope.Lines, "line")}"),
            ("Left out", scope.LeftOutCount == 0 ? "nothing" : scope.LeftOutCount == 1 ? "1 file or folder" : $"{scope.LeftOutCount} files or folders"), ("Program", "Bellator " + _content.Program),
        ])
        {
            if (value.Length > 0)
            {
                Raw($"<tr><th scope=\"row\">{E(name)}</th><td>{E(value)}</td></tr>");
            }
        }

        Raw("</table>\n");
        List("What reviewers stated of the code, and the audit took their word for", scope.Stated, scope.Stated.Count);
        List("What was left out", [.. scope.LeftOut.Select(l => $"{l.Path}: {l.Reason}")], scope.LeftOutCount);
        List("What could not be audited as it should, and limits that were reached", [.. scope.Notes.Select(n => n.Path.Length > 0 ? $"{n.Path}: {n.Text}" : n.Text)], scope.Notes.Count);
    }

    private void List(string title, IReadOnlyList<string> lines, int count)
    {
        if (lines.Count > 0)
        {
            Raw($"<h3>{E(title)}</h3>\n<ul class=\"compact\">{string.Concat(lines.Take(MostRows).Select(l => $"<li>{E(l)}</li>"))}</ul>\n");
            if (count > Math.Min(lines.Count, MostRows))
            {
                Raw($"<p class=\"small\">and {count - Math.Min(lines.Count, MostRows)} more</p>\n");
            }
        }
    }

    private void WriteCauses(string section)
    {
        var causes = ReportText.CausesOf(_content, section);
        if (causes.Count == 0)
        {
            Raw("<p>None.</p>\n");
        }

        foreach (var area in causes.GroupBy(c => c.Cause.Area))
        {
            Raw($"<h3 class=\"area\">{E(char.ToUpperInvariant(area.Key[0]) + area.Key[1..])}</h3>\n");
            foreach (var (cause, findings) in area)
            {
                WriteCause(section, cause, findings);
            }
        }
    }

    private void WriteCause(string section, ReportCause cause, IReadOnlyList<ReportFinding> findings)
    {
        Raw($"<article id=\"{IdOf(section, cause)}\">\n<h4>{E(cause.Title)} <span class=\"score {Band(cause.Score)}\">{E(ReportText.Severity(cause.Score))}</span></h4>\n");
        Raw($"<p class=\"small\">{E(cause.Certainty)} · {E(string.Join(", ", cause.Cwes.Select(c => "CWE-" + c)))} · ASVS 5.0 {E(string.Join(", ", cause.Asvs))} · {E(cause.Vector)}</p>\n");
        Raw($"<p><strong>Where to change:</strong> {E(cause.WhereToChange)}</p>\n");
        if (cause.Ways.Count > 0)
        {
            Raw($"<p><strong>Reached from:</strong> {E(string.Join("; ", cause.Ways.Take(12).Select(ReportText.Way)))}{(cause.Ways.Count > 12 ? $" and {cause.Ways.Count - 12} more" : "")}</p>\n");
        }

        Raw(ReportPictures.Flow(cause, findings));
        foreach (var finding in findings.Take(MostRows))
        {
            WriteFinding(finding);
        }

        if (section is ReportSections.Findings or ReportSections.Open or ReportSections.Accepted)
        {
            Raw($"<p><strong>Why it matters:</strong> {E(cause.Why)}</p>\n<p><strong>How to fix:</strong> {E(cause.HowToFix)}</p>\n<p class=\"small\">False positive if: {E(cause.FalsePositiveIf)}</p>\n");
        }

        Raw("</article>\n");
    }

    private void WriteFinding(ReportFinding finding)
    {
        Raw($"<div class=\"finding {E(finding.Certainty)}\">\n<p>{E(finding.Message)} <span class=\"code\">{E(finding.Path)}:{finding.Line}</span></p>\n<ol class=\"steps\">");
        foreach (var step in finding.Steps)
        {
            Raw($"<li><span class=\"code place\">{E(step.Path)}:{step.Line}</span> {E(step.Text)}{(step.Code.Length > 0 ? $"<pre>{E(step.Code)}</pre>" : "")}</li>");
        }

        Raw("</ol>\n");
        if (finding.Witness is { } witness)
        {
            Raw($"<div class=\"witness\"><p class=\"small\">{E(witness.Explanation)}</p><pre>{E(witness.Ordinary)}</pre><pre class=\"crafted\">{E(witness.Crafted)}</pre>{(witness.Rows is { } rows ? $"<p class=\"small\">On invented rows, PostgreSQL answers the second one with:</p><pre>{E(rows)}</pre>" : "")}</div>\n");
        }

        Raw($"<p class=\"verdict\">{E(ReportText.Verdict(finding))}{(finding.State is { Length: > 0 } state ? $" · {E(state)} since the version before" : "")}</p>\n</div>\n");
    }

    private void WriteChanges(ReportChanges? changes)
    {
        if (changes is null)
        {
            return;
        }

        Raw($"<p>Compared with {E(changes.Since)}. {E(changes.Headline)}</p>\n");
        Table(["State", "Finding", "Place", "How it is known"], changes.Findings.Select(c => (string[])[c.State, c.Title, c.Place, c.Reason]));
        if (changes.Parts.Count > 0)
        {
            Raw("<h3>What the application is</h3>\n");
            Table(["Part", "Change", "What", ""], changes.Parts.Select(p => (string[])[p.Part, p.Kind, p.Subject, p.Text]));
        }
    }

    private void WriteStandards()
    {
        foreach (var standard in _content.Standards)
        {
            Raw($"<h3>{E(standard.Title)}</h3>\n<p>{E(standard.Coverage)}{(standard.IsFromMemory ? " <span class=\"small\">Numbers were written down from memory, and the words are ours.</span>" : "")}</p>\n");
            Raw("<table><thead><tr><th scope=\"col\">Number</th><th scope=\"col\">Requirement</th><th scope=\"col\">State</th><th scope=\"col\">Evidence</th></tr></thead>");
            foreach (var chapter in standard.Chapters)
            {
                Raw($"<tbody><tr><th colspan=\"4\" scope=\"rowgroup\">{E(chapter.Title)}</th></tr>");
                foreach (var requirement in chapter.Requirements)
                {
                    var evidence = requirement.Evidence.Concat(requirement.Reason is { } reason ? [$"{requirement.By} says: {reason}"] : []);
                    Raw($"<tr><td class=\"code\">{E(requirement.Number)}</td><td>{E(requirement.Text)}</td><td class=\"state {requirement.State.Replace(' ', '-')}\">{E(requirement.State)}</td><td class=\"small\">{string.Join("<br>", evidence.Take(6).Select(E))}</td></tr>");
                }

                Raw("</tbody>");
            }

            Raw("</table>\n");
        }
    }

    private void WriteJourneys()
    {
        foreach (var journey in _content.About.Accounts?.Journeys ?? [])
        {
            Raw($"<article class=\"journey\"><h4>{E(JourneyText.Title(journey.Kind))} <span class=\"code\">{E(journey.Address)}</span></h4>\n{ReportPictures.Journey(journey)}");
            var missing = journey.Steps.Where(s => s.State is "absent" or "unclear").ToList();
            if (missing.Count > 0)
            {
                Raw($"<ul class=\"compact\">{string.Concat(missing.Select(s => $"<li><strong>{E(s.Name)}</strong> {E(JourneyText.State(s.State))}: {E(s.Text)}</li>"))}</ul>");
            }

            Raw("</article>\n");
        }
    }

    private void WriteAppendix()
    {
        var surface = _content.About.Surface;
        Raw("<h3>Endpoints</h3>\n");
        Table(["Method", "Path", "Sign-in", "Code", "Tables"], surface.Entries.Select(e => (string[])[e.Method, e.Path, SurfaceReport.Words(e.SignIn), $"{e.Declared.Path}:{e.Declared.Region.StartLine}", string.Join(", ", e.Accesses.Select(a => $"{a.Table} ({a.Action})").Distinct())]));
        Raw("<h3>Tables</h3>\n");
        Table(["Table", "Columns"], surface.Tables.Select(t => (string[])[t.Name, string.Join(", ", t.Columns.Select(c => c.Name + (c.Length is { } length ? $"({length})" : "") + (c.Meaning.Length > 0 ? $" [{c.Meaning}]" : "")))]));
        Raw("<h3>Password policy</h3>\n");
        Table(["Where", "Rules", "Common passwords that are taken"], (_content.About.Accounts?.Policies ?? []).Select(p => (string[])[p.Name, p.Rules.Count == 0 ? "no rule was found" : string.Join(", ", p.Rules.Select(r => $"{r.Kind} {r.Value}".Trim())), p.Tried == 0 ? "not known" : $"{p.Accepted} of {p.Tried}"]));
    }

    private void Table(IReadOnlyList<string> head, IEnumerable<string[]> rows)
    {
        var all = rows.ToList();
        if (all.Count == 0)
        {
            Raw("<p>None.</p>\n");
            return;
        }

        Raw($"<table><thead><tr>{string.Concat(head.Select(h => $"<th scope=\"col\">{E(h)}</th>"))}</tr></thead><tbody>");
        foreach (var row in all.Take(MostRows))
        {
            Raw($"<tr>{string.Concat(row.Select(c => $"<td>{E(c)}</td>"))}</tr>");
        }

        Raw($"</tbody></table>\n{(all.Count > MostRows ? $"<p class=\"small\">and {all.Count - MostRows} more, which the JSON report has</p>\n" : "")}");
    }

    private static string Band(double score) => score >= 9 ? "critical" : score >= 7 ? "high" : score >= 4 ? "medium" : "low";

    private string IdOf(string section, ReportCause cause) => $"{section}-{_numbers[cause]}";

    private static string E(string text) => WebUtility.HtmlEncode(text);

    private void Raw(string html) => _html.Append(html);
}
