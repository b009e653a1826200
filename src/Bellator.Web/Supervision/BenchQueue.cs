using System.Diagnostics;
using System.Text.Json;

namespace Bellator.Web.Supervision;

/// <summary>There is as much to do already as is taken on; the visitor is asked to come again.</summary>
public sealed class BusyException() : Exception("there is too much to do at present; try again in a moment")
{
    /// <summary>The message as a page says it.</summary>
    public string Sentence => char.ToUpperInvariant(Message[0]) + Message[1..] + ".";
}

/// <summary>
/// Does the bench's costly work in a helper process, one piece after another, within the time that each is given: a piece that is not done
/// by then, or that nobody waits for any more, is ended with its process.
/// </summary>
public sealed class BenchQueue(SupervisorSettings settings) : IAsyncDisposable
{
    private const int MostWaiting = 16;
    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(60);
    private readonly SemaphoreSlim _turn = new(1);
    private HelperProcess? _helper;
    private int _waiting;

    /// <param name="time">What the work may take, without the wait for its turn.</param>
    /// <param name="progress">Told how far it is.</param>
    /// <returns>What it came to, or how far it was when its time was up.</returns>
    /// <exception cref="BusyException">Too many wait already.</exception>
    /// <exception cref="OperationCanceledException">Nobody waits for it any more.</exception>
    public async Task<BenchAnswer> DoAsync(BenchTask task, TimeSpan time, Func<BenchAnswer, Task>? progress, CancellationToken cancel)
    {
        if (Interlocked.Increment(ref _waiting) > MostWaiting)
        {
            Interlocked.Decrement(ref _waiting);
            throw new BusyException();
        }

        try
        {
            if (!await _turn.WaitAsync(LongestWait, cancel))
            {
                throw new BusyException();
            }
        }
        finally
        {
            Interlocked.Decrement(ref _waiting);
        }

        try
        {
            return await DoNowAsync(task, time, progress, cancel);
        }
        finally
        {
            _turn.Release();
        }
    }

    public async ValueTask DisposeAsync()
    {
        await EndAsync();
        _turn.Dispose();
    }

    private async Task<BenchAnswer> DoNowAsync(BenchTask task, TimeSpan time, Func<BenchAnswer, Task>? progress, CancellationToken cancel)
    {
        if (_helper is not { HasExited: false })
        {
            await EndAsync();
            _helper = await HelperProcess.StartAsync(new HelperSettings(settings.BenchBytes, IsBackground: true));
        }

        var helper = _helper;
        var latest = new BenchAnswer { Kind = "progress" };
        var isOver = false;
        var watch = Stopwatch.StartNew();
        using var end = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        end.CancelAfter(time);
        try
        {
            await helper.AskAsync(new HelperRequest(task.Kind) { Bench = task });
            while (await helper.Answers.WaitToReadAsync(end.Token))
            {
                while (helper.Answers.TryRead(out var line))
                {
                    latest = line.Deserialize<BenchAnswer>(HelperProgram.Json)!;
                    if (latest.IsOver)
                    {
                        isOver = true;
                        return latest.State switch
                        {
                            "memory" => latest with { Error = $"it needs more than {settings.BenchBytes / (1024 * 1024)} MiB of memory" },
                            _ => latest,
                        };
                    }

                    if (progress is not null)
                    {
                        await progress(latest);
                    }
                }
            }

            return latest with { State = "died", Error = "its process ended; the value asks for more than is done here" };
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return latest with { State = "late", Time = watch.Elapsed.TotalSeconds, Ended = "the time was up" };
        }
        finally
        {
            if (!isOver)
            {
                // A single guess may take long and cannot be stopped from within.
                await EndAsync();
            }
        }
    }

    private async Task EndAsync()
    {
        if (_helper is { } helper)
        {
            _helper = null;
            helper.Kill();
            await helper.DisposeAsync();
        }
    }
}
