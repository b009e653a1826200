using System.Diagnostics;
using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Storage.Runs;
using Bellator.Text;
using Npgsql;

namespace Bellator.Web.Supervision;

/// <summary>Carries runs out one after another in a helper process, which lives on between them so that what one audit found serves the next.</summary>
public sealed class AuditLane(RunQueue queue, string workerConnection, string? scratchConnection, SupervisorSettings settings, bool isLarge) : IAsyncDisposable
{
    private static readonly TimeSpan Tick = TimeSpan.FromMilliseconds(300);
    private readonly SemaphoreSlim _turn = new(1);
    private HelperProcess? _helper;
    private Timer? _idle;

    private long MemoryBytes => isLarge ? settings.LargeBytes : settings.SmallBytes;

    /// <summary>The process that audits at present, for tests and for whoever looks after the machine.</summary>
    public int? HelperId => _helper is { HasExited: false } helper ? helper.Id : null;

    /// <summary>Carries a run out, and sees to it that it comes to an end.</summary>
    /// <exception cref="OperationCanceledException">This process is to end; the run waits again.</exception>
    public async Task RunAsync(Guid run, CancellationToken cancel)
    {
        await _turn.WaitAsync(cancel);
        try
        {
            if (await queue.ClaimAsync(run, cancel) is { } claimed)
            {
                await CarryOutAsync(claimed, cancel);
            }
        }
        finally
        {
            _turn.Release();
            _idle?.Dispose();
            _idle = new Timer(_ => _ = EndIdleAsync(), null, settings.Idle, Timeout.InfiniteTimeSpan);
        }
    }

    public async ValueTask DisposeAsync()
    {
        if (_idle is not null)
        {
            await _idle.DisposeAsync();
        }

        await EndHelperAsync();
        _turn.Dispose();
    }

    private async Task CarryOutAsync(ClaimedRun run, CancellationToken cancel)
    {
        var threads = Environment.ProcessorCount;
        var (deaths, losses) = (0, 0);
        while (true)
        {
            var end = await TryAsync(run, threads, cancel);
            if (end.State == "away")
            {
                // The database went away while the helper needed it; the run is not to blame.
                if (++losses > ForgivenLosses)
                {
                    await KeepTryingAsync(() => queue.EndAsync(run, "failed", end.Error));
                    return;
                }

                await Task.Delay(Pause, cancel);
                continue;
            }

            if (end.Died is not { } cause)
            {
                if (end.State is "failed" or "cancelled")
                {
                    await KeepTryingAsync(() => queue.EndAsync(run, end.State, end.Error));
                }

                return;
            }

            // The files it was over when it ended. With one thread there is only one, so that is found out first.
            var files = end.Open.Where(o => !o.StartsWith("the ", StringComparison.Ordinal)).Distinct().ToList();
            if (end.IsUnexplained && deaths++ < ForgivenDeaths)
            {
                // Somebody may have killed it; a file that did it will do it again.
                threads = 1;
                continue;
            }

            if (files.Count == 0 || run.LeftOut.Count >= settings.MaxLeftOut)
            {
                await KeepTryingAsync(() => queue.EndAsync(run, "failed", end.State == "broken" ? cause : $"ended: {cause}"));
                return;
            }

            if (files.Count > 1 && threads > 1)
            {
                threads = 1;
                continue;
            }

            await KeepTryingAsync(() => queue.LeaveOutAsync(run, files[0]));
            run = run with { LeftOut = [.. run.LeftOut, files[0]] };
            threads = Environment.ProcessorCount;
        }
    }

    /// <param name="Died">Why the helper is gone, was ended or could not do it; null if it answered.</param>
    /// <param name="Open">What it was busy with then.</param>
    private sealed record Ending(string State, string? Error, string? Died, IReadOnlyList<string> Open)
    {
        public bool IsUnexplained => Died == Unexplained;
    }

    private const string Unexplained = "its process died";
    private const int ForgivenDeaths = 1;
    private const int ForgivenLosses = 10;
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(3);

    private async Task<Ending> TryAsync(ClaimedRun run, int threads, CancellationToken cancel)
    {
        var helper = await HelperAsync();
        var activity = Path.Combine(settings.Folder, $"audit-{run.Claim:n}");
        try
        {
            await helper.AskAsync(new HelperRequest("audit") { Run = run, Threads = threads, Activity = activity });
            return await WatchAsync(helper, run, activity, cancel);
        }
        catch (OperationCanceledException)
        {
            await EndHelperAsync();
            await KeepTryingAsync(() => queue.GiveBackAsync(run));
            throw;
        }
        finally
        {
            File.Delete(activity);
        }
    }

