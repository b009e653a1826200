using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Tables;
using Bellator.Audit.Witnesses;
using Bellator.Storage.Cluster;
using Bellator.Storage.Replays;
using Bellator.Testing;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Tests;

/// <summary>Statements of witnesses run by the real PostgreSQL, and what the role that runs them can not do.</summary>
public sealed class ReplayTests(TestCluster cluster) : IClassFixture<TestCluster>
{
    private const string Ddl = "CREATE TABLE members (id serial PRIMARY KEY, name varchar(40), born date, active tinyint(1));";

    [Fact]
    public async Task The_crafted_statement_brings_every_row()
    {
        var replay = await FirstAsync("$db = new PDO('x'); $db->query(\"SELECT id, name FROM members WHERE name = '\" . $_GET['n'] . \"'\");");
        Assert.Equal((1, null), (replay!.Ordinary.Count, replay.Ordinary.Error));
        Assert.Equal((4, null), (replay.Crafted.Count, replay.Crafted.Error));
        Assert.Equal(["id", "name"], replay.Crafted.Columns);
        Assert.Equal(["2", "oak"], replay.Crafted.Rows[1]);
    }

    [Fact]
    public async Task A_statement_that_changes_rows_says_how_many()
    {
        var replay = await FirstAsync("$db = new PDO('x'); $db->exec('DELETE FROM `members` WHERE id = ' . $_GET['id']);");
        Assert.Equal((true, 1, 4), (replay!.Crafted.Changed, replay.Ordinary.Count, replay.Crafted.Count));
    }

    [Fact]
    public async Task Without_the_tables_nothing_is_replayed() =>
        Assert.Null(await FirstAsync("$db = new PDO('x'); $db->query(\"SELECT a FROM elsewhere WHERE a = '\" . $_GET['n'] . \"'\");"));

    [Theory]
    [InlineData("SELECT name FROM members; DROP TABLE members", "multiple commands")]
    [InlineData("SELECT pg_sleep(30)", "timeout")]
    [InlineData("SELECT pg_read_file('/etc/passwd')", "permission denied")]
    [InlineData("SELECT count(*) FROM pg_authid", "permission denied")]
    [InlineData("SELECT lo_import('/etc/passwd')", "permission denied")]
    [InlineData("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE usename = 'bellator_owner' OR pid = 1", null)]
    [InlineData("WITH a AS (SELECT 1) SELECT set_config('role', 'bellator_owner', false) FROM a", "permission denied")]
    public async Task Hostile_statements_reach_nothing(string statement, string? refusal)
    {
        var replayed = await ReplayAsync(new Witness("statement", "x", "SELECT id FROM members", statement, ""));
        if (refusal is null)
        {
            Assert.Equal(0, replayed!.Crafted.Count);
        }
        else
        {
            Assert.Contains(refusal, replayed!.Crafted.Error, StringComparison.Ordinal);
        }
    }

    [Theory]
    [InlineData("COPY members TO PROGRAM 'true'")]
    [InlineData("CREATE TABLE kept (a int)")]
    [InlineData("DO $$ BEGIN PERFORM 1; END $$")]
    public async Task Only_the_four_kinds_of_statement_are_run(string statement) =>
        Assert.Null(await ReplayAsync(new Witness("statement", "x", "SELECT id FROM members", statement, "")));

    [Fact]
    public async Task The_role_sees_no_other_database()
    {
        var builder = new NpgsqlConnectionStringBuilder(cluster.Cluster.ConnectionFor(LocalCluster.ScratchDatabase)) { Pooling = false };
        foreach (var database in new[] { "bellator", "postgres", "template1" })
        {
            builder.Database = database;
            await using var connection = new NpgsqlConnection(builder.ConnectionString);
            await Assert.ThrowsAsync<PostgresException>(() => connection.OpenAsync());
        }

        builder.Database = LocalCluster.ScratchDatabase;
        await using var scratch = new NpgsqlConnection(builder.ConnectionString);
        await scratch.OpenAsync();
        await using var make = new NpgsqlCommand("CREATE TABLE public.kept (a int)", scratch);
        await Assert.ThrowsAsync<PostgresException>(() => make.ExecuteNonQueryAsync());
    }

    [Fact]
    public async Task Names_of_tables_and_columns_cannot_leave_their_quotes()
    {
        var schema = new DatabaseSchema();
        DdlReader.Read(schema, 0, "CREATE TABLE \"a\"\" (b int); DROP TABLE x; --\" (\"c\"\" int); SELECT 1; --\" int, d text);");
        var replayed = await ReplayAsync(new Witness("statement", "x", "SELECT 1", "SELECT 2", ""), schema);
        Assert.Equal((1, 1), (replayed!.Ordinary.Count, replayed.Crafted.Count));
    }

    [Theory]
    [InlineData("CREATE TABLE odd (ctid int, xmin text, \"\" int, name text, Name text, select_ int);")]
    [InlineData("CREATE TABLE pg_class (a int); CREATE TABLE \"order\" (\"select\" int, b geometry(Point), c enum('x'));")]
    public async Task Odd_declarations_still_make_tables(string ddl)
    {
        var schema = new DatabaseSchema();
        DdlReader.Read(schema, 0, ddl);
        Assert.NotNull(await ReplayAsync(new Witness("statement", "x", "SELECT 1", "SELECT 2", ""), schema));
    }

    [Fact]
    public async Task Without_a_connection_an_audit_keeps_its_findings()
    {
        var finding = new ReportedFinding("injection/sql", "injection", Certainty.Proved, "m", "a.php", new Region(1, 1, 1, 1), "php", [89], 9, [], [], "f", new Witness("statement", "x", "SELECT 1", "SELECT 2", ""));
        var schema = new DatabaseSchema();
        DdlReader.Read(schema, 0, Ddl);
        var wrong = new NpgsqlConnectionStringBuilder(cluster.Database.ScratchConnection!) { Password = "wrong" }.ConnectionString;
        var kept = Assert.Single(await new StatementReplay(wrong).ReplayAsync([finding], schema));
        Assert.Null(kept.Witness!.Replay);
    }

    private async Task<Replay?> FirstAsync(string php)
    {
        var tree = new SourceTree("t", [new SourceFile("a.php", Encoding.UTF8.GetBytes("<?php\n" + php), Language.Php), new SourceFile("s.sql", Encoding.UTF8.GetBytes(Ddl), Language.Sql)], []);
        var result = AuditPipeline.Run(tree, new AuditOptions());
        var replayed = await new StatementReplay(cluster.Database.ScratchConnection!).ReplayAsync(result.Findings, result.Schema);
        return Assert.Single(replayed).Witness!.Replay;
    }

    private async Task<Replay?> ReplayAsync(Witness witness, DatabaseSchema? schema = null)
    {
        if (schema is null)
        {
            DdlReader.Read(schema = new DatabaseSchema(), 0, Ddl);
        }

        var finding = new ReportedFinding("injection/sql", "injection", Certainty.Proved, "m", "a.php", new Region(1, 1, 1, 1), "php", [89], 9, [], [], "f", witness);
        return (await new StatementReplay(cluster.Database.ScratchConnection!).ReplayAsync([finding], schema))[0].Witness!.Replay;
    }
}
