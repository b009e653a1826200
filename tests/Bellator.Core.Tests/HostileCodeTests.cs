using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Code that was written to stop an audit, or that nobody would write: it is read to its end, and what is left out is said.</summary>
public sealed class HostileCodeTests
{
    /// <summary>Declarations with something missing; each was, or is like one that was, read for ever.</summary>
    public static TheoryData<string> BrokenDeclarations =>
    [
        "create table t (a int references u (id;",
        "create table t (a int, KEY k (a;",
        "create table t (a int, primary key (a, b",
        "create table t (a int, foreign key (a) references u (b;",
        "create table t (a int, unique (lower(a;",
        "create table t (a varchar(;",
        "create table t (a int default (;",
        "create table t (((((((((",
        "create table t (,,,,,)",
        "create table t (;;;;)",
        "create table (",
        "create unique index i on t (lower(a;",
        "create index on (a;",
        "alter table t add column (a int, b int;",
        "alter table t add (a;, drop b;, rename c",
        "alter table t rename to",
        "alter table t add constraint c foreign key (a references b (c;",
        "create table [t (a int",
        "create table `t (a int",
        "create table t (a $x$ int",
        "create table t (a int) create table u (b int references v (",
        "/*!40101 create table t (a int",
    ];

    [Theory]
    [MemberData(nameof(BrokenDeclarations))]
    public void Broken_declarations_are_read_to_their_end(string text)
    {
        // In a file, in a statement of code, and cut off at every place.
        for (var length = text.Length; length > 0; length--)
        {
            DdlReader.Read(new DatabaseSchema(), 0, text[..length]);
        }

        Assert.Equal(2, Auditor.Run(("a.sql", text), ("a.php", $"<?php $pdo = new PDO('x'); $pdo->query(\"{text.Replace("$", "\\$", StringComparison.Ordinal)}\");")).Figures.Files);
    }

    [Fact]
    public void What_follows_a_broken_declaration_is_read_too()
    {
        var schema = new DatabaseSchema();
        DdlReader.Read(schema, 0, "create table t (a int references u (id;\ncreate table v (b varchar(60), KEY k (b);\ncreate table w (c int);");
        Assert.Contains("w", schema.Tables.Select(t => t.Name));
    }

    [Fact]
    public void A_reader_that_stands_still_is_an_error_and_not_a_hang()
    {
        var forward = new ForwardOnly("a reader");
        Assert.True(forward.At(0));
        Assert.True(forward.At(1));
        Assert.Contains("a reader made no headway", Assert.Throws<StalledException>(() => forward.At(1)).Message, StringComparison.Ordinal);
        Assert.Throws<StalledException>(() => forward.At(0));
    }

    [Theory]
    [InlineData("js", "const c = require('mysql').createConnection({}); require('express')().get('/', (req, res) => { c.query(", "+\n", "req.query.x", "); });")]
    [InlineData("php", "<?php mysqli_query($d, ", ".\n", "$_GET['x']", ");")]
    [InlineData("py", "from flask import request\nimport sqlite3\ndb = sqlite3.connect('x')\ndb.execute(", "+\n", "request.args['x']", ")")]
    [InlineData("rb", "require 'sinatra'\nrequire 'sqlite3'\nDB = SQLite3::Database.new('x')\nget '/' do\n DB.execute(", "+\n", "params[:x]", ")\nend\n")]
    public void Thousands_of_joined_terms_keep_the_file(string extension, string before, string sign, string source, string after)
    {
        var terms = string.Join(sign, Enumerable.Range(0, 5000).Select(i => $"'a{i}'"));
        var result = Auditor.Run(("a." + extension, before + terms + sign + source + after));
        Assert.Contains(result.Findings, f => f.CheckId == "injection/sql");
        Assert.Empty(result.Notes);
    }

