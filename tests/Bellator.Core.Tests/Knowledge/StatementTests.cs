using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Knowledge;
using Bellator.Text;

namespace Bellator.Core.Tests.Knowledge;

/// <summary>What a reviewer states of a function of the audited program answers the findings behind it, and no others.</summary>
public sealed class StatementTests
{
    private const string Php =
        """
        <?php
        class Clean {
            public static function tag($x) { return apiary_extension_tag($x); }
        }
        mysqli_query($c, "SELECT * FROM hive WHERE tag = '" . Clean::tag($_GET['tag']) . "'");
        mysqli_query($c, "SELECT * FROM hive WHERE note = '" . $_GET['note'] . "'");
        """;

    private const string JavaScript =
        """
        const app = require('express')();
        const { Pool } = require('pg');
        const pool = new Pool();
        const tag = (x) => x.trim();
        app.get('/hives', async (req, res) => res.json(await pool.query(`SELECT * FROM hive WHERE tag = '${tag(req.query.tag)}'`)));
        app.get('/notes', async (req, res) => res.json(await pool.query(`SELECT * FROM hive WHERE note = '${req.query.note}'`)));
        """;

    private const string Python =
        """
        import flask, sqlite3
        app = flask.Flask(__name__)

        def tag(x):
            return x.strip()

        @app.route("/hives")
        def hives():
            return str(sqlite3.connect("a").execute("SELECT * FROM hive WHERE tag = '" + tag(flask.request.args["tag"]) + "'").fetchall())

        @app.route("/notes")
        def notes():
            return str(sqlite3.connect("a").execute("SELECT * FROM hive WHERE note = '" + flask.request.args["note"] + "'").fetchall())
        """;

    private const string Ruby =
        """
        class HivesController < ApplicationController
          def index
            @hives = Hive.where("tag = '#{tag(params[:tag])}'")
            @notes = Hive.where("note = '#{params[:note]}'")
          end

          def tag(x)
            x.strip
          end
        end
        """;

    private const string CSharp =
        """
        using Microsoft.AspNetCore.Mvc;
        using Npgsql;
        public class HivesController(NpgsqlConnection db) : Controller
        {
            [HttpGet("/hives")]
            public object Hives(string tag) => new NpgsqlCommand("SELECT * FROM hive WHERE tag = '" + Clean.Tag(tag) + "'", db).ExecuteScalar();

            [HttpGet("/notes")]
            public object Notes(string note) => new NpgsqlCommand("SELECT * FROM hive WHERE note = '" + note + "'", db).ExecuteScalar();
        }
        public static class Clean
        {
            public static string Tag(string x) => x.Trim();
        }
        """;

    [Theory]
    [InlineData("page.php", Php, "php", "Clean::tag")]
    [InlineData("app.js", JavaScript, "javascript", "tag")]
    [InlineData("app.py", Python, "python", "tag")]
    [InlineData("app/controllers/hives_controller.rb", Ruby, "ruby", "HivesController#tag")]
    [InlineData("HivesController.cs", CSharp, "csharp", "Clean::Tag")]
    public void A_result_that_is_stated_to_be_harmless_is_not_reported(string path, string code, string language, string function)
    {
        var before = Sql(Auditor.Run((path, code)));
        Assert.Equal(2, before.Count);
        foreach (var kind in (StatementKind[])[StatementKind.ResultHarmless, StatementKind.MakesHarmless])
        {
            var statement = new Statement(language, function, kind, 0, kind == StatementKind.MakesHarmless ? ["sql-text"] : []);
            var after = Sql(Run(statement, (path, code)));
            Assert.Equal(before[1].Fingerprint, Assert.Single(after).Fingerprint);
        }

        // In another position it is as harmful as before.
        Assert.Equal(2, Sql(Run(new Statement(language, function, StatementKind.MakesHarmless, 0, ["html"]), (path, code))).Count);
    }

    /// <summary>The names that are offered over a finding are names under which the facts are then found.</summary>
    [Theory]
    [InlineData("page.php", Php)]
    [InlineData("app.js", JavaScript)]
    [InlineData("app.py", Python)]
    [InlineData("app/controllers/hives_controller.rb", Ruby)]
    [InlineData("HivesController.cs", CSharp)]
    public void The_functions_on_the_way_are_offered_by_names_that_facts_know(string path, string code)
    {
        var file = Auditor.File(path, code);
        var finding = Sql(Auditor.Run((path, code)))[0];
        var offered = StatementSubjects.Of(finding, [file]);
        var name = offered.First(s => s.Name.EndsWith("tag", StringComparison.OrdinalIgnoreCase)).Name;
        var statement = new Statement(Languages.Family(file.Language), name, StatementKind.ResultHarmless, 0, []);
        Assert.Single(Sql(Run(statement, (path, code))));
        Assert.DoesNotContain(offered, s => s.Name is "mysqli_query" or "execute" or "where" or "ExecuteScalar");
    }

    [Theory]
    [InlineData(StatementKind.TrueVouches, "if (!known($_GET['tag'])) { exit; }", 0)]
    [InlineData(StatementKind.TrueVouches, "known($_GET['tag']);", 1)]
    [InlineData(StatementKind.FalseVouches, "if (known($_GET['tag'])) { exit; }", 0)]
    [InlineData(StatementKind.FalseVouches, "if (!known($_GET['tag'])) { exit; }", 1)]
    [InlineData(StatementKind.ReturnVouches, "known($_GET['tag']);", 0)]
    public void A_function_may_vouch_for_its_argument(StatementKind kind, string test, int left)
    {
        var code = $$"""
            <?php
            function known($x) { return apiary_extension_known($x); }
            {{test}}
            mysqli_query($c, "SELECT * FROM hive WHERE tag = '" . $_GET['tag'] . "'");
            """;
        Assert.Single(Sql(Auditor.Run(("page.php", code))));
        Assert.Equal(left, Sql(Run(new Statement("php", "known", kind, 0, []), ("page.php", code))).Count);
    }

