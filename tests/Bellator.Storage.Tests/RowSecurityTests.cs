using Bellator.Core.Passwords;
using Bellator.Core.Sources;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Storage.Runs;
using Bellator.Testing;
using Npgsql;

namespace Bellator.Storage.Tests;

/// <summary>Row security, storing and running, against the real PostgreSQL.</summary>
public sealed class RowSecurityTests(TestCluster cluster) : IClassFixture<TestCluster>, IDisposable
{
    private readonly KeptAudits _kept = new(TimeProvider.System);

    public void Dispose() => _kept.Dispose();

    private static readonly SourceTree Weak = new(
        "weak",
        [new SourceFile("a.php", "<?php\nmysqli_query($c, 'SELECT * FROM t WHERE a = ' . $_GET['a']);\n"u8.ToArray(), Language.Php)],
        [new SkippedFile("b.bin", SkipReason.Binary)]);

    [Fact]
    public async Task A_review_is_there_for_its_members_only()
    {
        var (mine, other) = (await AccountAsync(), await AccountAsync());
        var (review, snapshot, run) = await ReviewAsync(mine);
        await using (var scope = await cluster.Database.OpenAsAsync(other))
        {
            Assert.Empty(await new ReviewTable(scope).ListAsync());
            Assert.Null(await new ReviewTable(scope).NameOfAsync(review));
            Assert.Empty(await new SnapshotTable(scope).ListAsync(review));
            Assert.Null(await new SnapshotTable(scope).ContentAsync(snapshot, "a.php"));
            Assert.Null(await new RunTable(scope).FindAsync(review, run));
            Assert.False(await new RunTable(scope).CancelAsync(review, run));
        }

        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.True(await new ReviewTable(scope).AddMemberAsync(review, other));
            await scope.CommitAsync();
        }

