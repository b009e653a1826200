using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Text;

namespace Bellator.Core.Tests.Comparison;

/// <summary>
/// Findings are recognised after edits that change nothing of what the code does, and two of them are never taken for one. Which finding is
/// which is known from the edit itself: it says what has become of each line. BELLATOR_EDITED_FOLDERS, with colons between, names further
/// folders to measure; each application in them is audited a dozen times.
/// </summary>
public sealed class FingerprintTests(Xunit.Abstractions.ITestOutputHelper output)
{
    public static TheoryData<string> Kinds => [.. Edits.All.Keys];

    private static readonly Lazy<IReadOnlyList<(string Name, IReadOnlyList<SourceFile> Files, AuditResult Result)>> Applications = new(() =>
        [.. Folders().Select(folder =>
        {
            var tree = SourceLoader.Load(folder, SourceLimits.Default);
            return (Path.GetRelativePath(Path.GetDirectoryName(Path.GetDirectoryName(folder))!, folder), tree.Files, AuditPipeline.Run(tree, new AuditOptions { Threads = 2 }));
        })]);

    private static IEnumerable<string> Folders() => Directory.GetDirectories(Path.Combine(Tests.Folders.Home, "samples", "fernhollow"))
        .Concat((Environment.GetEnvironmentVariable("BELLATOR_EDITED_FOLDERS") ?? "").Split(':', StringSplitOptions.RemoveEmptyEntries).SelectMany(Directory.GetDirectories).Select(d => Directory.Exists(Path.Combine(d, "weak")) ? Path.Combine(d, "weak") : d)).Order(StringComparer.Ordinal);

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Findings_are_recognised_after(string kind)
    {
        var (there, kept, wrong) = (0, 0, new List<string>());
        foreach (var (name, files, before) in Applications.Value)
        {
            var edited = Edits.All[kind](files);
            var after = AuditPipeline.Run(new SourceTree("edited", [.. edited.Select(e => new SourceFile(e.Path, Encoding.UTF8.GetBytes(e.Text), files.First(f => f.Path == e.PathBefore).Language))], []), new AuditOptions { Threads = 2 });
            var expected = Expected(before.Findings, after.Findings, edited);
            var found = FindingMatcher.Match(before.Findings, after.Findings).Matches.ToDictionary(m => m.Before, m => m.After);
            there += expected.Count;
            kept += expected.Count(e => found.GetValueOrDefault(e.Key, -1) == e.Value);
            wrong.AddRange(expected.Where(e => found.TryGetValue(e.Key, out var other) && other != e.Value).Select(e => $"{name}: {Say(before.Findings[e.Key])} taken for {Say(after.Findings[found[e.Key]])}"));
            foreach (var (lost, now) in expected.Where(e => !found.ContainsKey(e.Key)).Take(5))
            {
                output.WriteLine($"{name}: not recognised: {Say(before.Findings[lost])} → {Say(after.Findings[now])}");
            }
        }

        output.WriteLine($"{kind}: {kept} of {there}; {wrong.Count} taken for others");
        wrong.ForEach(output.WriteLine);
        Assert.Empty(wrong);
        Assert.True(there > 0, "nothing was found again");
        Assert.True(kept >= 0.98 * there, $"{kept} of {there}");
    }

    /// <summary>One of before was fixed, and another one of the same weakness is new: for each two of an application.</summary>
    [Fact]
    public void Two_weaknesses_are_never_taken_for_one()
    {
        var (pairs, wrong) = (0, new List<string>());
        foreach (var (name, _, result) in Applications.Value)
        {
            var all = result.Findings;
            foreach (var (fixedOne, newOne) in all.SelectMany(a => all.Where(b => b.CheckId == a.CheckId && !ReferenceEquals(a, b)).Select(b => (a, b))))
            {
                pairs++;
                var before = all.Where(f => !ReferenceEquals(f, newOne)).ToList();
                var after = all.Where(f => !ReferenceEquals(f, fixedOne)).ToList();
                var matching = FindingMatcher.Match(before, after);
                wrong.AddRange(matching.Matches.Where(m => !ReferenceEquals(before[m.Before], after[m.After]) && !IsOne(before[m.Before], after[m.After])).Select(m => $"{name}: {Say(before[m.Before])} taken for {Say(after[m.After])} ({m.Stage})"));
            }
        }

        output.WriteLine($"{pairs} pairs, {wrong.Count} taken for one");
        wrong.ForEach(output.WriteLine);
        Assert.True(pairs > 20, pairs.ToString(System.Globalization.CultureInfo.InvariantCulture));
        Assert.Empty(wrong);
    }

    /// <summary>One value that comes twice into one statement: for whoever reads the code that is one weakness.</summary>
    private static bool IsOne(ReportedFinding a, ReportedFinding b) => a.Path == b.Path && a.Traits!.Code == b.Traits!.Code && a.Traits.Way == b.Traits.Way && Math.Abs(a.Region.StartLine - b.Region.StartLine) < 4;

    /// <summary>Which findings are one, by the lines that the edit made of lines. Where two of one weakness are in a line, it is their order.</summary>
    private static Dictionary<int, int> Expected(IReadOnlyList<ReportedFinding> before, IReadOnlyList<ReportedFinding> after, IReadOnlyList<EditedFile> edited)
    {
        var files = edited.ToDictionary(e => e.PathBefore);
        var now = after.Select((f, i) => (Finding: f, Index: i)).ToLookup(f => (f.Finding.CheckId, f.Finding.Path, f.Finding.Region.StartLine));
        var expected = new Dictionary<int, int>();
        foreach (var group in before.Select((f, i) => (Finding: f, Index: i)).GroupBy(f => (f.Finding.CheckId, f.Finding.Path, f.Finding.Region.StartLine)))
        {
            var file = files[group.Key.Path];
            var there = now[(group.Key.CheckId, file.Path, file.LineNow[group.Key.StartLine])].OrderBy(f => f.Finding.Region.StartColumn).ToList();
            if (there.Count == group.Count())
            {
                foreach (var (was, mine) in group.OrderBy(f => f.Finding.Region.StartColumn).Zip(there))
                {
                    expected[was.Index] = mine.Index;
                }
            }
        }

        return expected;
    }

    private static string Say(ReportedFinding finding) => $"{finding.CheckId} {finding.Path}:{finding.Region.StartLine}:{finding.Region.StartColumn}";
}
