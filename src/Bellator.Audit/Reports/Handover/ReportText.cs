using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Scoring;

namespace Bellator.Audit.Reports.Handover;

/// <summary>The sentences that every form of a report has.</summary>
internal static class ReportText
{
    public const string Method =
        """
        The source was read, and nothing of it was run. Values were followed from where a request brings them in to where they are used, through functions, objects and templates of the languages named under scope. Three words say how a finding is known. **Proved**: a concrete input, or a statement that PostgreSQL took, shows it. **Traced**: the value was followed from source to sink, or a path was shown to miss a check. **Matched**: a local pattern, to be looked at by a person.

        What this cannot see: code that was left out, libraries that are not described to the program, settings of the servers it runs on, and whatever is decided at run time by data. That nothing was found is no proof that nothing is there. Severities are CVSS 3.1 base scores of a typical case; the circumstances of the application may make them higher or lower.
        """;

    public static string Title(ReportContent content) => $"Security review of {content.Application}";

    public static string AsOf(ReportContent content) => $"As of {content.Date.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}{(content.Scope.Snapshot is { } number ? $", snapshot {number}" : "")}{(content.By.Length > 0 ? $", by {content.By}" : "")}. Made with Bellator {content.Program}.";

    /// <summary>For somebody who reads one page.</summary>
    public static IEnumerable<string> Summary(ReportContent content)
    {
        var confirmed = content.Causes.Where(c => c.Verdict == Verdicts.Confirmed).ToList();
        var open = content.Count(Verdicts.ToJudge);
        yield return $"{Say(content.Findings.Count(), "finding")} with {Say(content.Causes.Count, "cause")} in {Say(content.Scope.Files, "file")} and {Say(content.Scope.Lines, "line")}: "
            + $"{content.Count(Verdicts.Confirmed)} confirmed, {content.Count(Verdicts.RiskAccepted)} accepted as a risk, {content.Count(Verdicts.FalsePositive)} false positives, {content.Count(Verdicts.Fixed)} fixed, {open} not judged yet.";
        if (confirmed.Count > 0)
        {
            var worst = confirmed.OrderByDescending(c => c.Score).First();
            yield return $"The most severe confirmed weakness is {Lower(worst.Title)} at {worst.Place} ({Severity(worst.Score)}). {worst.Why}";
            yield return $"{Say(confirmed.Count, "cause")} {(confirmed.Count == 1 ? "is" : "are")} confirmed, most severe first: {string.Join("; ", confirmed.OrderByDescending(c => c.Score).Take(8).Select(c => $"{Lower(c.Title)} at {c.Place}"))}{(confirmed.Count > 8 ? $"; and {confirmed.Count - 8} more" : "")}.";
        }
        else
        {
            yield return "No finding is confirmed.";
        }

        if (open > 0)
        {
            yield return $"{Say(open, "finding")} {(open == 1 ? "has" : "have")} not been judged by a person. {(open == 1 ? "It is" : "They are")} listed apart, and nothing is claimed of {(open == 1 ? "it" : "them")} beyond what the program found.";
        }
    }

    public static string Severity(double score) => string.Create(CultureInfo.InvariantCulture, $"{score:0.0} {Cvss31.Rating(score).ToLowerInvariant()}");

    public static string Verdict(ReportFinding finding) => finding.Verdict
        + (finding.Until is { } until ? $" until {until.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}" : "")
        + (finding.By is { Length: > 0 } by ? $" by {by}" : "")
        + (finding.At is { } at ? $" on {at.ToString("d MMMM yyyy", CultureInfo.InvariantCulture)}" : "")
        + (finding.Reason is { Length: > 0 } reason ? $": {reason}" : "");

    public static string Way(ReportedWay way) => $"{way.Method} {way.Path} ({way.Who})";

    /// <summary>The causes that a section is about.</summary>
    public static IReadOnlyList<(ReportCause Cause, IReadOnlyList<ReportFinding> Findings)> CausesOf(ReportContent content, string section)
    {
        Func<ReportFinding, bool> wanted = section switch
        {
            ReportSections.Findings => f => f.Verdict == Verdicts.Confirmed,
            ReportSections.Open => f => f.Verdict == Verdicts.ToJudge,
            ReportSections.Accepted => f => f.Verdict == Verdicts.RiskAccepted,
            _ => f => f.Verdict is Verdicts.FalsePositive or Verdicts.Fixed,
        };
        return [.. content.Causes.Select(c => (c, (IReadOnlyList<ReportFinding>)[.. c.Findings.Where(wanted)])).Where(c => c.Item2.Count > 0)];
    }

    public static string Say(long count, string one) => string.Create(CultureInfo.InvariantCulture, $"{count:N0} {(count == 1 ? one : one + "s")}");

    /// <summary>A title within a sentence; abbreviations keep their letters.</summary>
    public static string Lower(string title) => title.Length > 1 && char.IsUpper(title[1]) ? title : char.ToLowerInvariant(title[0]) + title[1..];
}
