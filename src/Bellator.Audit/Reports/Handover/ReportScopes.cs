using Bellator.Audit.Comparison;

namespace Bellator.Audit.Reports.Handover;

/// <summary>Parts of a report that the web application and the command line make alike.</summary>
public static class ReportScopes
{
    /// <summary>So much of what was left out is listed by name; all of it is counted.</summary>
    public const int MostListed = 100;

    public static ReportChanges Changes(string since, IReadOnlyList<ComparedFinding> compared, IReadOnlyList<PartChange> parts) => new(
        since,
        ComparisonReport.Headline(compared),
        [.. compared.Where(c => c.State != FindingState.StillThere).Select(c => (Change: c, Finding: (c.After ?? c.Before)!)).Select(c => new ReportChange(
            c.Change.Lost is { } lost ? $"gone: {ComparisonReport.Of(lost.Kind)}" : ComparisonReport.Title(c.Change.State).ToLowerInvariant(), c.Finding.Check.Title, $"{c.Finding.Path}:{c.Finding.Region.StartLine}", c.Change.Reason))],
        parts);
}