    [Fact]
    public void Of_two_functions_with_one_name_the_file_says_which()
    {
        (string, string)[] files =
        [
            ("a.js", JavaScript.Replace("tag(req.query.tag)", "require('./b').tag(req.query.tag)", StringComparison.Ordinal)),
            ("b.js", "exports.tag = (x) => x.trim();\n"),
        ];
        Assert.Equal(2, Sql(Run(new Statement("javascript", "a.js:tag", StatementKind.ResultHarmless, 0, []), files)).Count);
        Assert.Single(Sql(Run(new Statement("javascript", "b.js:tag", StatementKind.ResultHarmless, 0, []), files)));
    }

    [Fact]
    public void What_a_function_does_is_still_seen_and_a_name_that_nothing_bears_is_said()
    {
        var code = """
            <?php
            function find($c, $x) { mysqli_query($c, "SELECT * FROM hive WHERE tag = '" . $x . "'"); return $x; }
            find($c, $_GET['tag']);
            """;
        Assert.Single(Sql(Run(new Statement("php", "find", StatementKind.ResultHarmless, 0, []), ("page.php", code))));
        Assert.Contains(Run(new Statement("php", "finds", StatementKind.ResultHarmless, 0, []), ("page.php", code)).Notes, n => n.Text.Contains("finds", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("library: a\nlanguage: php\nfunctions:\n  f: &x { sanitizes: flag }\n  g: *x\n", "references")]
    [InlineData("library: a\nlanguage: php\ncalls: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: {a: 1}}}}}}}}}}}}}}}}}\n", "nested")]
    [InlineData("library: a\nlanguage: php\nfunctions:\n  f: { test: { kind: allow, for: [sql-txt] } }\n", "sql-txt")]
    [InlineData("functions: [", "fact 1, line ")]
    [InlineData(": [\nc", "not YAML")]
    [InlineData("", "empty")]
    public void What_a_review_may_not_state_is_a_clear_error(string text, string word)
    {
        Assert.Contains(word, ModelReader.ProblemOf(new ModelReader("fact 1", text)), StringComparison.Ordinal);
        Assert.Throws<LibraryModelException>(() => LibraryModels.Load(null, [new ModelReader("fact 1", text)]));
    }

    [Theory]
    [InlineData(StatementKind.ResultHarmless, "What Clean::tag() gives is harmless")]
    [InlineData(StatementKind.MakesHarmless, "Clean::tag() makes its second argument harmless as sql-text, html")]
    [InlineData(StatementKind.TrueVouches, "Clean::tag() is true only if its second argument is harmless as sql-text, html")]
    [InlineData(StatementKind.FalseVouches, "Clean::tag() is false only if its second argument is harmless as sql-text, html")]
    [InlineData(StatementKind.ReturnVouches, "Clean::tag() comes back only if its second argument is harmless as sql-text, html")]
    public void A_statement_reads_as_a_sentence_and_is_a_valid_facts_file(StatementKind kind, string sentence)
    {
        var statement = new Statement("php", "Clean::tag", kind, 1, kind == StatementKind.ResultHarmless ? [] : ["sql-text", "html"]);
        Assert.Equal(sentence, statement.Sentence);
        Assert.Null(ModelReader.ProblemOf(new ModelReader("fact 1", statement.Facts())));
    }

    [Fact]
    public void Every_position_of_a_sink_is_one_that_facts_know_of_a_check_that_there_is()
    {
        Assert.All(SinkPositions.Checks, id => Assert.NotNull(CheckList.Find(id)));
        Assert.All(SinkPositions.Checks.SelectMany(SinkPositions.Of), position => Assert.Contains(position, ModelValidator.Positions));
        Assert.Empty(SinkPositions.Of("passwords/fast-hash"));
    }

    /// <summary>A name is a person's text: what it says in YAML must not become facts of its own.</summary>
    [Theory]
    [InlineData("f: { sanitizes: flag }\nwords")]
    [InlineData("\"f\": x #")]
    [InlineData("- *a")]
    public void A_name_stays_a_name(string name)
    {
        var text = new Statement("php", name, StatementKind.ResultHarmless, 0, []).Facts();
        Assert.Null(ModelReader.ProblemOf(new ModelReader("fact 1", text)));
        Assert.Contains(name, Run(new Statement("php", name, StatementKind.ResultHarmless, 0, []), ("page.php", Php)).Notes.Select(n => n.Text).First(t => t.Contains("states", StringComparison.Ordinal)), StringComparison.Ordinal);
    }

    private static AuditResult Run(Statement statement, params (string Path, string Code)[] files) =>
        AuditPipeline.Run(Auditor.Tree(files), new AuditOptions { Threads = 2, Facts = LibraryModels.Load(null, [new ModelReader("fact 1", statement.Facts())]) });

    private static List<ReportedFinding> Sql(AuditResult result) => [.. result.Findings.Where(f => f.CheckId == "injection/sql").OrderBy(f => f.Region.StartLine)];
}
