using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Text;

namespace Bellator.Storage.Runs;

/// <param name="Verdict">The one that does not hold any more, if it is the current one.</param>
internal sealed record ReopenedVerdict(string Fingerprint, string Verdict, string Reason);

/// <summary>What a run found, and what became of the findings of the run before.</summary>
/// <param name="Baseline">The run that it was compared with; null for the first of a review.</param>
internal sealed record RunOutcome(AuditResult Result, Guid? Baseline, IReadOnlyList<ComparedFinding> Changes, IReadOnlyList<PartChange> Parts)
{
    private readonly Dictionary<ReportedFinding, (string State, string Reason)> _states = new(ReferenceEqualityComparer.Instance);

    public IReadOnlyList<ReopenedVerdict> Reopened { get; private init; } = [];

    public string? StateOf(ReportedFinding finding) => _states.TryGetValue(finding, out var state) ? state.State : null;

    public string? ReasonOf(ReportedFinding finding) => _states.TryGetValue(finding, out var state) ? state.Reason : null;

    /// <param name="answer">What answers a finding that is gone, where a reviewer stated it.</param>
    public static RunOutcome Compare(EarlierRun earlier, AuditResult result, SourceTree tree, Func<string, string?> answer)
    {
        var compared = FindingComparison.Compare(earlier.WithTraits(earlier.Findings), result.Findings, earlier.Code, CodeVersion.Of(tree, result.Notes));

        // One that is new since the run before may have been there in an earlier one.
        var fresh = compared.Where(c => c.State == FindingState.New).ToList();
        var gone = earlier.WithTraits(earlier.Gone);
        var back = FindingMatcher.Match(gone, [.. fresh.Select(c => c.After!)]).Matches.ToDictionary(m => fresh[m.After], m => gone[m.Before]);
        var taken = compared.Where(c => c.After is not null).Select(c => c.After!.Fingerprint).ToHashSet(StringComparer.Ordinal);
        var all = new List<ComparedFinding>(compared.Count);
        var states = new List<(ReportedFinding Finding, string State, string Reason)>();
        var reopened = new List<ReopenedVerdict>();
        foreach (var change in compared)
        {
            var now = change is { Before: { } lost, After: null } && answer(lost.Fingerprint) is { } stated ? change with { Reason = stated, Lost = new Lost(LossKind.Stated, stated, null) } : change;
            if (back.TryGetValue(change, out var was) && (was.Fingerprint == change.After!.Fingerprint || taken.Add(was.Fingerprint)))
            {
                now = change with { After = change.After! with { Fingerprint = was.Fingerprint }, Perhaps = [] };
                states.Add((now.After!, "back", $"it was gone, and is back: before at {was.Path}:{was.Region.StartLine}"));
            }
            else if (change.After is { } after)
            {
                states.Add((after, Name(change.State), change.Reason));
            }

            if (now.After is { } found && change.Before is not null)
            {
                reopened.Add(new(found.Fingerprint, Verdicts.Fixed, "it is still found"));
                if (change.ChangedLines.Count > 0)
                {
                    reopened.Add(new(found.Fingerprint, Verdicts.FalsePositive, $"a line that the reason stood on has changed: {string.Join(", ", change.ChangedLines.Select(l => $"{l.Path}:{l.Region.StartLine}").Distinct().Take(4))}"));
                }
            }
            else if (now.After is { } again && was is not null)
            {
                reopened.Add(new(again.Fingerprint, Verdicts.Fixed, "it was fixed, and is back"));
            }

            all.Add(now);
        }

        var parts = earlier.Application is null ? [] : ComparedParts.Compare(earlier.Application, result.About, PathRoots.Find(earlier.Paths, [.. tree.Files.Select(f => f.Path)]));
        var outcome = new RunOutcome(result with { Findings = [.. all.Where(c => c.After is not null).Select(c => c.After!)] }, earlier.Id, all, parts) { Reopened = reopened };
        foreach (var (finding, state, reason) in states)
        {
            outcome._states[finding] = (state, reason);
        }

        return outcome;
    }

    private static string Name(FindingState state) => state switch
    {
        FindingState.New => "new",
        FindingState.Moved => "moved",
        FindingState.Changed => "changed",
        _ => "still there",
    };
}
