using System.Diagnostics;
using System.Text;
using Bellator.Storage.Reviews;
using Bellator.Testing;
using Bellator.Text;
using Bellator.Web.Runs;
using Bellator.Web.Supervision;
using Microsoft.Extensions.DependencyInjection;

namespace Bellator.Web.Tests;

/// <summary>The application with helpers that go wrong on purpose, and little patience.</summary>
public sealed class FaultyApp : IAsyncLifetime
{
    public TestApp App { get; } = new() { Supervision = new SupervisorSettings { Faults = true, Stall = TimeSpan.FromSeconds(4), StopPatience = TimeSpan.FromSeconds(1), SmallBytes = 700L * 1024 * 1024 } };

    public Task InitializeAsync() => App.InitializeAsync();

    public Task DisposeAsync() => App.DisposeAsync();
}

/// <summary>Whatever an audit does to its process: the run comes to an end that is said, the page stays up, and the next audit works.</summary>
[Collection("one application at a time")]
public sealed class SupervisionTests(FaultyApp faulty) : IClassFixture<FaultyApp>
{
    private const string Weak = "<?php mysqli_query($c, 'SELECT * FROM t WHERE a = ' . $_GET['a']);";
    private readonly TestApp _app = faulty.App;

    [Theory]
    [InlineData("fault-hang.php")]
    [InlineData("fault-spin.php")]
    [InlineData("fault-die.php")]
    [InlineData("fault-overflow.php")]
    [InlineData("fault-memory.php")]
    public async Task A_file_that_ends_the_audit_is_left_out_and_the_rest_is_audited(string fault)
    {
        var (run, findings) = await AuditAsync([.. Enumerable.Range(0, 6).Select(i => ($"a{i}.php", Weak)), ("sub/" + fault, "<?php f();")]);
        Assert.Equal(("done", 6), (run.State, findings));
        Assert.Equal(["sub/" + fault], run.LeftOut);
        await using var scope = await _app.Cluster.Database.OpenAsAsync(await AccountAsync());
        Assert.Contains(await new RunTable(scope).NotesAsync(run.Id), n => n.Path == "sub/" + fault && n.Text.Contains("left out", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Several_such_files_are_left_out_one_after_another()
    {
        var (run, findings) = await AuditAsync([("a.php", Weak), ("fault-die.php", Weak), ("b/fault-die.php", Weak), ("c/fault-hang.php", Weak)]);
        Assert.Equal(("done", 1), (run.State, findings));
        Assert.Equal(3, run.LeftOut.Count);
    }

    [Fact]
    public async Task An_error_in_one_file_costs_that_file()
    {
        var (run, findings) = await AuditAsync([("a.php", Weak), ("fault-throw.php", Weak)]);
        Assert.Equal(("done", 1), (run.State, findings));
        Assert.Equal(["fault-throw.php"], run.LeftOut);
        Assert.Equal("done", (await AuditAsync([("a.php", Weak)])).Run.State);
    }

    /// <summary>Three seconds is what <c>bellator load</c> measures; a machine that runs other tests beside this one may take longer, but never as long as a hang.</summary>
    [Fact]
    public async Task A_hanging_audit_is_cancelled_soon()
    {
        var (review, run) = await QueueAsync([("fault-hang.php", Weak)]);
        await UntilAsync(review, run, r => r.State == "running");
        await Task.Delay(500);
        await CancelAsync(review, run);
        var watch = Stopwatch.StartNew();
        await UntilAsync(review, run, r => r.State == "cancelled");
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 10);
        Assert.Equal("done", (await AuditAsync([("a.php", Weak)])).Run.State);
    }

    [Fact]
    public async Task A_helper_that_is_killed_is_replaced_and_the_run_is_done()
    {
        var (review, run) = await QueueAsync([("fault-slow.php", Weak), ("a.php", Weak)]);
        await UntilAsync(review, run, r => r.State == "running");
        await Task.Delay(300);

        // On a busy machine the helper's process may still be starting.
        var lane = _app.Services.GetRequiredService<AuditLanes>().Small;
        for (var tries = 0; lane.HelperId is null && tries < 100; tries++)
        {
            await Task.Delay(50);
        }

        Process.GetProcessById(lane.HelperId!.Value).Kill();
        Assert.Equal("done", (await UntilAsync(review, run, r => r.IsOver)).State);
    }

    [Fact]
    public async Task Small_runs_do_not_wait_behind_a_large_one()
    {
        // Half a second each: far from what counts as standing still on any machine, and together half a minute of two threads.
        var slow = Enumerable.Range(0, 120).Select(i => ($"part{i}/fault-brief.php", Weak));
        var large = await QueueAsync([.. slow, .. Enumerable.Range(0, 30).Select(i => ($"big{i}.php", "<?php /*" + new string('x', 190_000) + i + "*/ f();"))]);
        await UntilAsync(large.Review, large.Run, r => r.State == "running");
        Assert.Equal("done", (await AuditAsync([("a.php", Weak)])).Run.State);
        Assert.Equal("running", (await FindAsync(large.Review, large.Run)).State);
        await CancelAsync(large.Review, large.Run);
        await UntilAsync(large.Review, large.Run, r => r.IsOver);
    }

    [Fact]
    public async Task A_run_that_nobody_was_told_of_is_found()
    {
        // As if the process had been killed between writing the run down and handing it on.
        var (review, run) = await QueueAsync([("a.php", Weak)], tell: false);
        Assert.Equal("done", (await UntilAsync(review, run, r => r.IsOver)).State);
    }

    /// <summary>How close to its time it is ended is measured by <c>bellator load</c>; here it is far from the hours that all passwords would take, on any machine.</summary>
    [Fact]
    public async Task The_bench_keeps_its_time_whatever_a_value_asks_for()
    {
        var bench = _app.Services.GetRequiredService<BenchQueue>();

        // One guess of the second value takes many seconds; the first has one of the commonest passwords.
        const string Dear = "$2b$16$N9qo8uLOickgx2ZMRZoMyeIjZAgcfl7p92ldGxad68LJZdL17lhWy";
        await bench.DoAsync(new BenchTask("verify", ["5f4dcc3b5aa765d61d8327deb882cf99"], "password"), TimeSpan.FromSeconds(20), null, default);
        const double Seconds = 6;
        var watch = Stopwatch.StartNew();
        var answer = await bench.DoAsync(new BenchTask("search", ["5f4dcc3b5aa765d61d8327deb882cf99", Dear]) { Seconds = Seconds, Threads = 1 }, TimeSpan.FromSeconds(Seconds * 1.04), null, default);
        Assert.InRange(watch.Elapsed.TotalSeconds, Seconds * 0.9, Seconds * 4);
        Assert.Equal("password", Assert.Single(answer.Search!.Found).Password);
        Assert.NotNull(answer.Ended);
    }

    [Fact]
    public async Task The_bench_stops_when_nobody_waits_any_more()
    {
        var bench = _app.Services.GetRequiredService<BenchQueue>();
        using var gone = new CancellationTokenSource(TimeSpan.FromSeconds(1));
        const string Dear = "$2b$16$N9qo8uLOickgx2ZMRZoMyeIjZAgcfl7p92ldGxad68LJZdL17lhWy";
        await Assert.ThrowsAnyAsync<OperationCanceledException>(() => bench.DoAsync(new BenchTask("search", [Dear]) { Seconds = 60 }, TimeSpan.FromSeconds(60), null, gone.Token));
        var watch = Stopwatch.StartNew();
        await bench.DoAsync(new BenchTask("verify", ["5f4dcc3b5aa765d61d8327deb882cf99"], "password"), TimeSpan.FromSeconds(20), null, default);
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 15);
    }

    [Theory]
    [InlineData("$argon2id$v=19$m=1048576,t=1,p=1$c29tZXNhbHQ$RdescudvJCsgt3ub+b5dWRWJTmaaJObG", "1024 MiB")]
    [InlineData("$scrypt$ln=20,r=8,p=1$c29tZXNhbHQ$RdescudvJCsgt3ub+b5dWRWJTmaaJObGRdescudvJCs", "1024 MiB")]
    public async Task A_value_that_needs_more_memory_than_there_is_says_so(string value, string says)
    {
        var answer = await _app.Services.GetRequiredService<BenchQueue>().DoAsync(new BenchTask("verify", [value], "x"), TimeSpan.FromSeconds(20), null, default);
        Assert.Contains(says, answer.Text, StringComparison.Ordinal);
        Assert.Contains("at most 512 MiB", answer.Text, StringComparison.Ordinal);
    }

    private async Task<Guid> AccountAsync() => (await _app.AccountAsync(DemoData.Email)).Id;

    private async Task<(RunRow Run, int Findings)> AuditAsync(IReadOnlyList<(string Path, string Code)> files)
    {
        var (review, run) = await QueueAsync(files);
        var over = await UntilAsync(review, run, r => r.IsOver);
        return (over, over.Findings);
    }

    private async Task<(Guid Review, Guid Run)> QueueAsync(IReadOnlyList<(string Path, string Code)> files, bool tell = true)
    {
        var database = _app.Cluster.Database;
        var account = await AccountAsync();
        Guid review;
        await using (var scope = await database.OpenAsAsync(account))
        {
            review = await new ReviewTable(scope).CreateAsync("Faults");
            await scope.CommitAsync();
        }

        var writer = await SnapshotWriter.BeginAsync(database, account, review, "faults");
        foreach (var (path, code) in files)
        {
            await writer.AddAsync(new SourceFile(path, Encoding.UTF8.GetBytes(code), Language.Php));
        }

        var run = await writer.FinishAsync([]);
        if (tell)
        {
            await _app.Services.GetRequiredService<RunDispatch>().SendAsync(run);
        }

        return (review, run);
    }

    private async Task CancelAsync(Guid review, Guid run)
    {
        await using var scope = await _app.Cluster.Database.OpenAsAsync(await AccountAsync());
        await new RunTable(scope).CancelAsync(review, run);
        await scope.CommitAsync();
    }

    private async Task<RunRow> FindAsync(Guid review, Guid run)
    {
        await using var scope = await _app.Cluster.Database.OpenAsAsync(await AccountAsync());
        return (await new RunTable(scope).FindAsync(review, run))!;
    }

    private async Task<RunRow> UntilAsync(Guid review, Guid run, Func<RunRow, bool> wanted)
    {
        for (var watch = Stopwatch.StartNew(); watch.Elapsed < TimeSpan.FromSeconds(90); await Task.Delay(100))
        {
            if (await FindAsync(review, run) is { } row && wanted(row))
            {
                return row;
            }
        }

        throw new TimeoutException("the run is " + (await FindAsync(review, run)).State);
    }
}
