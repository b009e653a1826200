using Bellator.Audit.Auditing;
using Bellator.Audit.Checks.Injection;

namespace Bellator.Audit.Comparison;

/// <summary>By what a finding was recognised, from the surest on.</summary>
public enum MatchStage
{
    SameFingerprint,
    SameCode,
    MovedCode,
    SameShape,
    MovedShape,
    Similar,
}

/// <param name="Likeness">From 0 to 1; 1 for all stages but the last.</param>
public sealed record FindingMatch(int Before, int After, MatchStage Stage, double Likeness);

/// <summary>A finding that resembles several others too much to choose: a person is asked.</summary>
/// <param name="Candidates">Findings of before, the likeliest first.</param>
public sealed record OpenMatch(int After, IReadOnlyList<int> Candidates);

/// <param name="Root">How the folder that all paths begin with was called before, and is now.</param>
public sealed record Matching(IReadOnlyList<FindingMatch> Matches, IReadOnlyList<OpenMatch> Open, PathRoots Root);

/// <summary>
/// Recognises the findings of one version of the code in those of another, in stages from exact to similar. A finding takes part in one
/// match at most, and only findings of one weakness are compared.
/// </summary>
public sealed class FindingMatcher
{
    /// <summary>Two places less alike than this are two places.</summary>
    private const double Alike = 0.5;

    /// <summary>Code that stands where nothing has a name must have this much around it in common to be the same place.</summary>
    private const double Unchanged = 0.5;

    /// <summary>The same whatever the names.</summary>
    private const double UnchangedShape = 0.75;

    /// <summary>Code that moved must have this much around it in common.</summary>
    private const double Familiar = 0.25;

    /// <summary>A page that was laid out anew still speaks of this much of what it spoke of.</summary>
    private const double SameTalk = 0.5;

    /// <summary>The best of several must be ahead of the next by this much, or a person is asked.</summary>
    private const double Ahead = 0.08;

    /// <summary>Beyond this many pairs of one weakness the likeness of all of them is not computed; only those of one file are.</summary>
    private const int MostPairs = 100_000;

    /// <summary>Of those that a finding resembles so many are looked at.</summary>
    private const int MostCandidates = 20;

    private readonly IReadOnlyList<ReportedFinding> _before;
    private readonly IReadOnlyList<ReportedFinding> _after;
    private readonly PathRoots _root;
    private readonly bool[] _beforeUsed;
    private readonly bool[] _afterUsed;
    private readonly List<FindingMatch> _matches = [];
    private readonly List<OpenMatch> _open = [];

    private FindingMatcher(IReadOnlyList<ReportedFinding> before, IReadOnlyList<ReportedFinding> after, PathRoots? root)
    {
        (_before, _after) = (before, after);
        (_beforeUsed, _afterUsed) = (new bool[before.Count], new bool[after.Count]);
        _root = root ?? PathRoots.Find(before, after);
    }

    /// <param name="root">How the folder that all paths begin with was called, where all paths are known; read from the findings otherwise.</param>
    public static Matching Match(IReadOnlyList<ReportedFinding> before, IReadOnlyList<ReportedFinding> after, PathRoots? root = null)
    {
        var matcher = new FindingMatcher(before, after, root);
        matcher.Run();
        return new Matching([.. matcher._matches.OrderBy(m => m.After)], matcher._open, matcher._root);
    }

