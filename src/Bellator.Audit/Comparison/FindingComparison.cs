using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;

namespace Bellator.Audit.Comparison;

/// <summary>What became of a finding from one version to the next.</summary>
public enum FindingState
{
    New,
    StillThere,
    Moved,
    Changed,
    Gone,
}

/// <param name="Before">Null for a new one.</param>
/// <param name="After">Null for one that is gone.</param>
/// <param name="Reason">How this is known, in a sentence.</param>
/// <param name="Lost">For one that is gone: why.</param>
public sealed record ComparedFinding(FindingState State, ReportedFinding? Before, ReportedFinding? After, string Reason, Lost? Lost = null)
{
    /// <summary>Findings of before that this new one may be; a person is asked.</summary>
    public IReadOnlyList<ReportedFinding> Perhaps { get; init; } = [];

    /// <summary>Steps of its way of which the lines are others than before, so that a reason for a false positive may not hold any more.</summary>
    public IReadOnlyList<ReportedPlace> ChangedLines { get; init; } = [];
}

/// <summary>Compares the findings of two versions.</summary>
public static class FindingComparison
{
    /// <summary>What is said of a new finding of which nothing else can be said.</summary>
    public const string NothingAlike = "nothing of before is like it";

    public static IReadOnlyList<ComparedFinding> Compare(IReadOnlyList<ReportedFinding> before, IReadOnlyList<ReportedFinding> after, CodeVersion codeBefore, CodeVersion codeAfter)
    {
        var matching = FindingMatcher.Match(before, after, codeBefore.Paths.Count > 0 && codeAfter.Paths.Count > 0 ? PathRoots.Find(codeBefore.Paths, codeAfter.Paths) : null);
        var matches = matching.Matches.ToDictionary(m => m.After);
        var open = matching.Open.ToDictionary(o => o.After);
        var compared = new List<ComparedFinding>();

        // A finding keeps the fingerprint that it was first known by, and no other one may have it.
        var backwards = new Losses(codeAfter, codeBefore, new PathRoots(matching.Root.After, matching.Root.Before));
        var taken = before.Select(f => f.Fingerprint).ToHashSet(StringComparer.Ordinal);
        for (var i = 0; i < after.Count; i++)
        {
            if (matches.TryGetValue(i, out var match))
            {
                compared.Add(Matched(match, before[match.Before], after[i], matching.Root));
                continue;
            }

            var fresh = after[i] with { Fingerprint = Free(after[i].Fingerprint, taken) };
            compared.Add(new ComparedFinding(FindingState.New, null, fresh, open.ContainsKey(i) ? "it resembles several findings of before too much to choose"
                : backwards.HasAllOf(fresh) ? "every line on its way was there before; what it depends on elsewhere was changed, or is understood only now" : NothingAlike)
            {
                Perhaps = open.TryGetValue(i, out var candidates) ? [.. candidates.Candidates.Select(c => before[c])] : [],
            });
        }

        var kept = matching.Matches.Select(m => m.Before).ToHashSet();
        var losses = new Losses(codeBefore, codeAfter, matching.Root);
        for (var i = 0; i < before.Count; i++)
        {
            if (!kept.Contains(i))
            {
                var lost = losses.Explain(before[i]);
                compared.Add(new ComparedFinding(FindingState.Gone, before[i], null, lost.Text, lost));
            }
        }

        return compared;
    }

    private static string Free(string fingerprint, HashSet<string> taken)
    {
        var free = fingerprint;
        for (var i = 1; !taken.Add(free); i++)
        {
            free = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(fingerprint + "\n" + i.ToString(CultureInfo.InvariantCulture))).AsSpan(0, 16));
        }

        return free;
    }

    private static ComparedFinding Matched(FindingMatch match, ReportedFinding before, ReportedFinding after, PathRoots root)
    {
        after = before.Fingerprint.Length > 0 ? after with { Fingerprint = before.Fingerprint } : after;
        var how = match.Stage switch
        {
            MatchStage.SameFingerprint => "the fingerprint is the same",
            MatchStage.SameCode => "the same code in the same file",
            MatchStage.MovedCode => "the same code in another place",
            MatchStage.SameShape => "the same code but for its names",
            MatchStage.MovedShape => "the same code but for its names, in another file",
            _ => string.Create(CultureInfo.InvariantCulture, $"similar code in a similar place ({match.Likeness:P0} alike)"),
        };
        var path = root.Rooted(before.Path);
        var lines = ChangedLines(before, after);
        if (Difference(before, after) is { } difference)
        {
            return new ComparedFinding(FindingState.Changed, before, after, $"{difference}; {how}") { ChangedLines = lines };
        }

        return path != after.Path
            ? new ComparedFinding(FindingState.Moved, before, after, $"from {before.Path}:{before.Region.StartLine}; {how}") { ChangedLines = lines }
            : new ComparedFinding(FindingState.StillThere, before, after, how) { ChangedLines = lines };
    }

    /// <summary>Whether something about the weakness itself is otherwise: a test on its way that does not help, another certainty or severity.</summary>
    private static string? Difference(ReportedFinding before, ReportedFinding after)
    {
        var tests = Tests(after).Except(Tests(before)).ToList();
        if (before.Steps.Count > 0 && tests.Count > 0)
        {
            return $"its way now passes {string.Join(" and ", tests)}, which does not make it safe";
        }

        var gone = Tests(before).Except(Tests(after)).ToList();
        if (after.Steps.Count > 0 && gone.Count > 0)
        {
            return $"its way no longer passes {string.Join(" and ", gone)}";
        }

        return before.Certainty != after.Certainty ? $"it was {Word(before.Certainty)} and is {Word(after.Certainty)}"
            : Math.Abs(before.Score - after.Score) > 0.01 ? string.Create(CultureInfo.InvariantCulture, $"its severity was {before.Score:0.0} and is {after.Score:0.0}")
            : null;
    }

    private static string Word(Certainty certainty) => certainty.ToString().ToLowerInvariant();

    private static IEnumerable<string> Tests(ReportedFinding finding) => finding.Steps.Where(s => s.Kind is "checked" or "changed" or "escaped" or "hashed").Select(s => s.Note.Length > 0 ? s.Note : s.Kind == "checked" ? "a test" : "a conversion").Distinct();

    private static List<ReportedPlace> ChangedLines(ReportedFinding before, ReportedFinding after)
    {
        if (before.Traits is null || after.Traits is null)
        {
            return [];
        }

        var known = before.Traits.LineDigests.ToHashSet(StringComparer.Ordinal);
        return [.. after.Steps.Zip(after.Traits.LineDigests).Where(s => !known.Contains(s.Second)).Select(s => new ReportedPlace(s.First.Path, s.First.Region))];
    }
}