        await using (var scope = await cluster.Database.OpenAsAsync(other))
        {
            Assert.Equal("Register", await new ReviewTable(scope).NameOfAsync(review));
            Assert.NotNull(await new SnapshotTable(scope).ContentAsync(snapshot, "a.php"));

            // A member who is not the owner cannot bring in others.
            Assert.False(await new ReviewTable(scope).AddMemberAsync(review, await AccountAsync()));
        }
    }

    [Theory]
    [InlineData("review")]
    [InlineData("membership")]
    [InlineData("snapshot")]
    [InlineData("snapshot_file")]
    [InlineData("blob")]
    [InlineData("run")]
    [InlineData("finding")]
    [InlineData("verdict")]
    [InlineData("column_meaning")]
    [InlineData("kept_passwords")]
    public async Task A_forgotten_condition_shows_nothing(string table)
    {
        await ReviewAsync(await AccountAsync());
        await using var connection = await cluster.Database.Web.OpenConnectionAsync();

        // Nobody is set: the whole table looks empty. The name comes from the list above.
        await using var command = new NpgsqlCommand("SELECT count(*) FROM " + table, connection);
        Assert.Equal(0L, await command.ExecuteScalarAsync());
    }

    [Fact]
    public async Task Kept_passwords_are_there_for_members_only_and_not_for_the_worker()
    {
        var (mine, other) = (await AccountAsync(), await AccountAsync());
        var (review, _, _) = await ReviewAsync(mine);
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.Equal(1, await new KeptPasswords(scope).KeepAsync(review, [new StoredPassword("hazel", "plain"), new StoredPassword("rowan", "$1$x$y", "2024-05-01")]));
            Assert.Equal(1, await new KeptPasswords(scope).KeepAsync(review, [new StoredPassword("hazel", "plain")]));
            await scope.CommitAsync();
        }

        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.Equal(new StoredPassword("hazel", "plain"), Assert.Single((await new KeptPasswords(scope).OfAsync(review))!.Rows));
        }

        await using (var scope = await cluster.Database.OpenAsAsync(other))
        {
            Assert.Null(await new KeptPasswords(scope).OfAsync(review));
            Assert.Equal(0, await new KeptPasswords(scope).ForgetAsync(review));
            var refused = await Assert.ThrowsAsync<PostgresException>(() => new KeptPasswords(scope).KeepAsync(review, [new StoredPassword("", "x")]));
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, refused.SqlState);
        }

        await using var worker = await cluster.Database.Worker.OpenConnectionAsync();
        await using var command = new NpgsqlCommand("SELECT rows FROM kept_passwords", worker);
        Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, (await Assert.ThrowsAsync<PostgresException>(() => command.ExecuteNonQueryAsync())).SqlState);
    }

    [Fact]
    public async Task The_web_role_owns_no_table_and_cannot_switch_row_security_off()
    {
        await using var connection = await cluster.Database.Web.OpenConnectionAsync();
        await using var command = new NpgsqlCommand("SELECT count(*) FROM pg_tables WHERE schemaname = 'public' AND tableowner <> 'bellator_owner' AND tablename <> 'schemaversions'", connection);
        Assert.Equal(0L, await command.ExecuteScalarAsync());
        await using var off = new NpgsqlCommand("ALTER TABLE review DISABLE ROW LEVEL SECURITY", connection);
        Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, (await Assert.ThrowsAsync<PostgresException>(() => off.ExecuteNonQueryAsync())).SqlState);
    }

    [Fact]
    public async Task The_account_is_forgotten_with_the_transaction()
    {
        var mine = await AccountAsync();
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            await scope.CommitAsync();
        }

        // Pooled connections come back: none may still speak for the account before.
        for (var i = 0; i < 5; i++)
        {
            await using var connection = await cluster.Database.Web.OpenConnectionAsync();
            await using var command = new NpgsqlCommand("SELECT current_account()", connection);
            Assert.Equal(DBNull.Value, await command.ExecuteScalarAsync());
        }
    }

    [Fact]
    public async Task A_run_writes_its_findings_once_even_if_it_is_carried_out_twice()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        var worker = new RunWorker(cluster.Database, _kept);
        await worker.RunAsync(run, CancellationToken.None);
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            // As if the process had been killed just before the end.
            await Sql.Command(connection, "UPDATE run SET state = 'running' WHERE id = $1", run).RunAsync();
        }

        await worker.RunAsync(run, CancellationToken.None);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        var findings = await new FindingTable(scope).ListAsync(run, new());
        Assert.Equal("injection/sql", Assert.Single(findings).CheckId);
        Assert.Equal("done", (await new RunTable(scope).FindAsync(review, run))!.State);
    }

    [Fact]
    public async Task A_run_that_keeps_dying_is_marked_interrupted()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            await Sql.Command(connection, "UPDATE run SET state = 'running', attempts = 3, heartbeat_at = now() - interval '1 hour' WHERE id = $1", run).RunAsync();
        }

        await new RunWorker(cluster.Database, _kept).MarkInterruptedAsync(TimeSpan.FromMinutes(2));
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("interrupted", (await new RunTable(scope).FindAsync(review, run))!.State);
        Assert.Single(await new SnapshotTable(scope).ListAsync(review));
    }

    [Fact]
    public async Task A_waiting_run_that_is_cancelled_does_not_start()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.True(await new RunTable(scope).CancelAsync(review, run));
            await scope.CommitAsync();
        }

        await new RunWorker(cluster.Database, _kept).RunAsync(run, CancellationToken.None);
        await using var after = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("cancelled", (await new RunTable(after).FindAsync(review, run))!.State);
    }

    [Fact]
    public async Task Verdicts_follow_the_fingerprint_and_keep_their_history()
    {
        var mine = await AccountAsync();
        var (review, snapshot, run) = await ReviewAsync(mine);
        var worker = new RunWorker(cluster.Database, _kept);
        await worker.RunAsync(run, CancellationToken.None);
        Guid second;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            var findings = new FindingTable(scope);
            var finding = (await findings.ListAsync(run, new()))[0];
            await findings.JudgeAsync(review, finding.Fingerprint, "upheld", "seen it");
            await findings.JudgeAsync(review, finding.Fingerprint, "rejected", "looked again");
            second = await new RunTable(scope).QueueAsync(review, snapshot);
            await scope.CommitAsync();
        }

        await worker.RunAsync(second, CancellationToken.None);
        await using var after = await cluster.Database.OpenAsAsync(mine);
        var again = Assert.Single(await new FindingTable(after).ListAsync(second, new()));
        Assert.Equal("rejected", again.Verdict);
        Assert.Equal(["looked again", "seen it"], (await new FindingTable(after).HistoryAsync(review, again.Fingerprint)).Select(v => v.Reason));
        Assert.Empty(await new FindingTable(after).ListAsync(second, new FindingFilter(Verdict: "to judge")));
        Assert.Single(await new FindingTable(after).ListAsync(second, new FindingFilter(Text: "a.php")));
        Assert.Empty(await new FindingTable(after).ListAsync(second, new FindingFilter(Text: "%nothing%")));
    }

    [Fact]
    public async Task Equal_files_are_stored_once()
    {
        var mine = await AccountAsync();
        await ReviewAsync(mine);
        await ReviewAsync(mine);
        await using var connection = new NpgsqlConnection(cluster.Cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        await using var command = new NpgsqlCommand("SELECT count(*) FROM blob", connection);
        Assert.Equal(1L, await command.ExecuteScalarAsync());
    }

    private async Task<Guid> AccountAsync()
    {
        var account = new Account { Name = "A", Email = Guid.NewGuid() + "@fernhollow.example", PasswordHash = "x", SecurityStamp = "x" };
        account.EmailKey = account.Email.ToUpperInvariant();
        Assert.True(await new AccountTable(cluster.Database).InsertAsync(account));
        return account.Id;
    }

    private async Task<(Guid Review, Guid Snapshot, Guid Run)> ReviewAsync(Guid account)
    {
        await using var scope = await cluster.Database.OpenAsAsync(account);
        var review = await new ReviewTable(scope).CreateAsync("Register");
        var snapshot = await new SnapshotTable(scope).AddAsync(review, Weak);
        var run = await new RunTable(scope).QueueAsync(review, snapshot);
        await scope.CommitAsync();
        return (review, snapshot, run);
    }
}
