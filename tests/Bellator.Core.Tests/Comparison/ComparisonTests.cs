using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Core.Tests.Comparison;

/// <summary>What became of findings, and why those that are gone are.</summary>
public sealed class ComparisonTests
{
    private const string Weak = "<?php\nfunction hives($c) {\n    $year = $_GET['year'];\n    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . $year . \"'\");\n}\nhives($c);\n";

    private static readonly (string Path, string Code) Other = ("other.php", "<?php\nmysqli_query($c, 'DELETE FROM swarm WHERE id = ' . $_POST['id']);\n");

    private static IReadOnlyList<ComparedFinding> Compare(IReadOnlyList<(string Path, string Code)> before, IReadOnlyList<(string Path, string Code)> after)
    {
        var (old, now) = (Auditor.Run([.. before]), Auditor.Run([.. after]));
        return FindingComparison.Compare(old.Findings, now.Findings, CodeVersion.Of(Auditor.Tree([.. before]), old.Notes), CodeVersion.Of(Auditor.Tree([.. after]), now.Notes));
    }

    [Fact]
    public void A_new_root_folder_is_no_move()
    {
        var compared = Compare([("app-1.0/a.php", Weak), ("app-1.0/lib/other.php", Other.Code)], [("app-1.1/a.php", Weak), ("app-1.1/lib/other.php", Other.Code)]);
        Assert.Equal(2, compared.Count);
        Assert.All(compared, c => Assert.Equal(FindingState.StillThere, c.State));
        Assert.All(compared, c => Assert.Equal(c.Before!.Fingerprint, c.After!.Fingerprint));
    }

    [Fact]
    public void A_file_that_moved_is_moved()
    {
        var compared = Compare([("a.php", Weak), Other], [("lib/hives/a.php", Weak), Other]);
        var moved = Assert.Single(compared, c => c.State == FindingState.Moved);
        Assert.Equal(("a.php", "lib/hives/a.php"), (moved.Before!.Path, moved.After!.Path));
        Assert.Equal(FindingState.StillThere, Assert.Single(compared, c => c != moved).State);
    }

    [Fact]
    public void The_only_one_of_its_code_in_a_page_is_still_there_if_the_page_around_it_is_laid_out_anew()
    {
        const string Before = "<div>\n  {% if hive.note %}\n    <div class=\"note\">{{ hive.note|safe }}</div>\n  {% endif %}\n</div>\n";
        const string After = "<div>\n  {% if hive.note %}\n    <div class=\"note\"{% if hive.id %} id=\"{{ hive.id }}_note\"{% endif %}>\n      <div>{{ hive.note|safe }}</div>\n    </div>\n  {% endif %}\n</div>\n";
        Assert.Equal(FindingState.StillThere, Assert.Single(Compare([("templates/hive.html", Before)], [("templates/hive.html", After)])).State);
    }

    [Fact]
    public void A_new_one_whose_code_was_there_before_says_so()
    {
        const string Helper = "<?php\nfunction first($x) { return (int) $x; }\n";
        const string Page = "<?php\ninclude 'lib.php';\n$id = first($_GET['id']);\nmysqli_query($c, \"SELECT * FROM hive WHERE id = \" . $id);\n";
        var fresh = Assert.Single(Compare([("lib.php", Helper), ("page.php", Page)], [("lib.php", Helper.Replace("(int) $x", "$x", StringComparison.Ordinal)), ("page.php", Page)]));
        Assert.Equal(FindingState.New, fresh.State);
        Assert.Contains("every line on its way was there before", fresh.Reason, StringComparison.Ordinal);
        fresh = Assert.Single(Compare([("page.php", Page.Replace("$_GET['id']", "4", StringComparison.Ordinal)), ("lib.php", Helper)], [("page.php", Page), ("lib.php", Helper.Replace("(int) $x", "$x", StringComparison.Ordinal))]));
        Assert.Equal((FindingState.New, FindingComparison.NothingAlike), (fresh.State, fresh.Reason));
    }