    [Theory]
    [InlineData("js", "x=", "[\n", "]", 30_000)]
    [InlineData("php", "<?php $x=", "[\n", "]", 30_000)]
    [InlineData("py", "x=", "[\n", "]", 30_000)]
    [InlineData("rb", "x=", "[\n", "]", 30_000)]
    [InlineData("cs", "class A { void F() { ", "if(a){\n", "}", 20_000)]
    public void What_lies_too_deep_is_left_out_and_said(string extension, string before, string open, string close, int depth)
    {
        var code = new StringBuilder(before).Insert(before.Length, open, depth).Append('1').Insert(before.Length + (open.Length * depth) + 1, close, depth).ToString();
        var result = Auditor.Run(("a." + extension, code));
        Assert.Equal(1, result.Figures.Files);
        Assert.Contains(result.Notes, n => n.Path == "a." + extension && n.Text.Contains("too deep", StringComparison.Ordinal));
        Assert.DoesNotContain(result.Notes, n => n.Text.StartsWith(AuditPipeline.UnreadNote, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("cshtml", "<inthod=\"post\"@{>\n", 400)]
    [InlineData("cshtml", "@{ <a\n", 4000)]
    [InlineData("cshtml", "@if (a) { <b>\n", 2000)]
    [InlineData("cshtml", "@foreach (\n", 4000)]
    [InlineData("cshtml", "@functions {\n", 4000)]
    [InlineData("blade.php", "@if (\n", 4000)]
    [InlineData("blade.php", "{{ {!! \n", 4000)]
    [InlineData("html", "{% for {{ \n", 4000)]
    [InlineData("vue", "<template><a :b=\"\n", 4000)]
    [InlineData("hbs", "{{{#each \n", 4000)]
    [InlineData("erb", "<% if <%= \n", 4000)]
    [InlineData("ejs", "<% { <%- \n", 4000)]
    public async Task Templates_that_open_and_never_close_take_their_length(string extension, string part, int count)
    {
        // Once each of these parts doubled what the ones behind it cost. The time is a bound on never ending, no measure.
        await Task.Run(() => Auditor.Run(("a." + extension, string.Concat(Enumerable.Repeat(part, count))))).WaitAsync(TimeSpan.FromSeconds(30));
    }

    [Fact]
    public void A_file_with_thousands_of_weak_lines_has_as_many_findings()
    {
        var code = "<?php\n" + string.Concat(Enumerable.Range(0, 2000).Select(i => $"echo $_GET['x{i}'];\n"));
        Assert.Equal(2000, Auditor.Run(("a.php", code)).Findings.Count(f => f.CheckId == "injection/page-output"));
    }

    [Fact]
    public void What_is_beyond_the_limit_of_one_function_is_counted()
    {
        var code = "<?php\n" + string.Concat(Enumerable.Range(0, 20_100).Select(i => $"echo $_GET['x{i}'];\n"));

        // It is about how much is kept, not about how long a busy machine takes for it.
        var result = AuditPipeline.Run(Auditor.Tree(("a.php", code)), new AuditOptions { FunctionLimit = TimeSpan.FromMinutes(5) });
        Assert.Equal(20_000, result.Findings.Count(f => f.CheckId == "injection/page-output"));
        Assert.Contains(result.Notes, n => n.Path == "a.php" && n.Text.Contains("100 of the queries, outputs and calls", StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("<?php echo $_GET['\\u0000'];")]
    [InlineData("<?php echo $_GET['\\udc00'];")]
    [InlineData("<?php echo $_GET[\"\\u{0}\"];")]
    public void Names_that_no_database_takes_are_reported_like_others(string code) =>
        Assert.Contains(Auditor.Run(("a.php", code)).Findings, f => f.CheckId == "injection/page-output");

    [Fact]
    public void What_an_audit_is_busy_with_can_be_read_from_outside()
    {
        var path = Path.GetTempFileName();
        try
        {
            using var activity = new AuditActivity(path);
            activity.Begin("a.php");
            Assert.Equal((1L, "a.php"), (AuditActivity.Read(path)!.Value.Steps, Assert.Single(AuditActivity.Read(path)!.Value.Open)));
            activity.Begin("b/" + new string('é', 3000));
            Assert.StartsWith("b/éé", Assert.Single(AuditActivity.Read(path)!.Value.Open), StringComparison.Ordinal);
            activity.End();
            Assert.Equal(2, AuditActivity.Read(path)!.Value.Steps);
            Assert.Empty(AuditActivity.Read(path)!.Value.Open);
            AuditPipeline.Run(Auditor.Tree(("a.php", "<?php f();")), new AuditOptions { Activity = activity });
            Assert.True(AuditActivity.Read(path)!.Value.Steps > 5);
            Assert.Empty(AuditActivity.Read(path)!.Value.Open);
        }
        finally
        {
            File.Delete(path);
        }
    }

    [Theory]
    [InlineData(8, false)]
    [InlineData(30, true)]
    public void Code_that_is_too_many_calls_away_from_an_address_is_said_to_be_left_out(int calls, bool isSaid)
    {
        var code = new StringBuilder("const app = require('express')();\nconst { Pool } = require('pg');\nconst pool = new Pool();\napp.get('/hives', (req, res) => step0(req, res));\n");
        for (var i = 0; i < calls; i++)
        {
            code.Append("function step").Append(i).Append("(req, res) { return ").Append(i == calls - 1 ? "pool.query('SELECT name FROM hive')" : $"step{i + 1}(req, res)").Append("; }\n");
        }

        var said = Auditor.Run(("server.js", code.ToString())).Notes.Where(n => n.Text.StartsWith("1 handler of an address comes to more than", StringComparison.Ordinal));

        Assert.Equal(isSaid ? 1 : 0, said.Count());
    }
}
