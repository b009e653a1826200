using Bellator.Passwords;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Storage.Runs;
using Bellator.Testing;
using Bellator.Text;
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
    [InlineData("kept_capture")]
    [InlineData("current_verdict")]
    [InlineData("run_count")]
    [InlineData("cause")]
    [InlineData("left_out")]
    [InlineData("intake")]
    [InlineData("gone")]
    [InlineData("match_question")]
    [InlineData("finding_note")]
    [InlineData("assignment")]
    [InlineData("saved_filter")]
    [InlineData("visit")]
    [InlineData("requirement_judgement")]
    [InlineData("report_draft")]
    [InlineData("report")]
    [InlineData("review_fact")]
    [InlineData("fact_answer")]
    public async Task A_forgotten_condition_shows_nothing(string table)
    {
        var mine = await AccountAsync();
        var (review, snapshot, run) = await ReviewAsync(mine);
        await CarryOutAsync(run);
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            await new IntakeTable(scope).BeginAsync(review, snapshot, "a");
            var print = (await new FindingTable(scope).AfterAsync(run, new(), -1))[0].Fingerprint;
            await new VerdictTable(scope).JudgeAsync(review, new([print], "confirmed", "seen"));
            var teamwork = new TeamworkTable(scope);
            await teamwork.NoteAsync(review, print, "a note");
            await teamwork.AssignAsync(review, [print], mine);
            await teamwork.SaveFilterAsync(review, "mine", "?area=injection");
            await teamwork.VisitAsync(review);
            await new ReportTable(scope).JudgeAsync(review, "asvs-5.0", "V6.2.1", "met", "seen");
            await new ReportTable(scope).SaveDraftAsync(review, new());
            await new FactTable(scope).ProposeAsync(review, "a fact", "library: a", "read it", null);
            await scope.CommitAsync();
        }

        await using var connection = await cluster.Database.Web.OpenConnectionAsync();

        // Nobody is set: the whole table looks empty. The name comes from the list above.
        await using var command = new NpgsqlCommand("SELECT count(*) FROM " + table, connection);
        Assert.Equal(0L, await command.ExecuteScalarAsync());
    }

    [Fact]
    public async Task An_accepted_risk_is_open_again_when_its_day_is_over()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        await CarryOutAsync(run);
        string print;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            print = (await new FindingTable(scope).AfterAsync(run, new(), -1))[0].Fingerprint;
            await new VerdictTable(scope).JudgeAsync(review, new([print], "risk accepted", "for the season", DateOnly.FromDateTime(DateTime.UtcNow).AddDays(-1)));
            await scope.CommitAsync();
        }

        await new RunQueue(cluster.Database.Worker).KeepAsync();
        await new RunQueue(cluster.Database.Worker).KeepAsync();
        await using var after = await cluster.Database.OpenAsAsync(mine);
        var history = await new VerdictTable(after).HistoryAsync(review, print);
        Assert.Equal(["to judge", "risk accepted"], history.Select(h => h.Verdict));
        Assert.Null(history[0].By);
        Assert.Equal(1, (await new FindingTable(after).ToJudgeAsync(run)).Values.Sum());
    }

    [Fact]
    public async Task Nobody_writes_into_a_strangers_review_or_in_anothers_name()
    {
        var (mine, other) = (await AccountAsync(), await AccountAsync());
        var (review, _, run) = await ReviewAsync(mine);
        await CarryOutAsync(run);
        await using var scope = await cluster.Database.OpenAsAsync(other);
        foreach (var write in (Func<Task>[])
        [
            () => new TeamworkTable(scope).NoteAsync(review, "f", "x"),
            () => new TeamworkTable(scope).AssignAsync(review, ["f"], other),
            () => new ReportTable(scope).JudgeAsync(review, "asvs-5.0", "V6.2.1", "met", "x"),
            () => new FactTable(scope).ProposeAsync(review, "x", "x", "x", null),
            () => scope.Command("INSERT INTO review_fact (review_id, title, facts, reason, account_id) VALUES ($1, 'x', 'x', 'x', $2)", review, mine).RunAsync(),
            () => scope.Command("INSERT INTO finding_note (review_id, fingerprint, text, account_id) VALUES ($1, 'f', 'x', $2)", review, mine).RunAsync(),
        ])
        {
            await scope.Command("SAVEPOINT s").RunAsync();
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, (await Assert.ThrowsAsync<PostgresException>(write)).SqlState);
            await scope.Command("ROLLBACK TO s").RunAsync();
        }

        Assert.False(await new ChangeTable(scope).AnswerAsync(run, "f", "g"));
    }

    [Fact]
    public async Task A_fact_is_decided_by_members_and_kept_only_once_it_was_tried()
    {
        var (mine, other) = (await AccountAsync(), await AccountAsync());
        var (review, snapshot, run) = await ReviewAsync(mine);
        await CarryOutAsync(run);
        long fact;
        Guid trial;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            fact = await new FactTable(scope).ProposeAsync(review, "a", "library: a\nlanguage: php\ncalls:\n  mysqli_query: { sanitizes: flag }\n", "read it", null);
            trial = await new RunTable(scope).QueueAsync(review, snapshot, trialOf: fact);
            Assert.False(await new FactTable(scope).DecideAsync(fact, "keep"));
            await scope.CommitAsync();
        }

        await CarryOutAsync(trial);
        await using (var scope = await cluster.Database.OpenAsAsync(other))
        {
            Assert.Null(await new FactTable(scope).FindAsync(review, fact));
            Assert.False(await new FactTable(scope).DecideAsync(fact, "keep"));
            Assert.False(await new FactTable(scope).DecideAsync(fact, "off"));
        }

        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            // A trial's result is not the review's.
            Assert.Equal(run, (await new RunTable(scope).LatestDoneAsync(review))!.Id);
            Assert.Equal(1, (await new ChangeTable(scope).CountAsync(trial))["gone"]);
            Assert.True(await new FactTable(scope).DecideAsync(fact, "keep"));
            Assert.False(await new FactTable(scope).DecideAsync(fact, "keep"));
            Assert.Equal(("kept", 1), await new FactTable(scope).FindAsync(review, fact) is { } kept ? (kept.State, kept.Answers) : default);
            Assert.Null(await new RunTable(scope).FindAsync(review, trial));
            run = await new RunTable(scope).QueueAsync(review, snapshot);
            await scope.CommitAsync();
        }

        await CarryOutAsync(run);
        await using var after = await cluster.Database.OpenAsAsync(mine);
        Assert.Empty(await new FindingTable(after).AfterAsync(run, new(), -1));
        Assert.Equal("stated", Assert.Single(await new ChangeTable(after).GoneAsync(run, "", 10)).Kind);
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
    public async Task Kept_captures_are_there_for_members_only_and_not_for_the_worker()
    {
        var (mine, other) = (await AccountAsync(), await AccountAsync());
        var (review, _, _) = await ReviewAsync(mine);
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.Equal(1, await new KeptCaptures(scope).KeepAsync(review, [1, 2, 3]));
            Assert.Equal(1, await new KeptCaptures(scope).KeepAsync(review, [4, 5]));
            await scope.CommitAsync();
        }

        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            Assert.Equal([4, 5], (await new KeptCaptures(scope).OfAsync(review))!.Sealed);
        }

        await using (var scope = await cluster.Database.OpenAsAsync(other))
        {
            Assert.Null(await new KeptCaptures(scope).OfAsync(review));
            Assert.Equal(0, await new KeptCaptures(scope).ForgetAsync(review));
            var refused = await Assert.ThrowsAsync<PostgresException>(() => new KeptCaptures(scope).KeepAsync(review, [1]));
            Assert.Equal(PostgresErrorCodes.InsufficientPrivilege, refused.SqlState);
        }

        await using var worker = await cluster.Database.Worker.OpenConnectionAsync();
        await using var command = new NpgsqlCommand("SELECT sealed FROM kept_capture", worker);
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
        await CarryOutAsync(run);
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            // As if the process had been killed just before the end, a while ago.
            await Sql.Command(connection, "UPDATE run SET state = 'running', heartbeat_at = now() - interval '1 minute' WHERE id = $1", run).RunAsync();
        }

        await CarryOutAsync(run);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        var findings = await new FindingTable(scope).AfterAsync(run, new(), -1);
        Assert.Equal("injection/sql", Assert.Single(findings).CheckId);
        Assert.Equal("done", (await new RunTable(scope).FindAsync(review, run))!.State);
        Assert.Equal((1, 1), await new FindingTable(scope).CountAsync(run, new()));
        Assert.Single(await new CauseTable(scope).OfAreaAsync(run, "injection", shared: false, 0, 10, 10));
    }

    [Fact]
    public async Task Of_two_processes_only_the_one_that_has_the_run_writes()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        var queue = new RunQueue(cluster.Database.Worker);
        var first = (await queue.ClaimAsync(run))!;
        Assert.Null(await queue.ClaimAsync(run));
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            await Sql.Command(connection, "UPDATE run SET heartbeat_at = now() - interval '1 minute' WHERE id = $1", run).RunAsync();
        }

        var second = (await queue.ClaimAsync(run))!;
        var executor = new RunExecutor(cluster.Database.Worker, null, _kept);
        Assert.False(await executor.RunAsync(first, new(1, null), _ => { }, default));
        Assert.Null(await queue.ProgressAsync(first, new("reading", 0, 0, 0, 0)));
        await queue.EndAsync(first, "failed", "too late");
        Assert.True(await executor.RunAsync(second, new(1, null), _ => { }, default));
        await using var scope = await cluster.Database.OpenAsAsync(mine);
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

        await new RunQueue(cluster.Database.Worker).KeepAsync();
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("interrupted", (await new RunTable(scope).FindAsync(review, run))!.State);
        Assert.Single(await new SnapshotTable(scope).ListAsync(review));
    }

    [Theory]
    [InlineData("state = 'running', attempts = 1, heartbeat_at = now() - interval '1 minute'", "queued", true)]
    [InlineData("state = 'running', attempts = 1, heartbeat_at = now() - interval '1 minute', cancel_requested = true", "cancelled", false)]
    [InlineData("state = 'running', attempts = 1, heartbeat_at = now()", "running", false)]
    [InlineData("state = 'queued', created_at = now() - interval '1 minute', queued_at = now() - interval '1 minute'", "queued", true)]
    [InlineData("state = 'queued'", "queued", false)]
    [InlineData("state = 'queued', attempts = 3", "interrupted", false)]
    public async Task Runs_that_others_left_wait_again_or_come_to_an_end(string left, string state, bool isTold)
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine);
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            // The states come from the list above.
            await Sql.Command(connection, $"UPDATE run SET {left} WHERE id = $1", run).RunAsync();
        }

        var queue = new RunQueue(cluster.Database.Worker);
        var told = await queue.KeepAsync();
        Assert.Equal(isTold, told.Any(t => t.Run == run));
        Assert.DoesNotContain(await queue.KeepAsync(), t => t.Run == run);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal(state, (await new RunTable(scope).FindAsync(review, run))!.State);
    }

    [Fact]
    public async Task An_intake_that_was_left_takes_its_files_back()
    {
        var mine = await AccountAsync();
        var (review, _, _) = await ReviewAsync(mine);
        var writer = await SnapshotWriter.BeginAsync(cluster.Database, mine, review, "half");
        for (var i = 0; i < 4500; i++)
        {
            await writer.AddAsync(new SourceFile($"f{i}.php", System.Text.Encoding.UTF8.GetBytes($"<?php {i};"), Language.Php));
        }

        Guid intake;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            intake = await new IntakeTable(scope).BeginAsync(review, writer.Id, "half");
            await scope.CommitAsync();
        }

        Assert.True(await CountAsync("SELECT count(*) FROM snapshot_file WHERE snapshot_id = $1", writer.Id) >= 4000);
        await using (var connection = await cluster.Database.Worker.OpenConnectionAsync())
        {
            await Sql.Command(connection, "UPDATE intake SET heartbeat_at = now() - interval '1 minute' WHERE id = $1", intake).RunAsync();
        }

        await new RunQueue(cluster.Database.Worker).KeepAsync();
        Assert.Equal(0, await CountAsync("SELECT count(*) FROM snapshot_file WHERE snapshot_id = $1", writer.Id));
        Assert.Equal(0, await CountAsync("SELECT count(*) FROM blob WHERE convert_from(content, 'UTF8') LIKE '<?php 4%;' AND $1 <> ''", "x"));
        await using var after = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("interrupted", (await new IntakeTable(after).FindAsync(review, intake))!.State);
        Assert.Single(await new SnapshotTable(after).ListAsync(review));
    }

    [Fact]
    public async Task Snapshots_that_arrive_at_once_get_numbers_of_their_own()
    {
        var mine = await AccountAsync();
        var (review, _, _) = await ReviewAsync(mine);
        await Task.WhenAll(Enumerable.Range(0, 8).Select(async _ =>
        {
            var writer = await SnapshotWriter.BeginAsync(cluster.Database, mine, review, "at once");
            await writer.AddAsync(Weak.Files[0]);
            await writer.FinishAsync([]);
        }));
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal(Enumerable.Range(1, 9).Reverse(), (await new SnapshotTable(scope).ListAsync(review)).Select(s => s.Number));
    }

    [Fact]
    public async Task What_was_left_out_is_counted_beyond_what_is_listed()
    {
        var mine = await AccountAsync();
        var (review, _, _) = await ReviewAsync(mine);
        var writer = await SnapshotWriter.BeginAsync(cluster.Database, mine, review, "many");
        await writer.AddAsync(Weak.Files[0]);
        await writer.FinishAsync([.. Enumerable.Range(0, 6000).Select(i => new SkippedFile($"f{i}\0.bin", SkipReason.Binary)), new SkippedFile("a.php", SkipReason.SamePath), new SkippedFile("a.php", SkipReason.SamePath)]);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        var snapshot = (await new SnapshotTable(scope).ListAsync(review))[0];
        Assert.Equal(6002, snapshot.LeftOut);
        var listed = await new SnapshotTable(scope).LeftOutAsync(snapshot.Id, 0, 10_000);
        Assert.Equal(SnapshotWriter.MostListed, listed.Count);
        Assert.Equal(2, listed.Count(l => l.Path == "a.php"));
    }

    [Theory]
    [InlineData("<?php echo $_GET['\\u0000'];")]
    [InlineData("<?php echo $_GET['\\udc00'];")]
    [InlineData("<?php echo $_GET[\"\\u{0}\"]; echo $_GET[\"\\u{dc00}\"];")]
    [InlineData("<?php echo $_GET['\\\\u0000\\u0000'];")]
    public async Task Signs_that_the_database_does_not_take_cost_nothing(string code)
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine, new SourceTree("odd", [new SourceFile("a\uDC00.php", System.Text.Encoding.UTF8.GetBytes(code), Language.Php)], []));
        await CarryOutAsync(run);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("done", (await new RunTable(scope).FindAsync(review, run))!.State);
        var found = await new FindingTable(scope).AfterAsync(run, new(), -1);
        Assert.NotEmpty(found);
        Assert.Equal(found[0].CheckId, (await new FindingTable(scope).DetailAsync(review, found[0].Id))!.Value.Finding.CheckId);
    }

    [Fact]
    public void Text_for_the_database_keeps_all_that_it_can_keep()
    {
        Assert.Equal("a\uFFFDb", DatabaseText.Clean("a\0b"));
        Assert.Equal("\uFFFD\uFFFDx", DatabaseText.Clean("\uD800\uDBFFx"));
        Assert.Equal("\uFFFD", DatabaseText.Clean("\uDC00"));
        Assert.Equal("\U0001F41D é", DatabaseText.Clean("\U0001F41D é"));
    }

    [Fact]
    public async Task Verdicts_of_many_at_once_are_counted_one_by_one()
    {
        var mine = await AccountAsync();
        var (review, _, run) = await ReviewAsync(mine, Many(40));
        await CarryOutAsync(run);
        IReadOnlyList<FindingRow> found;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            found = await new FindingTable(scope).AfterAsync(run, new(), -1);
        }

        Assert.Equal(40, found.Count);
        await Task.WhenAll(found.SelectMany(f => new[] { f, f, f }).Select(async f =>
        {
            await using var scope = await cluster.Database.OpenAsAsync(mine);
            await new VerdictTable(scope).JudgeAsync(review, new([f.Fingerprint], "confirmed", "seen"));
            await scope.CommitAsync();
        }));
        await using var after = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal((40, 0), await new FindingTable(after).CountAsync(run, new()));
        await new VerdictTable(after).JudgeAsync(review, new([found[0].Fingerprint], "to judge", "again"));
        Assert.Equal((40, 1), await new FindingTable(after).CountAsync(run, new()));
        Assert.Equal((40, 1), await new FindingTable(after).CountAsync(run, new(Certainty: found[0].Certainty)));
        Assert.Equal(1, (await new FindingTable(after).ToJudgeAsync(run)).Values.Sum());
    }

    [Fact]
    public async Task Lists_come_in_pages_forwards_and_backwards()
    {
        var mine = await AccountAsync();
        var (_, _, run) = await ReviewAsync(mine, Many(25));
        await CarryOutAsync(run);
        await using var scope = await cluster.Database.OpenAsAsync(mine);
        var table = new FindingTable(scope);
        var first = await table.AfterAsync(run, new(), -1, 10);
        var second = await table.AfterAsync(run, new(), first[^1].Position, 10);
        var third = await table.AfterAsync(run, new(), second[^1].Position, 10);
        Assert.Equal(25, first.Concat(second).Concat(third).Select(f => f.Id).Distinct().Count());
        Assert.Equal(second, await table.BeforeAsync(run, new(), third[0].Position, 10));
        Assert.Empty(await table.AfterAsync(run, new(), -1, 10, first[0].CheckId, isOther: true));
    }

    private static SourceTree Many(int lines) => new("many", [new SourceFile("m.php", System.Text.Encoding.UTF8.GetBytes("<?php\n" + string.Concat(Enumerable.Range(0, lines).Select(i => $"echo $_GET['x{i}'];\n"))), Language.Php)], []);

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

        Assert.Null(await new RunQueue(cluster.Database.Worker).ClaimAsync(run));
        await using var after = await cluster.Database.OpenAsAsync(mine);
        Assert.Equal("cancelled", (await new RunTable(after).FindAsync(review, run))!.State);
    }

    [Fact]
    public async Task Verdicts_follow_the_fingerprint_and_keep_their_history()
    {
        var mine = await AccountAsync();
        var (review, snapshot, run) = await ReviewAsync(mine);
        await CarryOutAsync(run);
        Guid second;
        await using (var scope = await cluster.Database.OpenAsAsync(mine))
        {
            var findings = new FindingTable(scope);
            var finding = (await findings.AfterAsync(run, new(), -1))[0];
            await new VerdictTable(scope).JudgeAsync(review, new([finding.Fingerprint], "confirmed", "seen it"));
            await new VerdictTable(scope).JudgeAsync(review, new([finding.Fingerprint], "false positive", "looked again"));
            second = await new RunTable(scope).QueueAsync(review, snapshot);
            await scope.CommitAsync();
        }

        await CarryOutAsync(second);
        await using var after = await cluster.Database.OpenAsAsync(mine);
        var again = Assert.Single(await new FindingTable(after).AfterAsync(second, new(), -1));
        Assert.Equal("false positive", again.Verdict);
        Assert.Equal(["looked again", "seen it"], (await new VerdictTable(after).HistoryAsync(review, again.Fingerprint)).Select(v => v.Reason));
        Assert.Empty(await new FindingTable(after).AfterAsync(second, new FindingFilter(Verdict: "to judge"), -1));
        Assert.Single(await new FindingTable(after).AfterAsync(second, new FindingFilter(Text: "a.php"), -1));
        Assert.Empty(await new FindingTable(after).AfterAsync(second, new FindingFilter(Text: "%nothing%"), -1));
    }

    [Fact]
    public async Task Equal_files_are_stored_once()
    {
        var mine = await AccountAsync();
        await ReviewAsync(mine);
        await ReviewAsync(mine);
        Assert.Equal(1, await CountAsync("SELECT count(*) FROM blob WHERE content = $1", Weak.Files[0].Content));
    }

    private async Task<Guid> AccountAsync()
    {
        var account = new Account { Name = "A", Email = Guid.NewGuid() + "@fernhollow.example", PasswordHash = "x", SecurityStamp = "x" };
        account.EmailKey = account.Email.ToUpperInvariant();
        Assert.True(await new AccountTable(cluster.Database).InsertAsync(account));
        return account.Id;
    }

    private async Task<(Guid Review, Guid Snapshot, Guid Run)> ReviewAsync(Guid account, SourceTree? tree = null)
    {
        Guid review;
        await using (var scope = await cluster.Database.OpenAsAsync(account))
        {
            review = await new ReviewTable(scope).CreateAsync("Register");
            await scope.CommitAsync();
        }

        var writer = await SnapshotWriter.BeginAsync(cluster.Database, account, review, "weak");
        foreach (var file in (tree ?? Weak).Files)
        {
            await writer.AddAsync(file);
        }

        return (review, writer.Id, await writer.FinishAsync((tree ?? Weak).Skipped));
    }

    private async Task CarryOutAsync(Guid run)
    {
        var claimed = await new RunQueue(cluster.Database.Worker).ClaimAsync(run);
        Assert.True(await new RunExecutor(cluster.Database.Worker, null, _kept).RunAsync(claimed!, new(2, null), _ => { }, default));
    }

    private async Task<long> CountAsync(string sql, object value)
    {
        await using var connection = new NpgsqlConnection(cluster.Cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        return await Sql.Command(connection, sql, value).FirstAsync(r => r.GetInt64(0));
    }
}