    [Fact]
    public void A_line_beside_the_way_that_shares_one_name_with_it_is_not_named_as_what_ended_it()
    {
        const string Before = "<?php\n$result = remove_hives($_POST['hives']);\nset_note('removed', $result);\nfunction remove_hives($ids) { return mysqli_query($c, 'DELETE FROM hive WHERE id = ' . $ids); }\n";
        var gone = Assert.Single(Compare([("a.php", Before)], [("a.php", Before.Replace("set_note('removed', $result)", "set_note('removed', $result, false)", StringComparison.Ordinal).Replace("return mysqli_query", "return unknown_query", StringComparison.Ordinal).Replace("$ids) {", "$ids) { // x", StringComparison.Ordinal))]), c => c.State == FindingState.Gone);
        Assert.DoesNotContain("set_note", gone.Reason, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . (int) $year . \"'\");", "fixed where it is used")]
    [InlineData("    $year = (int) $year;\n    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . $year . \"'\");", "fixed on the way")]
    [InlineData("    if (!ctype_digit($year)) {\n        exit;\n    }\n    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . $year . \"'\");", "fixed by a test")]
    public void What_is_fixed_names_the_line_that_does_it(string line, string _)
    {
        var lines = Weak.Split('\n');
        var gone = Assert.Single(Compare([("a.php", Weak), Other], [("a.php", string.Join('\n', [.. lines[..3], line, .. lines[4..]])), Other]), c => c.State == FindingState.Gone);
        Assert.Equal(LossKind.Fixed, gone.Lost!.Kind);
        Assert.Equal(("a.php", 4), (gone.Lost.At!.Path, gone.Lost.At.Region.StartLine));
        Assert.Contains(line.Split('\n')[0].Trim(), gone.Reason, StringComparison.Ordinal);
    }

    [Fact]
    public void Code_that_went_is_not_said_to_be_fixed()
    {
        var taken = Assert.Single(Compare([("a.php", Weak), Other], [("a.php", "<?php\necho 'nothing';\n"), Other]), c => c.State == FindingState.Gone);
        Assert.NotEqual(LossKind.CannotTell, taken.Lost!.Kind);
        var whole = Assert.Single(Compare([("a.php", Weak), Other], [Other]), c => c.State == FindingState.Gone);
        Assert.Equal(LossKind.CodeGone, whole.Lost!.Kind);
    }

    [Fact]
    public void A_source_that_went_leaves_the_sink_unreached()
    {
        const string Lib = "<?php\nfunction find($c, $q) {\n    return mysqli_query($c, \"SELECT * FROM hive WHERE q = '\" . $q . \"'\");\n}\n";
        var gone = Assert.Single(
            Compare([("lib.php", Lib), ("page.php", "<?php\nrequire 'lib.php';\nfind($c, $_GET['q']);\n"), Other], [("lib.php", Lib), Other]),
            c => c.State == FindingState.Gone);
        Assert.Contains(gone.Lost!.Kind, (LossKind[])[LossKind.NotReached, LossKind.CodeGone]);
    }

    [Fact]
    public void Without_the_code_nothing_is_claimed()
    {
        var old = Auditor.Run(("a.php", Weak));
        var gone = Assert.Single(FindingComparison.Compare(old.Findings, [], CodeVersion.Unknown, CodeVersion.Unknown));
        Assert.Equal(LossKind.CannotTell, gone.Lost!.Kind);
    }

    [Fact]
    public void A_test_that_does_not_help_is_a_change()
    {
        var compared = Compare([("a.php", Weak)], [("a.php", Weak.Replace("$year = $_GET['year'];", "$year = trim($_GET['year']);", StringComparison.Ordinal))]);
        var changed = Assert.Single(compared);
        Assert.Contains(changed.State, (FindingState[])[FindingState.Changed, FindingState.StillThere]);
        Assert.NotEmpty(changed.ChangedLines);
    }

    [Fact]
    public void Names_alone_change_no_line_that_a_reason_stood_on()
    {
        var same = Assert.Single(Compare([("a.php", Weak)], [("a.php", Weak.Replace("$year", "$when", StringComparison.Ordinal))]));
        Assert.Equal(FindingState.StillThere, same.State);
        Assert.Empty(same.ChangedLines);
    }

    [Fact]
    public void What_the_application_is_is_compared_too()
    {
        var before = Auditor.Run(("s.sql", "create table users (id int primary key, password varchar(255) not null, email varchar(100) unique);"), ("a.js", "const app = require('express')();\napp.get('/hives', (req, res) => res.send('x'));\n"));
        var after = Auditor.Run(("s.sql", "create table users (id int primary key, password varchar(60), email varchar(100));\ncreate table notes (id int);"), ("a.js", "const app = require('express')();\napp.get('/hives', (req, res) => res.send('x'));\napp.post('/hives', (req, res) => res.send('x'));\n"));
        var changes = ComparedParts.Compare(before.About, after.About);
        Assert.Contains(changes, c => c is { Part: "endpoints", Kind: "added", Subject: "POST /hives", IsWorse: true });
        Assert.Contains(changes, c => c is { Part: "tables", Subject: "users.password", Text: "narrowed from 255 to 60", IsWorse: true });
        Assert.Contains(changes, c => c is { Subject: "users.password", Text: "may be null now" });
        Assert.Contains(changes, c => c is { Part: "tables", Kind: "added", Subject: "notes" });
        Assert.Empty(ComparedParts.Compare(before.About, before.About));
    }

