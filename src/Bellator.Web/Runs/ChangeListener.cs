using System.Collections.Concurrent;
using Bellator.Storage;
using Npgsql;

namespace Bellator.Web.Runs;

/// <summary>Hears from the database which runs and intakes have changed, on one connection for all who watch.</summary>
public sealed class ChangeListener(Database database, ILogger<ChangeListener> log) : BackgroundService
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private readonly ConcurrentDictionary<Guid, ConcurrentDictionary<Watch, bool>> _watches = [];

    /// <summary>Watches something; disposing ends it.</summary>
    public Watch On(Guid id)
    {
        var watch = new Watch(this, id);
        _watches.GetOrAdd(id, _ => []).TryAdd(watch, true);
        return watch;
    }

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await using var connection = await database.Web.OpenConnectionAsync(stoppingToken);
                connection.Notification += (_, e) => Tell(e.Payload);
                await Sql.Command(connection, "LISTEN bellator_change").RunAsync(stoppingToken);

                // What happened while nobody listened is not known.
                foreach (var id in _watches.Keys)
                {
                    Tell(id.ToString());
                }

                while (true)
                {
                    await connection.WaitAsync(stoppingToken);
                }
            }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException or IOException or InvalidOperationException)
            {
                log.LogDebug(e, "the connection for changes is made again");
            }
            catch (OperationCanceledException)
            {
                return;
            }

            await Task.Delay(Pause, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private void Tell(string payload)
    {
        if (Guid.TryParse(payload, out var id) && _watches.TryGetValue(id, out var watches))
        {
            foreach (var watch in watches.Keys)
            {
                watch.Wake();
            }
        }
    }

    private void End(Watch watch, Guid id)
    {
        if (_watches.TryGetValue(id, out var watches) && watches.TryRemove(watch, out _) && watches.IsEmpty)
        {
            _watches.TryRemove(new(id, watches));
        }
    }

    /// <summary>Somebody's interest in one run or intake.</summary>
    public sealed class Watch(ChangeListener listener, Guid id) : IDisposable
    {
        private readonly SemaphoreSlim _changed = new(0);

        /// <summary>Returns when it has changed, or after a time in any case.</summary>
        public Task WaitAsync(TimeSpan longest, CancellationToken cancel) => _changed.WaitAsync(longest, cancel);

        public void Dispose()
        {
            listener.End(this, id);
            _changed.Dispose();
        }

        internal void Wake()
        {
            try
            {
                if (_changed.CurrentCount == 0)
                {
                    _changed.Release();
                }
            }
            catch (ObjectDisposedException)
            {
                // It ended just now.
            }
        }
    }
}
