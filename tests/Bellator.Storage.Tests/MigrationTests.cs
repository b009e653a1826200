using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Storage.Cluster;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Tests;

/// <summary>A database of every released version, with a review in it, is brought up to date, also when that is killed in the middle.</summary>
public sealed class MigrationTests : IDisposable
{
    private static readonly Guid Account = Guid.CreateVersion7();
    private static readonly Guid Review = Guid.CreateVersion7();
    private static readonly Guid Snapshot = Guid.CreateVersion7();
    private static readonly Guid Run = Guid.CreateVersion7();
    private readonly string _folder = Path.Combine(Path.GetTempPath(), "bellator-migrate-" + Guid.NewGuid().ToString("N")[..8]);

    public static TheoryData<string> Released => [.. Migrator.Scripts.Take(Migrator.Scripts.Count - 1)];

    public void Dispose()
    {
        if (Directory.Exists(_folder))
        {
            Directory.Delete(_folder, recursive: true);
        }
    }

    [Theory]
    [MemberData(nameof(Released))]
    public async Task A_database_of_an_older_version_keeps_all_it_had(string version)
    {
        await using var cluster = await LocalCluster.StartAsync(_folder);
        Migrator.Migrate(cluster, version);
        await FillAsync(cluster, version);
        await KillInTheMiddleAsync(cluster);
        Migrator.Migrate(cluster);
        await using var database = new Database(cluster.ConnectionFor("bellator_web"), cluster.ConnectionFor("bellator_worker"));
        await using var scope = await database.OpenAsAsync(Account);
        if (version == Migrator.Scripts[0])
        {
            Assert.Empty(await new ReviewTable(scope).ListAsync());
            return;
        }

        var review = Assert.Single(await new ReviewTable(scope).ListAsync());
        Assert.Equal((1, 2, 1), (review.Snapshots, review.Findings, review.ToJudge));
        var findings = await new FindingTable(scope).AfterAsync(Run, new(), -1);
        Assert.Equal(["false positive", "to judge"], findings.Select(f => f.Verdict));
        Assert.Equal("seen", Assert.Single(await new VerdictTable(scope).HistoryAsync(Review, findings[0].Fingerprint)).Reason);
        var cause = Assert.Single(await new CauseTable(scope).OfAreaAsync(Run, "injection", shared: true, 0, 10, 10));
        Assert.Equal(("b.php", 9, 2, 2), (cause.SinkPath, cause.SinkLine, cause.FlowCount, cause.CutCount));
        Assert.Equal([("a.php", 3), ("a.php", 4)], cause.Flows.Select(f => (f.SourcePath, f.SourceLine)));
        var snapshot = Assert.Single(await new SnapshotTable(scope).ListAsync(Review));
        Assert.Equal((1, 1), (snapshot.Number, snapshot.LeftOut));
        Assert.Equal("a.php", Assert.Single(await new SnapshotTable(scope).FilesAsync(Snapshot, "", 10)).Path);
        Assert.Equal(new LeftOutRow("x.bin", "not text"), Assert.Single(await new SnapshotTable(scope).LeftOutAsync(Snapshot, 0, 10)));
        Assert.NotNull(await new SnapshotTable(scope).ContentAsync(Snapshot, "a.php"));
    }

    /// <summary>Ends the server's side of a migration under way: its script is undone as a whole.</summary>
    private static async Task KillInTheMiddleAsync(LocalCluster cluster)
    {
        var migrating = Task.Run(() =>
        {
            try
            {
                Migrator.Migrate(cluster);
            }
            catch (Exception e) when (e is ClusterException or NpgsqlException)
            {
                // That is what is tested.
            }
        });
        await using var connection = await OpenAsync(cluster);
        for (var i = 0; i < 40 && !migrating.IsCompleted; i++)
        {
            await Sql.Command(connection, "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE pid <> pg_backend_pid() AND usename = 'bellator_owner' AND (query ILIKE '%create%table%' OR query ILIKE '%alter table%')").RunAsync();
            await Task.Delay(5);
        }

        await migrating;
    }

