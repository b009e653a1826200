using System.Text.RegularExpressions;
using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>
/// Small applications in the shape that their frameworks give them, weak and right code side by side. A line with a weakness says so
/// in a comment, <c>weak: injection/sql</c>; every other finding is a false alarm. The file <c>expected.txt</c> lists addresses and
/// steps of journeys. The applications are ours, written as the frameworks' documentation has it, from memory.
/// </summary>
public sealed partial class ApplicationTests
{
    private static readonly string Applications = Path.Combine(Folders.Home, "tests", "applications");

    public static TheoryData<string> Names => [.. Directory.GetDirectories(Applications).Select(d => Path.GetFileName(d)!).Order(StringComparer.Ordinal)];

    [Theory]
    [MemberData(nameof(Names))]
    public void What_is_weak_is_found_and_nothing_else(string name)
    {
        var tree = Load(name);
        var marked = MarkedIn(tree);
        var result = AuditPipeline.Run(tree, new AuditOptions());
        var found = result.Findings.Select(f => $"{f.Path}:{f.Region.StartLine} {f.CheckId}").ToList();
        AssertNone(marked.Except(found).Select(m => "missed " + m).Concat(found.Except(marked).Select(f => "false alarm " + f)).Order(StringComparer.Ordinal));
        Assert.Empty(result.Notes.Select(n => $"{n.Path}: {n.Text}"));
    }

    /// <summary>Applications in three languages with classes and tables of the same names, handed in together.</summary>
    [Fact]
    public void Side_by_side_they_are_as_they_are_alone()
    {
        string[] names = ["fastapi-async", "minimal", "rails-eight"];
        var tree = new SourceTree("together", [.. names.SelectMany(n => Load(n).Files.Select(f => new SourceFile(n + "/" + f.Path, f.Content, f.Language)))], []);
        var result = AuditPipeline.Run(tree, new AuditOptions());
        Assert.Equal(MarkedIn(tree).Order(StringComparer.Ordinal), result.Findings.Select(f => $"{f.Path}:{f.Region.StartLine} {f.CheckId}").Order(StringComparer.Ordinal));
        Assert.Equal(
            ["“PasswordHash”", "“password_digest”", "“password_hash”"],
            result.Findings.Where(f => f.CheckId == "exposure/hash-in-response").Select(f => f.Message[f.Message.IndexOf('“', StringComparison.Ordinal)..^1]).Order(StringComparer.Ordinal));
        Assert.Equal(3, result.Accounts.Journeys.Count(j => j.Kind == "register"));
    }

    private static List<string> MarkedIn(SourceTree tree)
    {
        var marked = new List<string>();
        foreach (var file in tree.Files)
        {
            var lines = System.Text.Encoding.UTF8.GetString(file.Content).Split('\n');
            for (var i = 0; i < lines.Length; i++)
            {
                marked.AddRange(Marks().Matches(lines[i]).SelectMany(m => m.Groups[1].Value.Split(", ")).Select(check => $"{file.Path}:{i + 1} {check}"));
            }
        }

        return marked;
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Addresses_and_journeys_are_those_there_are(string name)
    {
        var result = AuditPipeline.Run(Load(name), new AuditOptions());
        var expected = File.ReadAllLines(Path.Combine(Applications, name, "expected.txt")).Where(l => l.Length > 0 && l[0] != '#').ToList();
        var journeys = result.Accounts.Journeys.ToDictionary(j => $"{j.Kind} {j.Address}", j => j.Steps.ToDictionary(s => s.Name, s => s.State), StringComparer.Ordinal);
        var addresses = result.Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}: {string.Join(", ", e.Accesses.Select(a => $"{a.Action} {a.Table}").Distinct())}".TrimEnd()).ToList();
        var wrong = new List<string>();
        wrong.AddRange(addresses.Except(expected).Select(a => "not expected: " + a));
        foreach (var line in expected.Where(l => !addresses.Contains(l)))
        {
            // journey register POST /join: hashed shown, column fits shown
            var parts = line.Split(": ", 2);
            if (!line.StartsWith("journey ", StringComparison.Ordinal) || !journeys.TryGetValue(parts[0]["journey ".Length..], out var steps))
            {
                wrong.Add("missed: " + line);
                continue;
            }

            foreach (var step in parts[1].Split(", "))
            {
                var (at, state) = (step[..step.LastIndexOf(' ')], step[(step.LastIndexOf(' ') + 1)..]);
                if (steps.GetValueOrDefault(at) != state)
                {
                    wrong.Add($"{parts[0]}: {at} is {steps.GetValueOrDefault(at) ?? "not there"}, not {state}");
                }
            }
        }

        var named = expected.Where(l => l.StartsWith("journey ", StringComparison.Ordinal)).Select(l => l.Split(": ", 2)[0]["journey ".Length..]);
        wrong.AddRange(journeys.Keys.Except(named).Select(j => $"not expected: journey {j}: {string.Join(", ", journeys[j].Select(s => s.Key + " " + s.Value))}"));
        AssertNone(wrong);
    }

    private static void AssertNone(IEnumerable<string> wrong)
    {
        if (string.Join("\n", wrong) is { Length: > 0 } all)
        {
            Assert.Fail(all);
        }
    }

    private static SourceTree Load(string name) => SourceLoader.Load(Path.Combine(Applications, name), SourceLimits.Default);

    [GeneratedRegex("weak: ([a-z/-]+(?:, [a-z/-]+)*)")]
    private static partial Regex Marks();
}
