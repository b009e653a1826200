using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;

namespace Bellator.Core.Tests.Reports;

/// <summary>Sentences with one and with many, and what a cause is called.</summary>
public sealed class CausePlaceTests
{
    [Theory]
    [InlineData(CauseKind.Place, 1, 1, "a.php:1.")]
    [InlineData(CauseKind.Helper, 1, 2, "2 ways end at b.php:2.")]
    [InlineData(CauseKind.Helper, 2, 2, "One change at a.php:1 fixes all 2 ways.")]
    [InlineData(CauseKind.Helper, 2, 5, "One change at a.php:1 fixes 2 of 5 ways.")]
    [InlineData(CauseKind.Column, 1, 1, "The column declared at a.php:1.")]
    [InlineData(CauseKind.Template, 1, 1, "The template at a.php:1.")]
    [InlineData(CauseKind.Template, 3, 3, "One change at a.php:1 fixes all 3 ways.")]
    [InlineData(CauseKind.Missing, 1, 1, "Missing at a.php:1.")]
    [InlineData(CauseKind.Missing, 1, 7, "Missing in 7 places; one rule before all of them, such as middleware, would cover them.")]
    public void Where_to_change_is_a_sentence(CauseKind kind, int cut, int ways, string text) => Assert.Equal(text, CausePlaceText.Of(kind, "a.php:1", cut, ways, "b.php:2"));

    [Theory]
    [InlineData("app-1.0/a.php,app-1.0/lib/b.php", "app-1.1/a.php,app-1.1/c.php", "app-1.0/lib/b.php", "app-1.1/lib/b.php")]
    [InlineData("a.php,lib/b.php", "app/a.php,app/lib/b.php", "lib/b.php", "app/lib/b.php")]
    [InlineData("app/a.php", "a.php", "app/a.php", "a.php")]
    [InlineData("a.php,b.php", "a.php,c.php", "b.php", "b.php")]
    [InlineData("", "a.php", "b.php", "b.php")]
    public void What_all_paths_begin_with_is_no_part_of_where_a_file_is(string before, string after, string path, string now) =>
        Assert.Equal(now, PathRoots.Find(Paths(before), Paths(after)).Rooted(path));

    private static string[] Paths(string text) => text.Split(',', StringSplitOptions.RemoveEmptyEntries);

    [Fact]
    public void Causes_put_together_what_one_change_fixes_and_say_why_they_stand_where_they_do()
    {
        var result = Auditor.Run(
            ("lib.php", "<?php\nfunction ask($c, $s) {\n    return mysqli_query($c, $s);\n}\n"),
            ("a.php", "<?php\nrequire 'lib.php';\nask($c, \"SELECT * FROM hive WHERE a = '\" . $_GET['a'] . \"'\");\n"),
            ("b.php", "<?php\nrequire 'lib.php';\nask($c, \"SELECT * FROM hive WHERE b = '\" . $_GET['b'] . \"'\");\n"),
            ("c.php", "<?php\nmysqli_query($c, \"SELECT * FROM hive WHERE c = '\" . $_GET['c'] . \"'\");\n"));
        var causes = Causes.Of(result.Findings);
        Assert.Equal([2, 1], causes.Select(c => c.Flows.Count));
        Assert.Equal((CauseKind.Helper, "lib.php:3"), (causes[0].Kind, causes[0].Sink.ToString()));
        Assert.Contains("severity 9.4", causes[0].RankReason, StringComparison.Ordinal);
        Assert.EndsWith("2 ways in", causes[0].RankReason, StringComparison.Ordinal);
        Assert.True(causes[0].Rank >= causes[1].Rank);
        Assert.Equal(result.Findings.Count, causes.Sum(c => c.Flows.Count));
    }

    [Fact]
    public void A_finding_names_the_endpoints_that_reach_it_and_whether_they_are_open()
    {
        var finding = Assert.Single(Auditor.Demo.Findings, f => f.CheckId == "injection/template");
        Assert.Equal(new ReportedWay("GET", "/calls/thanks", "notNeeded"), Assert.Single(finding.Ways));
        Assert.Equal((1, 1), (finding.WayCount, finding.OpenWayCount));
        Assert.Equal("open to anybody", finding.Ways[0].Who);
        Assert.All(Auditor.Demo.Findings, f => Assert.True(f.OpenWayCount <= f.WayCount && f.Ways.Count <= f.WayCount));
    }
}