    private void Run()
    {
        Exactly(MatchStage.SameCode, (f, path) => f.Traits is { } t ? (path, t.Code, t.Way, t.Scope) : null, (a, b) => a.Scope is { Length: > 0 } || SameSurroundings(a, b));
        Exactly(MatchStage.SameCode, (f, path) => f.Traits is { } t ? (path, t.Code) : null, (a, b) => SameSurroundings(a, b));
        Exactly(MatchStage.SameFingerprint, (f, _) => (f.CheckId, f.Fingerprint), null, (a, b) => a.Traits is null || b.Traits is null);
        Exactly(MatchStage.MovedCode, (f, path) => f.Traits is { } t ? (System.IO.Path.GetFileName(path), t.Code, t.Way, t.Scope) : null, (a, b) => a.Likeness(b) >= Familiar, Elsewhere);
        Exactly(MatchStage.MovedCode, (f, _) => f.Traits is { } t ? (t.Code, t.Way, t.Scope) : null, (a, b) => a.Likeness(b) >= Familiar, Elsewhere);
        Exactly(MatchStage.SameShape, (f, path) => f.Traits is { } t ? (path, t.Shape, t.Way, t.Scope) : null, Renamed);

        // Code that occurs elsewhere too, or whose names changed: what stands around it must agree, and there must be one of each.
        Exactly(MatchStage.SameCode, (f, path) => f.Traits is { } t ? (path, t.Code, t.Way) : null, (a, b) => a.Scope != b.Scope, alone: true);

        // Pages are laid out anew more often than code: what one shows in one place only is the same, if it still speaks of the same things.
        Exactly(MatchStage.SameCode, (f, path) => f is { CheckId: PageOutput.CheckId, Traits: { } t } ? (path, t.Code) : null, (a, b) => a.Scope is not { Length: > 0 } && a.NearbyLikeness(b) >= SameTalk && a.Likeness(b) >= Familiar, alone: true);
        Exactly(MatchStage.SameShape, (f, path) => f.Traits is { } t ? (path, t.Shape, t.Way) : null, Renamed, alone: true);
        Exactly(MatchStage.MovedShape, (f, path) => f.Traits is { } t ? (System.IO.Path.GetFileName(path), t.Shape, t.Way) : null, (a, b) => a.CanBeRenamed(b) && a.Likeness(b) >= Familiar, Elsewhere, alone: true);
        foreach (var check in _after.Select((f, i) => (f.CheckId, Index: i)).Where(f => !_afterUsed[f.Index]).GroupBy(f => f.CheckId, f => f.Index))
        {
            var before = Enumerable.Range(0, _before.Count).Where(i => !_beforeUsed[i] && _before[i].CheckId == check.Key).ToList();
            Similar(before, [.. check]);
        }
    }

    /// <summary>Pairs those that have one key. Where several have it, each takes the likeliest, in the order in which they come.</summary>
    /// <param name="fits">What else must hold of a pair that has traits.</param>
    /// <param name="allowed">What else must hold of any pair.</param>
    /// <param name="alone">Only where there is one of each.</param>
    private void Exactly(MatchStage stage, Func<ReportedFinding, string, object?> key, Func<FindingTraits, FindingTraits, bool>? fits = null, Func<ReportedFinding, ReportedFinding, bool>? allowed = null, bool alone = false)
    {
        var waiting = new Dictionary<object, LinkedList<int>>();
        foreach (var i in InOrder(_before, _beforeUsed))
        {
            if (Key(_before[i], _root.Rooted(_before[i].Path)) is { } k)
            {
                if (!waiting.TryGetValue(k, out var list))
                {
                    waiting[k] = list = new();
                }

                list.AddLast(i);
            }
        }

        foreach (var group in InOrder(_after, _afterUsed).Select(i => (Index: i, Key: Key(_after[i], _after[i].Path))).Where(k => k.Key is not null && waiting.ContainsKey(k.Key)).GroupBy(k => k.Key!, k => k.Index).ToList())
        {
            var old = waiting[group.Key];
            if (alone && (old.Count > 1 || group.Count() > 1))
            {
                continue;
            }

            foreach (var i in group)
            {
                if (Likeliest(old, _after[i]) is { } best)
                {
                    old.Remove(best);
                    Take(new FindingMatch(best.Value, i, stage, 1));
                }
            }
        }

        object? Key(ReportedFinding finding, string path) => key(finding, path) is { } value ? (finding.CheckId, value) : null;

        LinkedListNode<int>? Likeliest(LinkedList<int> old, ReportedFinding finding)
        {
            (LinkedListNode<int> Node, double Score)? best = null;
            var looked = 0;
            for (var node = old.First; node is not null && looked < MostCandidates && best is not { Score: 1 }; node = node.Next, looked++)
            {
                var before = _before[node.Value];
                if ((allowed is null || allowed(before, finding)) && (fits is null || before.Traits is null || finding.Traits is null || fits(before.Traits, finding.Traits)))
                {
                    var score = before.Traits is { } b && finding.Traits is { } a ? b.Likeness(a) : 1;
                    best = best is null || score > best.Value.Score ? (node, score) : best;
                }
            }

            return best?.Node;
        }
    }

    /// <summary>The same code with nothing renamed is another place, if what stands around it is other code.</summary>
    private static bool Renamed(FindingTraits before, FindingTraits after) => before.CanBeRenamed(after) && (before.Code != after.Code || SameSurroundings(before, after));

    private static bool SameSurroundings(FindingTraits before, FindingTraits after) => before.Likeness(after) >= Unchanged || before.ShapeLikeness(after) >= UnchangedShape;

    private bool Elsewhere(ReportedFinding before, ReportedFinding after) => _root.Rooted(before.Path) != after.Path;

