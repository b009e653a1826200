using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>An audit that builds on the last one finds just what a whole one finds, in the same words and at the same places.</summary>
public sealed class RepeatedAuditTests
{
    private static readonly SourceTree Demo = SourceLoader.Load(Path.Combine(Folders.Home, "samples", "fernhollow"), SourceLimits.Default);

    [Fact]
    public void Nothing_changed_and_nothing_is_done_again()
    {
        var memory = new AuditCache();
        var first = Write(AuditPipeline.Run(Demo, With(memory)));
        Assert.Equal(0, memory.Reused.Files);
        Assert.Equal(first, Write(AuditPipeline.Run(Demo, With(memory))));
        Assert.Equal(Demo.Files.Count, memory.Reused.Files);
        Assert.Equal(memory.Analyses, memory.Reused.Visits);
    }

    [Fact]
    public void Most_is_kept_when_one_file_moves_down_by_a_line()
    {
        var memory = new AuditCache();
        AuditPipeline.Run(Demo, With(memory));
        for (var i = 0; i < Demo.Files.Count; i++)
        {
            var changed = Replaced(Demo, i, code => code.Insert(code.IndexOf('\n', StringComparison.Ordinal) + 1, "\n"));
            AssertSame(changed, memory);
            Assert.Equal(Demo.Files.Count - (i == 0 ? 1 : 2), memory.Reused.Files);
            Assert.True(memory.Reused.Visits > memory.Analyses / 3, $"{Demo.Files[i].Path}: only {memory.Reused.Visits} of {memory.Analyses}");
        }
    }

    [Theory]
    [InlineData("$id = (int) $_GET['id'];", "$id = $_GET['id'];")]
    [InlineData("return db()->query(\"SELECT * FROM t WHERE id = $id\");", "return db()->prepare('SELECT * FROM t WHERE id = ?');")]
    [InlineData("return db()->query(\"SELECT * FROM t WHERE id = $id\");", "return db()->query(\"SELECT * FROM t WHERE id = '$id'\");")]
    [InlineData("function clean($x) { return htmlspecialchars($x); }", "function clean($x) { return $x; }")]
    [InlineData("function clean($x) { return htmlspecialchars($x); }", "function clean($x) { exit('no'); }")]
    [InlineData("function clean($x) { return htmlspecialchars($x); }", "function clean($x) { return implode(array_map(fn ($y) => htmlspecialchars($y), [$x])); }")]
    [InlineData("function clean($x) { return htmlspecialchars($x); }", "function clean($x, $y = 1) { return $x; } function more($z) { return $z; }")]
    [InlineData("class Store { public $name; }", "class Store { public $name; public $other; function keep($n) { $this->name = $n; } }")]
    public void A_change_counts_wherever_the_value_goes(string before, string after)
    {
        string[] files =
        [
            "<?php include 'lib.php'; $id = (int) $_GET['id']; find($id); echo clean($_GET['name']); $s = new Store(); $s->name = $_POST['n']; show($s);",
            "<?php function db() { return new PDO('x'); } function find($id) { return db()->query(\"SELECT * FROM t WHERE id = $id\"); }",
            "<?php function clean($x) { return htmlspecialchars($x); }",
            "<?php class Store { public $name; } function show($s) { echo $s->name; }",
        ];
        var memory = new AuditCache();
        var tree = Auditor.Tree([.. files.Select((f, i) => ($"{i}.php", f))]);
        AuditPipeline.Run(tree, With(memory));
        var changed = Auditor.Tree([.. files.Select((f, i) => ($"{i}.php", f.Replace(before, after, StringComparison.Ordinal)))]);
        Assert.NotEqual(Write(AuditPipeline.Run(tree, With(null))), Write(AuditPipeline.Run(changed, With(null))) + (before.StartsWith("class", StringComparison.Ordinal) ? "" : "same"));
        AssertSame(changed, memory);
        AssertSame(tree, memory);
    }

    [Fact]
    public void Files_come_and_go()
    {
        var memory = new AuditCache();
        AuditPipeline.Run(Demo, With(memory));
        AssertSame(new SourceTree(Demo.Name, [.. Demo.Files.Skip(3)], []), memory);
        AssertSame(Demo, memory);
        AssertSame(new SourceTree(Demo.Name, [.. Demo.Files, Auditor.File("zz.php", "<?php echo $_GET['x'];")], []), memory);
    }

