using Bellator.Analysis.Interpreter;

namespace Bellator.Core.Tests;

/// <summary>What holds on one way through a function does not hold on the others, whatever the order in which they are written.</summary>
public sealed class PathStateTests
{
    private const string Page = "echo '<p>' . $_GET['n'];";
    private const string Json = "header('Content-Type: application/json'); echo json_encode([$_GET['n']]);";

    [Theory]
    [InlineData("if ($x) { " + Page + " } else { " + Json + " }")]
    [InlineData("if ($x) { " + Json + " } else { " + Page + " }")]
    [InlineData("if ($x) { " + Json + " exit; } " + Page)]
    [InlineData("for ($i = 0; $i < 3; $i++) { count([]); } if ($x) { " + Page + " } else { " + Json + " }")]
    [InlineData("for ($i = 0; $i < 3; $i++) { if ($x) { " + Page + " } else { " + Json + " } }")]
    [InlineData(Json + " header('Content-Type: text/html'); " + Page)]
    public void What_is_announced_on_one_way_is_not_announced_on_another(string body)
    {
        Assert.Equal(["injection/page-output"], Checks("function show($x) { " + body + " }\nshow(rand(0, 1));"));
        Assert.Equal(["injection/page-output"], Checks(body));
    }

    [Theory]
    [InlineData("header('Content-Type: application/json'); " + Page)]
    [InlineData("if ($x) { header('Content-Type: application/json'); } else { header('Content-Type: text/plain'); } " + Page)]
    [InlineData("if (!headers_sent()) { header('Content-Type: application/json'); } " + Page)]
    [InlineData("function json() { header('Content-Type: application/json'); } json(); " + Page)]
    [InlineData("while ($x--) { header('Content-Type: application/json'); " + Page + " }")]
    public void What_is_announced_on_every_way_holds(string body) => Assert.Empty(Checks(body));

    [Theory]
    [InlineData("<a title=", "<a title='")]
    [InlineData("<a title='", "<a title=")]
    [InlineData("<a title=", "<p>")]
    [InlineData("<script>let a = ", "<p>")]
    public void A_value_has_to_be_harmless_in_every_place_that_it_may_stand_in(string one, string other)
    {
        const string Echo = "echo htmlspecialchars($_GET['t'], ENT_QUOTES);";
        Assert.Equal(["injection/page-output"], Checks($"if ($x) {{ echo \"{one}\"; }} else {{ echo \"{other}\"; }} {Echo}"));
        Assert.Equal(["injection/page-output"], Checks($"$start = $x ? \"{one}\" : \"{other}\"; echo $start . htmlspecialchars($_GET['t'], ENT_QUOTES);"));
    }

    [Theory]
    [InlineData("<a title='", "<a title=\\\"")]
    [InlineData("<p>", "<b>")]
    public void Where_it_is_harmless_in_all_of_them_nothing_is_said(string one, string other) =>
        Assert.Empty(Checks($"if ($x) {{ echo \"{one}\"; }} else {{ echo \"{other}\"; }} echo htmlspecialchars($_GET['t'], ENT_QUOTES);"));

    /// <summary>A test on one way leaves a finding traced: whether a harmful value gets there depends on how the ways go together.</summary>
    [Theory]
    [InlineData("", "proved")]
    [InlineData("if ($x) { if (!is_numeric($_GET['n'])) { exit; } }", "traced")]
    [InlineData("if ($x) { if (!isset($known[$_GET['n']])) { exit; } }", "traced")]
    [InlineData("if (!empty($_GET['n'])) { count([]); }", "proved")]
    public void What_a_test_on_one_way_leaves_open_is_not_proved(string before, string certainty)
    {
        var result = Auditor.Run(("page.php", "<?php\n$known = ['a' => 1];\n" + before + "\n" + Page));
        Assert.Equal(certainty, Assert.Single(result.Findings).Certainty.ToString().ToLowerInvariant());
    }

    [Theory]
    [InlineData("$n = $_GET['n']; if (!is_numeric($n)) { unset($n); } if (isset($n)) { echo $n; }")]
    [InlineData("list($h, $n) = explode(':', $_GET['n'], 2); if (!is_numeric($n)) { unset($n); } if (!empty($n)) { echo ':' . $n; }")]
    [InlineData("$form = $_GET; unset($form['n']); echo '<p>'; count($form);")]
    public void What_is_taken_away_is_nothing_afterwards(string body) => Assert.Empty(Checks(body));

    /// <summary>A variable of the whole program that is set just before the program ends is seen by nobody but who is called until then.</summary>
    [Theory]
    [InlineData("if ($_GET['x']) { $m = $_GET['m']; header('Location: /'); exit; } show();", 0)]
    [InlineData("if ($_GET['x']) { $m = $_GET['m']; show(); exit; }", 1)]
    [InlineData("if ($_GET['x']) { $m = $_GET['m']; require 'page.php'; exit; }", 1)]
    [InlineData("if ($_GET['x']) { $m = $_GET['m']; } show();", 1)]
    public void What_is_set_before_an_exit_goes_no_further(string body, int findings) => Assert.Equal(findings, Auditor.Run(
        ("page.php", "<?php\nshow();\n"),
        ("lib.php", "<?php\nfunction show() { global $m; echo $m; }\n"),
        ("index.php", "<?php\nrequire 'lib.php';\n" + body)).Findings.Count(f => f.CheckId == "injection/page-output"));

    [Fact]
    public void Ways_come_together_in_any_order_and_grouping()
    {
        string[] texts = ["<a title=", "<a title='", "<p>", "<script>", "<script>'", "<!-- ", "<a href=\"", "<b", "x", "<style>", "<a x", "<img src="];
        var states = texts.Select(t => BlockState.Initial.With(p => p.After(t))).ToList();
        foreach (var a in states)
        {
            Assert.Equal(a, BlockState.Join(a, a));
            Assert.Equal(a, BlockState.Join(null, a));
            Assert.Equal(a, BlockState.Join(a, null));
            foreach (var b in states)
            {
                Assert.Equal(BlockState.Join(a, b), BlockState.Join(b, a));
                Assert.Equal(BlockState.Join(a, b)!.GetHashCode(), BlockState.Join(b, a)!.GetHashCode());
                foreach (var c in states)
                {
                    Assert.Equal(BlockState.Join(BlockState.Join(a, b), c), BlockState.Join(a, BlockState.Join(b, c)));
                }
            }
        }

        // What is beyond the bound is left out, and never more is kept.
        var all = states.Concat(states.Select(s => s.With(p => p.After(" y='z")))).Aggregate((BlockState?)null, (a, b) => BlockState.Join(a, b))!;
        Assert.Equal(BlockState.MaxPages, all.Pages.Count);
    }

    private static IEnumerable<string> Checks(string code) => Auditor.Run(("page.php", "<?php\n" + code)).Findings.Select(f => f.CheckId);
}