    private static async Task FillAsync(LocalCluster cluster, string version)
    {
        await using var connection = await OpenAsync(cluster);
        await Sql.Command(connection, "INSERT INTO account (id, email, email_key, name, password_hash, security_stamp) VALUES ($1, 'a@fernhollow.example', 'A@FERNHOLLOW.EXAMPLE', 'A', 'x', 'x')", Account).RunAsync();
        if (version == Migrator.Scripts[0])
        {
            return;
        }

        await Sql.Command(connection, "INSERT INTO review (id, name, created_by) VALUES ($1, 'Old', $2)", Review, Account).RunAsync();
        await Sql.Command(connection, "INSERT INTO membership (review_id, account_id, is_owner) VALUES ($1, $2, true)", Review, Account).RunAsync();
        await Sql.Command(connection, "INSERT INTO snapshot (id, review_id, number, name, file_count, line_count) VALUES ($1, $2, 1, 'old', 1, 4)", Snapshot, Review).RunAsync();
        await Sql.Command(connection, "INSERT INTO blob (hash, content) VALUES (sha256('<?php'), '<?php')").RunAsync();
        await Sql.Command(connection, "INSERT INTO snapshot_file (snapshot_id, review_id, path, hash, line_count) VALUES ($1, $2, 'a.php', sha256('<?php'), 4)", Snapshot, Review).RunAsync();

        // From then on what was left out is listed on its own, and causes and counts are kept.
        var isAtScale = Migrator.Scripts.ToList().IndexOf(version) >= 5;
        await Sql.Command(
            connection,
            isAtScale
                ? "WITH counted AS (UPDATE snapshot SET left_out_count = 1 WHERE id = $1) INSERT INTO left_out (snapshot_id, review_id, position, path, reason) VALUES ($1, $2, 1, 'x.bin', 'not text')"
                : "INSERT INTO snapshot_file (snapshot_id, review_id, path, skip_reason) VALUES ($1, $2, 'x.bin', 'not text')",
            Snapshot,
            Review).RunAsync();
        await Sql.Command(connection, "INSERT INTO run (id, review_id, snapshot_id, state, finished_at, finding_count) VALUES ($1, $2, $3, 'done', now(), 2)", Run, Review, Snapshot).RunAsync();
        for (var i = 0; i < 2; i++)
        {
            var finding = new ReportedFinding("injection/sql", "injection", Certainty.Traced, "m", "a.php", new Region(7, 1, 7, 5), "php", [89], 9.4, [new("source", "", "a.php", new Region(3 + i, 1, 3, 2)), new("sink", "", "b.php", new Region(9, 1, 9, 2))], [], "f" + i);
            await Sql.Command(
                connection,
                "INSERT INTO finding (run_id, review_id, position, fingerprint, check_id, area, certainty, score, path, line, message, detail) VALUES ($1, $2, $3, $4, 'injection/sql', 'injection', 'traced', 9.4, 'a.php', 7, 'm', $5::jsonb)",
                Run,
                Review,
                i,
                "f" + i,
                JsonSerializer.Serialize(finding)).RunAsync();
        }

        if (isAtScale)
        {
            await Sql.Command(connection, "UPDATE finding SET cause = 1, source_path = 'a.php', source_line = 3 + position").RunAsync();
            await Sql.Command(connection, "INSERT INTO cause (run_id, review_id, number, check_id, area, sink_path, sink_line, cut_path, cut_line, cut_count, flow_count) VALUES ($1, $2, 1, 'injection/sql', 'injection', 'b.php', 9, 'a.php', 7, 2, 2)", Run, Review).RunAsync();
            await Sql.Command(connection, "INSERT INTO run_count (run_id, review_id, area, check_id, total, to_judge) VALUES ($1, $2, 'injection', 'injection/sql', 2, 2)", Run, Review).RunAsync();
        }

        await Sql.Command(connection, "INSERT INTO verdict (review_id, fingerprint, verdict, reason, account_id) VALUES ($1, 'f0', $3, 'seen', $2)", Review, Account, Migrator.Scripts.ToList().IndexOf(version) >= 6 ? "false positive" : "rejected").RunAsync();
    }

    private static async Task<NpgsqlConnection> OpenAsync(LocalCluster cluster)
    {
        // Not pooled: what ends the server's side of a migration must not leave dead connections for the next test of this process.
        var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(cluster.ConnectionFor("bellator_owner")) { Pooling = false }.ConnectionString);
        await connection.OpenAsync();
        return connection;
    }
}