    private async Task<Ending> WatchAsync(HelperProcess helper, ClaimedRun run, string activity, CancellationToken cancel)
    {
        var progress = new AuditProgress("reading", 0, 0, 0, 0);
        var sinceStep = new GivenTime(helper.Id);
        var steps = -1L;
        Stopwatch? told = null;
        while (true)
        {
            using var tick = CancellationTokenSource.CreateLinkedTokenSource(cancel);
            tick.CancelAfter(Tick);
            try
            {
                while (await helper.Answers.WaitToReadAsync(tick.Token) && helper.Answers.TryRead(out var answer))
                {
                    if (answer.GetProperty("kind").GetString() == "progress")
                    {
                        progress = answer.GetProperty("progress").Deserialize<AuditProgress>(HelperProgram.Json)!;
                        break;
                    }

                    var state = answer.GetProperty("state").GetString()!;
                    var error = answer.TryGetProperty("error", out var text) ? text.GetString() : null;
                    return state switch
                    {
                        "memory" => await DiedAsync(activity, $"the audit needs more than {MemoryBytes / (1024 * 1024)} MiB of memory"),
                        "broken" => new Ending(state, error, error, AuditActivity.Read(activity)?.Open ?? []),
                        _ => new Ending(state, error, null, []),
                    };
                }
            }
            catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
            {
                // A look at how it is.
            }

            if (helper.Answers.Completion.IsCompleted)
            {
                return await DiedAsync(activity, helper.Errors.Contains("Stack overflow", StringComparison.OrdinalIgnoreCase) ? "the code is nested too deeply" : helper.Errors.Contains("OutOfMemory", StringComparison.Ordinal) || helper.Errors.Contains("Out of memory", StringComparison.OrdinalIgnoreCase) ? $"the audit needs more than {MemoryBytes / (1024 * 1024)} MiB of memory" : Unexplained);
            }

            if (helper.ResidentBytes > MemoryBytes)
            {
                return await DiedAsync(activity, $"the audit needs more than {MemoryBytes / (1024 * 1024)} MiB of memory");
            }

            if (AuditActivity.Read(activity) is { } now && now.Steps != steps)
            {
                steps = now.Steps;
                sinceStep.Restart();
            }
            else if (sinceStep.Elapsed() > (steps > 0 ? settings.Stall : settings.LongestStart))
            {
                var open = AuditActivity.Read(activity)?.Open.FirstOrDefault();
                return await DiedAsync(activity, $"no progress{(open is null ? "" : $" in {open}")} for {settings.Stall.TotalSeconds:0} s");
            }

            switch (await ReportAsync(run, progress))
            {
                case null:
                    // Another process has it; this one stops without a word.
                    await EndHelperAsync();
                    return new Ending("lost", null, null, []);
                case true when told is null:
                    told = Stopwatch.StartNew();
                    await helper.AskAsync(new HelperRequest("cancel"));
                    break;
                case true when told.Elapsed > settings.StopPatience:
                    await EndHelperAsync();
                    return new Ending("cancelled", null, null, []);
            }
        }
    }

    /// <returns>Whether it is to stop; null if the run is not ours. While the database is away, neither.</returns>
    private async Task<bool?> ReportAsync(ClaimedRun run, AuditProgress progress)
    {
        try
        {
            return await queue.ProgressAsync(run, progress);
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException)
        {
            return false;
        }
    }

    private async Task<Ending> DiedAsync(string activity, string cause)
    {
        var open = AuditActivity.Read(activity)?.Open ?? [];
        await EndHelperAsync();
        return new Ending("died", null, cause, open);
    }

    private async Task<HelperProcess> HelperAsync()
    {
        if (_helper is { HasExited: false } helper)
        {
            return helper;
        }

        await EndHelperAsync();
        return _helper = await HelperProcess.StartAsync(new HelperSettings(MemoryBytes, isLarge, settings.Faults), new HelperRequest("open") { Worker = workerConnection, Scratch = scratchConnection });
    }

    private async Task EndHelperAsync()
    {
        if (_helper is { } helper)
        {
            _helper = null;
            helper.Kill();
            await helper.DisposeAsync();
        }
    }

    private async Task EndIdleAsync()
    {
        if (await _turn.WaitAsync(TimeSpan.Zero))
        {
            try
            {
                await EndHelperAsync();
            }
            finally
            {
                _turn.Release();
            }
        }
    }

    /// <summary>How a run ended is worth waiting for the database. Should it stay away, the keeper of runs finds the silent run later.</summary>
    private static async Task KeepTryingAsync(Func<Task> write)
    {
        for (var watch = Stopwatch.StartNew(); ;)
        {
            try
            {
                await write();
                return;
            }
            catch (NpgsqlException) when (watch.Elapsed < TimeSpan.FromMinutes(1))
            {
                await Task.Delay(TimeSpan.FromSeconds(1));
            }
        }
    }
}
