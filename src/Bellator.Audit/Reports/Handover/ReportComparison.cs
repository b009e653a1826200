using System.Globalization;
using Bellator.Audit.Comparison;

namespace Bellator.Audit.Reports.Handover;

/// <param name="Verdict">As the later report says it; as the earlier one does where the finding is gone.</param>
/// <param name="Was">The earlier verdict, where it is another one.</param>
/// <param name="Reason">Why, as the later report says it.</param>
public sealed record ComparedReportFinding(string Title, double Score, string Place, string Message, string Verdict, string? Was, string? Reason);

/// <param name="Standard">The title of the standard.</param>
public sealed record ComparedRequirement(string Standard, string Number, string Text, string State, string Was);

/// <summary>What one report of a review says and an earlier one did not: findings by the names they are known by over versions, verdicts, requirements, and what the application is.</summary>
public sealed record ReportComparison(
    IReadOnlyList<ComparedReportFinding> New,
    IReadOnlyList<ComparedReportFinding> Gone,
    IReadOnlyList<ComparedReportFinding> Judged,
    IReadOnlyList<ComparedRequirement> Requirements,
    IReadOnlyList<PartChange> Parts,
    IReadOnlyList<string> Stated)
{
    public bool IsSame => New.Count + Gone.Count + Judged.Count + Requirements.Count + Parts.Count + Stated.Count == 0;

    /// <summary>In a sentence.</summary>
    public string Headline => IsSame
        ? "Both reports say the same."
        : string.Create(CultureInfo.InvariantCulture, $"{ReportText.Say(New.Count, "finding")} more, {ReportText.Say(Gone.Count, "finding")} gone, {ReportText.Say(Judged.Count, "verdict")} changed, {ReportText.Say(Requirements.Count, "requirement")} assessed otherwise.");

    public static ReportComparison Of(ReportContent before, ReportContent after)
    {
        var old = Findings(before);
        var now = Findings(after);
        var states = before.Standards.SelectMany(s => s.Chapters.SelectMany(c => c.Requirements.Select(r => (Key: (s.Title, r.Number), r.State)))).DistinctBy(r => r.Key).ToDictionary(r => r.Key, r => r.State);
        return new ReportComparison(
            [.. now.Where(f => !old.ContainsKey(f.Key)).Select(f => Row(f.Value, null))],
            [.. old.Where(f => !now.ContainsKey(f.Key)).Select(f => Row(f.Value, null))],
            [.. now.Where(f => old.TryGetValue(f.Key, out var was) && was.Finding.Verdict != f.Value.Finding.Verdict).Select(f => Row(f.Value, old[f.Key].Finding.Verdict))],
            [
                .. after.Standards.SelectMany(s => s.Chapters.SelectMany(c => c.Requirements
                    .Where(r => states.TryGetValue((s.Title, r.Number), out var was) && was != r.State)
                    .Select(r => new ComparedRequirement(s.Title, r.Number, r.Text, r.State, states[(s.Title, r.Number)])))),
            ],
            ComparedParts.Compare(before.About, after.About),
            [.. after.Scope.Stated.Except(before.Scope.Stated).Select(s => "stated: " + s), .. before.Scope.Stated.Except(after.Scope.Stated).Select(s => "no longer stated: " + s)]);
    }

    private static Dictionary<string, (ReportCause Cause, ReportFinding Finding)> Findings(ReportContent report) =>
        report.Causes.SelectMany(c => c.Findings.Select(f => (Cause: c, Finding: f))).DistinctBy(f => f.Finding.Fingerprint).ToDictionary(f => f.Finding.Fingerprint, StringComparer.Ordinal);

    private static ComparedReportFinding Row((ReportCause Cause, ReportFinding Finding) row, string? was) =>
        new(row.Cause.Title, row.Cause.Score, $"{row.Finding.Path}:{row.Finding.Line}", row.Finding.Message, row.Finding.Verdict, was, row.Finding.Reason);
}
