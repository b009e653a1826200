using System.Threading.Channels;
using Bellator.Audit.Reports;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Microsoft.Extensions.Hosting;
using Npgsql;

namespace Bellator.Web.Runs;

/// <summary>A file that was handed in, as it lies in our temporary folder.</summary>
public sealed record HandedIn(string Name, string Path);

/// <summary>
/// Takes apart what was handed in, and stores it, after the visitor's request is over: progress is watched and cancelled like a run's.
/// Only a batch of files is in memory at a time. What ends early leaves no snapshot behind.
/// </summary>
public sealed class IntakeDesk(Database database, RunDispatch dispatch, IHostApplicationLifetime lifetime, ILogger<IntakeDesk> log)
{
    /// <summary>So many are taken apart at once; the others wait their turn.</summary>
    private const int AtOnce = 2;

    private const int Ahead = 256;
    private static readonly TimeSpan Often = TimeSpan.FromMilliseconds(500);
    private readonly SemaphoreSlim _turn = new(AtOnce);

    /// <summary>Begins to take something in, and returns. The files are deleted when it is over.</summary>
    /// <returns>The intake.</returns>
    public async Task<Guid> BeginAsync(Guid account, Guid review, string name, IReadOnlyList<HandedIn> files, CancellationToken cancel)
    {
        try
        {
            var writer = await SnapshotWriter.BeginAsync(database, account, review, name, cancel);
            await using var scope = await database.OpenAsAsync(account, cancel);
            var intake = await new IntakeTable(scope).BeginAsync(review, writer.Id, name, cancel);
            await scope.CommitAsync(cancel);
            _ = Task.Run(() => TakeInAsync(account, intake, writer, files), CancellationToken.None);
            return intake;
        }
        catch
        {
            Delete(files);
            throw;
        }
    }

    private async Task TakeInAsync(Guid account, Guid intake, SnapshotWriter writer, IReadOnlyList<HandedIn> files)
    {
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(lifetime.ApplicationStopping);
        using var watch = WatchAsync(account, intake, writer, stop);
        try
        {
            await _turn.WaitAsync(stop.Token);
            try
            {
                var run = await ReadAsync(writer, files, stop.Token);
                await EndAsync(account, intake, "done", null);
                await dispatch.SendAsync(run);
            }
            finally
            {
                _turn.Release();
            }
        }
        catch (OperationCanceledException)
        {
            await GiveUpAsync(account, intake, writer, lifetime.ApplicationStopping.IsCancellationRequested ? "interrupted" : "cancelled", null);
        }
        catch (SourceException e)
        {
            await GiveUpAsync(account, intake, writer, "refused", "The upload was refused: " + e.Message + ".");
        }
        catch (Exception e)
        {
            log.LogError(e, "an intake failed");
            await GiveUpAsync(account, intake, writer, "interrupted", e is NpgsqlException ? "The database was away; hand it in again." : "It was our fault, and it is in the log; hand it in again.");
        }
        finally
        {
            await stop.CancelAsync();
            Delete(files);
        }
    }

    /// <summary>Reads on a thread of its own while the files before are written.</summary>
    private static async Task<Guid> ReadAsync(SnapshotWriter writer, IReadOnlyList<HandedIn> files, CancellationToken cancel)
    {
        var taken = Channel.CreateBounded<SourceFile>(new BoundedChannelOptions(Ahead) { SingleReader = true, SingleWriter = true });
        var collector = new SourceCollector(SourceLimits.Default, file => taken.Writer.WriteAsync(file, cancel).AsTask().GetAwaiter().GetResult());
        var reading = Task.Factory.StartNew(
            () =>
            {
                try
                {
                    foreach (var file in files)
                    {
                        Read(file, collector, cancel);
                    }
                }
                finally
                {
                    taken.Writer.Complete();
                }
            },
            CancellationToken.None,
            TaskCreationOptions.LongRunning,
            TaskScheduler.Default);
        await foreach (var file in taken.Reader.ReadAllAsync(cancel))
        {
            await writer.AddAsync(file, cancel);
        }

        await reading;
        if (collector.FileCount == 0)
        {
            throw new SourceException($"there is nothing to audit in it; {collector.Skipped.Count} files were left out"
                + (collector.Skipped.Count > 0 ? $", the first, {collector.Skipped[0].Path}, because: {SkipText.Of(collector.Skipped[0])}" : ""));
        }

        return await writer.FinishAsync(collector.Skipped, cancel);
    }

    private static void Read(HandedIn file, SourceCollector collector, CancellationToken cancel)
    {
        cancel.ThrowIfCancellationRequested();
        using var stream = File.OpenRead(file.Path);
        if (ArchiveReader.IsArchive(file.Name))
        {
            ArchiveReader.Read(file.Name, stream, collector, cancel);
        }
        else if (collector.Wants(file.Name, stream.Length))
        {
            var content = new byte[stream.Length];
            stream.ReadExactly(content);
            collector.Add(file.Name, content);
        }
    }

    /// <summary>Says how far it is until it is over, and stops it when somebody asks for that.</summary>
    private Timer WatchAsync(Guid account, Guid intake, SnapshotWriter writer, CancellationTokenSource stop)
    {
        var writing = 0;
        return new Timer(_ => _ = TellAsync(), null, TimeSpan.Zero, Often);

        async Task TellAsync()
        {
            if (Interlocked.Exchange(ref writing, 1) == 1)
            {
                return;
            }

            try
            {
                await using var scope = await database.OpenAsAsync(account);
                var goesOn = await new IntakeTable(scope).ProgressAsync(intake, writer.Files, writer.Bytes);
                await scope.CommitAsync();
                if (!goesOn)
                {
                    await stop.CancelAsync();
                }
            }
            catch (Exception e) when (e is NpgsqlException or ObjectDisposedException or TimeoutException)
            {
                // The next time may succeed; the work itself meets the database too.
            }
            finally
            {
                Volatile.Write(ref writing, 0);
            }
        }
    }

    private async Task EndAsync(Guid account, Guid intake, string state, string? message)
    {
        await using var scope = await database.OpenAsAsync(account);
        await new IntakeTable(scope).EndAsync(intake, state, message);
        await scope.CommitAsync();
    }

    private async Task GiveUpAsync(Guid account, Guid intake, SnapshotWriter writer, string state, string? message)
    {
        try
        {
            await writer.ForgetAsync();
            await EndAsync(account, intake, state, message);
        }
        catch (Exception e) when (e is NpgsqlException or TimeoutException or ObjectDisposedException)
        {
            // The keeper of runs finds it silent, and brings it to its end.
            log.LogWarning(e, "an intake could not be ended yet");
        }
    }

    private static void Delete(IReadOnlyList<HandedIn> files)
    {
        foreach (var file in files)
        {
            File.Delete(file.Path);
        }
    }
}