    private static IEnumerable<int> InOrder(IReadOnlyList<ReportedFinding> findings, bool[] used) =>
        Enumerable.Range(0, findings.Count).Where(i => !used[i]).OrderBy(i => findings[i].Path, StringComparer.Ordinal).ThenBy(i => findings[i].Region.StartLine).ThenBy(i => findings[i].Region.StartColumn);

    private void Similar(List<int> before, List<int> after)
    {
        var isMany = (long)before.Count * after.Count > MostPairs;
        var byPath = before.ToLookup(b => _root.Rooted(_before[b].Path), StringComparer.Ordinal);
        List<(int Before, int After, double Score)> scores =
        [
            .. after.SelectMany(a => (isMany ? byPath[_after[a].Path].Take(MostPairs / 100) : before)
                .Select(b => (Before: b, After: a, Score: Likeness(_before[b], _after[a])))
                .Where(s => s.Score >= Alike).OrderByDescending(s => s.Score).ThenBy(s => s.Before).Take(MostCandidates)),
        ];
        var ofAfter = scores.ToLookup(s => s.After);
        var ofBefore = scores.ToLookup(s => s.Before);
        foreach (var (b, a, score) in scores.OrderByDescending(s => s.Score).ThenBy(s => s.After).ThenBy(s => s.Before).ToList())
        {
            if (!_beforeUsed[b] && !_afterUsed[a]
                && !ofAfter[a].Any(s => s.Before != b && !_beforeUsed[s.Before] && s.Score > score - Ahead)
                && !ofBefore[b].Any(s => s.After != a && !_afterUsed[s.After] && s.Score > score - Ahead))
            {
                Take(new FindingMatch(b, a, MatchStage.Similar, score));
            }
        }

        foreach (var group in scores.Where(s => !_afterUsed[s.After] && !_beforeUsed[s.Before]).GroupBy(s => s.After))
        {
            _open.Add(new OpenMatch(group.Key, [.. group.OrderByDescending(s => s.Score).Select(s => s.Before).Take(5)]));
        }
    }

    /// <summary>How alike two findings of one weakness are, from 0 to 1. The parts were weighed on the edits that FingerprintTests makes.</summary>
    private double Likeness(ReportedFinding before, ReportedFinding after)
    {
        var path = _root.Rooted(before.Path);
        var place = path == after.Path ? 1 : System.IO.Path.GetFileName(path) == System.IO.Path.GetFileName(after.Path) ? 0.6 : 0;
        if (before.Traits is not { } b || after.Traits is not { } a)
        {
            // Of somebody else's report only the place is known, and the words.
            return place < 1 ? 0 : (before.Message == after.Message ? 0.5 : 0.3) + (0.4 * Near(before.Region.StartLine, after.Region.StartLine, 12)) + (0.1 * Near(before.Region.StartColumn, after.Region.StartColumn, 20));
        }

        // Code that is still the same, and stands among other code in the same file: another place.
        if (path == after.Path && b.Code == a.Code && !(b.Scope is { Length: > 0 } && b.Scope == a.Scope) && !SameSurroundings(b, a))
        {
            return 0;
        }

        // Another value that comes in, or a name that is still used for something else nearby: another weakness, however alike.
        if (!b.CanBeRenamed(a) || (b.Source != a.Source && b.Code != a.Code) || (b.Source.Length == 0 && b.Code != a.Code && b.Scope is not { Length: > 0 } && b.Likeness(a) < Familiar))
        {
            return 0;
        }

        var scope = b.Scope is null || a.Scope is null ? 0.5 : b.Scope == a.Scope ? b.Scope.Length > 0 ? 1 : 0.5 : 0;
        var code = b.Code == a.Code ? 1 : b.Shape == a.Shape ? 0.7 : 0;
        var lines = b.LineDigests.Intersect(a.LineDigests).Count() / (double)Math.Max(1, Math.Max(b.LineDigests.Count, a.LineDigests.Count));
        var words = before.Message == after.Message ? 1 : 0;
        return (0.2 * place) + (0.15 * scope) + (0.25 * b.Likeness(a)) + (0.15 * code) + (0.1 * (b.Way == a.Way ? 1 : 0)) + (0.05 * lines) + (0.1 * words);
    }

    private static double Near(int one, int other, int reach) => Math.Max(0, 1 - (Math.Abs(one - other) / (double)reach));

    private void Take(FindingMatch match)
    {
        _beforeUsed[match.Before] = _afterUsed[match.After] = true;
        _matches.Add(match);
    }
}