    /// <summary>Lines are left out, doubled and exchanged at random, in one file after another.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Whatever_is_changed(int seed)
    {
        var random = new Random(seed);
        var memory = new AuditCache();
        var tree = Demo;
        AuditPipeline.Run(tree, With(memory));
        for (var step = 0; step < 20; step++)
        {
            tree = Replaced(tree, random.Next(tree.Files.Count), code =>
            {
                var lines = code.Split('\n').ToList();
                var (at, other) = (random.Next(lines.Count), random.Next(lines.Count));
                switch (random.Next(3))
                {
                    case 0:
                        lines.RemoveAt(at);
                        break;
                    case 1:
                        lines.Insert(other, lines[at]);
                        break;
                    default:
                        (lines[at], lines[other]) = (lines[other], lines[at]);
                        break;
                }

                return string.Join('\n', lines);
            });
            AssertSame(tree, memory);
        }
    }

    public static TheoryData<string> Applications => [.. Directory.EnumerateDirectories(Path.Combine(Folders.Home, "tests", "applications")).Select(d => Path.GetFileName(d)!)];

    /// <summary>What is kept of a function says where it stands: all files get other numbers here, and then their own again.</summary>
    [Theory]
    [MemberData(nameof(Applications))]
    public void Files_stand_elsewhere_among_the_others(string name)
    {
        var tree = SourceLoader.Load(Path.Combine(Folders.Home, "tests", "applications", name), SourceLimits.Default);
        var moved = new SourceTree(tree.Name, [Auditor.Tree(("000.js", "export const first = 1;\n")).Files[0], .. tree.Files], tree.Skipped);
        var memory = new AuditCache();
        AssertSame(tree, memory);
        AssertSame(moved, memory);
        AssertSame(tree, memory);
        for (var i = 0; i < tree.Files.Count; i += 3)
        {
            AssertSame(Replaced(tree, i, code => code + "\n"), memory);
        }
    }

    [Fact]
    public void A_class_in_several_places_stays_one()
    {
        var memory = new AuditCache();
        (string, string) First(string name) => ("a.cs", $"public partial class A : Controller {{ private string {name}; }}");
        var second = ("b.cs", "public partial class A { public IActionResult Get(string id) { _x = id; return Redirect(_x); } }");
        AuditPipeline.Run(Auditor.Tree(First("_x"), second), With(memory));
        AssertSame(Auditor.Tree(First("_x"), ("b.cs", second.Item2 + "\n")), memory);
        AssertSame(Auditor.Tree(First("_y"), second), memory);
    }

    [Fact]
    public void An_audit_that_was_cancelled_leaves_nothing_behind()
    {
        var memory = new AuditCache();
        AuditPipeline.Run(Demo, With(memory));
        using var stop = new CancellationTokenSource();
        var changed = Replaced(Demo, 0, c => c + "\n");
        Assert.ThrowsAny<OperationCanceledException>(() => AuditPipeline.Run(changed, With(memory), p => stop.Cancel(), stop.Token));
        AssertSame(changed, memory);
        Assert.Equal(0, memory.Reused.Files);
    }

    private static AuditOptions With(AuditCache? memory) => new() { Threads = 2, Memory = memory };

    private static void AssertSame(SourceTree tree, AuditCache memory) => Assert.Equal(Write(AuditPipeline.Run(tree, With(null))), Write(AuditPipeline.Run(tree, With(memory))));

    private static string Write(AuditResult result) => JsonReport.Write(result with { Figures = result.Figures with { ParseTime = default, TotalTime = default } }, "");

    private static SourceTree Replaced(SourceTree tree, int index, Func<string, string> change)
    {
        var files = tree.Files.ToArray();
        files[index] = new SourceFile(files[index].Path, Encoding.UTF8.GetBytes(change(Encoding.UTF8.GetString(files[index].Content))), files[index].Language);
        return new SourceTree(tree.Name, files, tree.Skipped);
    }
}
