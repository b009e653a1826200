namespace Bellator.Core.Auditing;

/// <summary>A place in a file, as causes refer to it.</summary>
public readonly record struct CodePlace(string Path, int Line)
{
    public override string ToString() => $"{Path}:{Line}";
}

/// <summary>One flow of a cause: the finding with where its value comes in.</summary>
public sealed record CauseFlow(ReportedFinding Finding, CodePlace Source, CodePlace Mend);

/// <summary>Findings that end in the same place: one thing to understand, and often one to mend.</summary>
/// <param name="CheckId">The weakness.</param>
/// <param name="Sink">Where all of them end.</param>
/// <param name="Cut">The place where one change mends most of them.</param>
/// <param name="CutCount">How many that is.</param>
/// <param name="Flows">The findings, by where their values come in.</param>
public sealed record Cause(string CheckId, CodePlace Sink, CodePlace Cut, int CutCount, IReadOnlyList<CauseFlow> Flows);

/// <summary>Groups findings by what they have in common.</summary>
public static class Causes
{
    /// <summary>Most severe and largest first.</summary>
    public static IReadOnlyList<Cause> Of(IEnumerable<ReportedFinding> findings) =>
        [.. findings.Select(Flow)
            .GroupBy(f => (f.Flow.Finding.CheckId, f.Sink))
            .Select(g =>
            {
                var flows = g.Select(f => f.Flow).OrderBy(f => f.Source.Path, StringComparer.Ordinal).ThenBy(f => f.Source.Line).ToList();
                var cut = flows.GroupBy(f => f.Mend).OrderByDescending(m => m.Count()).ThenBy(m => m.Key.Path, StringComparer.Ordinal).ThenBy(m => m.Key.Line).First();
                return new Cause(g.Key.CheckId, g.Key.Sink, cut.Key, cut.Count(), flows);
            })
            .OrderByDescending(c => c.Flows[0].Finding.Score).ThenByDescending(c => c.Flows.Count)
            .ThenBy(c => c.Sink.Path, StringComparer.Ordinal).ThenBy(c => c.Sink.Line)];

    private static (CauseFlow Flow, CodePlace Sink) Flow(ReportedFinding finding)
    {
        var mend = new CodePlace(finding.Path, finding.Region.StartLine);
        var first = finding.Steps.Count > 0 ? new CodePlace(finding.Steps[0].Path, finding.Steps[0].Region.StartLine) : mend;
        var last = finding.Steps.Count > 0 ? new CodePlace(finding.Steps[^1].Path, finding.Steps[^1].Region.StartLine) : mend;
        return (new CauseFlow(finding, first, mend), last);
    }
}