    [Fact]
    public void A_report_of_ours_is_a_baseline_that_loses_nothing()
    {
        var result = Auditor.Demo;
        var verdicts = new Dictionary<string, SarifVerdict> { [result.Findings[0].Fingerprint] = new(Verdicts.FalsePositive, "seen") };
        var baseline = SarifBaseline.Read(System.Text.Encoding.UTF8.GetBytes(SarifReport.Write(result, "1", verdicts)));
        Assert.Equal(result.Findings.Select(f => (f.CheckId, f.Path, f.Region, f.Fingerprint, f.Message)), baseline.Findings.Select(f => (f.CheckId, f.Path, f.Region, f.Fingerprint, f.Message)));
        Assert.Equal(result.Findings.Select(f => f.Traits), baseline.Findings.Select(f => f.Traits));
        Assert.Equal(verdicts, baseline.Verdicts);
        Assert.All(FindingComparison.Compare(baseline.Findings, result.Findings, CodeVersion.Unknown, CodeVersion.Unknown), c => Assert.Equal(FindingState.StillThere, c.State));
    }

    /// <summary>A log of some other program, as SARIF 2.1.0 allows it: relative and file URIs, the weakness only in the rule's words, no fingerprints.</summary>
    [Fact]
    public void A_report_from_elsewhere_is_one_too()
    {
        const string Log = """
            {"version":"2.1.0","runs":[{"tool":{"driver":{"name":"Elsewhere","rules":[{"id":"X1","help":{"text":"see CWE-89"}},{"id":"X2"}]}},
            "results":[{"ruleId":"X1","message":{"text":"query"},"locations":[{"physicalLocation":{"artifactLocation":{"uri":"./a.php"},"region":{"startLine":4}}}]},
            {"ruleId":"X2","message":{"text":"style"},"locations":[{"physicalLocation":{"artifactLocation":{"uri":"a.php"},"region":{"startLine":1}}}]},
            {"ruleId":"X1","baselineState":"absent","message":{"text":"query"},"locations":[{"physicalLocation":{"artifactLocation":{"uri":"b.php"}}}]}]}]}
            """;
        var baseline = SarifBaseline.Read(System.Text.Encoding.UTF8.GetBytes(Log));
        Assert.Equal((1, 1), (baseline.Findings.Count, baseline.Unknown));
        var now = Auditor.Run(("a.php", Weak), Other);
        var compared = FindingComparison.Compare(baseline.Findings, now.Findings, CodeVersion.Unknown, CodeVersion.Unknown);
        Assert.Equal("a.php", Assert.Single(compared, c => c.State != FindingState.New).After?.Path);
        Assert.Equal("other.php", Assert.Single(compared, c => c.State == FindingState.New).After!.Path);
    }

    [Theory]
    [InlineData("")]
    [InlineData("[]")]
    [InlineData("{}")]
    [InlineData("{\"version\":\"2.0.0\",\"runs\":[]}")]
    [InlineData("{\"version\":\"2.1.0\",\"runs\":[{\"results\":[{\"locations\":[{\"physicalLocation\":{\"artifactLocation\":{\"uri\":\"%ZZ\"}")]
    public void What_is_no_report_is_refused(string text) => Assert.Throws<BaselineException>(() => SarifBaseline.Read(System.Text.Encoding.UTF8.GetBytes(text)));

    [Fact]
    public void The_words_of_code_leave_out_what_does_nothing()
    {
        var file = Auditor.File("a.php", "<?php\n// a 'comment'\n$a = f( 'it''s', \"$b {$c->d}\" ); # more\n/* and\nmore */ g(1);");
        var words = CodeWords.Of(file, new Span(6, file.Content.Length));
        Assert.Equal("$a = f ( 'it' 's' , \"$b {$c->d}\" ) ; g ( 1 ) ;", string.Join(' ', words.Select(w => w.Text)));
        Assert.Equal(CodeWords.Shape(words), CodeWords.Shape(CodeWords.Of(Auditor.File("a.php", "<?php $x=f('it''s',\"$y {$z->w}\");g(1);"), new Span(6, 200))));
    }

    /// <summary>Laws of a likeness: of itself it is 1, and it does not matter which of two comes first.</summary>
    [Fact]
    public void Likeness_is_the_same_both_ways()
    {
        var all = Auditor.Demo.Findings.Select(f => f.Traits!).ToList();
        Assert.All(all, t => Assert.Equal(1, t.Likeness(t)));
        Assert.All(all.SelectMany(a => all.Select(b => (a, b))), p => Assert.Equal(p.a.Likeness(p.b), p.b.Likeness(p.a)));
    }
}
