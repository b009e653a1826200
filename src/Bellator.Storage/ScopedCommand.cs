using Npgsql;

namespace Bellator.Storage;

/// <summary>
/// A statement on behalf of an account. While the scope gathers (<see cref="AccountScope.Together"/>), what is asked waits for the others and
/// is answered with them in one round trip.
/// </summary>
public sealed class ScopedCommand(AccountScope scope, NpgsqlCommand command) : IAsyncDisposable
{
    public Task<IReadOnlyList<T>> ListAsync<T>(Func<NpgsqlDataReader, T> read, CancellationToken cancel = default) => scope.Gathering is { } together
        ? together.AddAsync<IReadOnlyList<T>>(command, async (reader, gone) =>
        {
            var list = new List<T>();
            while (await reader.ReadAsync(gone))
            {
                list.Add(read(reader));
            }

            return list;
        })
        : command.ListAsync(read, cancel);

    public Task<T?> FirstAsync<T>(Func<NpgsqlDataReader, T> read, CancellationToken cancel = default) => scope.Gathering is { } together
        ? together.AddAsync<T?>(command, async (reader, gone) => await reader.ReadAsync(gone) ? read(reader) : default)
        : command.FirstAsync(read, cancel);

    /// <summary>Changes are never gathered: what they did is to be known before the next statement.</summary>
    public Task<int> RunAsync(CancellationToken cancel = default) => command.RunAsync(cancel);

    public Task<NpgsqlDataReader> ExecuteReaderAsync(CancellationToken cancel = default) => command.ExecuteReaderAsync(cancel);

    public ValueTask DisposeAsync() => command.DisposeAsync();
}

/// <summary>
/// Questions that do not depend on each other, asked of the database in one round trip. The tasks that are handed out end when
/// <see cref="AskAsync"/> has run; awaiting one before is a mistake that would wait for ever.
/// </summary>
public sealed class Together(AccountScope scope, NpgsqlConnection connection) : IDisposable
{
    private readonly List<(NpgsqlBatchCommand Command, Func<NpgsqlDataReader, CancellationToken, Task<Action>> Read, Action<Exception> Fail)> _asked = [];

    internal Task<T> AddAsync<T>(NpgsqlCommand command, Func<NpgsqlDataReader, CancellationToken, Task<T>> read)
    {
        var part = new NpgsqlBatchCommand(command.CommandText);
        foreach (NpgsqlParameter parameter in command.Parameters)
        {
            part.Parameters.Add(parameter.Clone());
        }

        command.Dispose();
        var answer = new TaskCompletionSource<T>(TaskCreationOptions.RunContinuationsAsynchronously);
        _asked.Add((part, Read, e => answer.TrySetException(e)));
        return answer.Task;

        async Task<Action> Read(NpgsqlDataReader reader, CancellationToken gone)
        {
            var value = await read(reader, gone);
            return () => answer.SetResult(value);
        }
    }

    public async Task AskAsync(CancellationToken cancel = default)
    {
        scope.Gathering = null;
        if (_asked.Count == 0)
        {
            return;
        }

        try
        {
            // Whoever waits may use the connection at once: all is read first.
            var answers = new List<Action>();
            await using var batch = new NpgsqlBatch(connection);
            foreach (var (command, _, _) in _asked)
            {
                batch.BatchCommands.Add(command);
            }

            await using (var reader = await batch.ExecuteReaderAsync(cancel))
            {
                foreach (var (_, read, _) in _asked)
                {
                    answers.Add(await read(reader, cancel));
                    await reader.NextResultAsync(cancel);
                }
            }

            answers.ForEach(a => a());
        }
        catch (Exception e)
        {
            foreach (var (_, _, fail) in _asked)
            {
                fail(e);
            }

            throw;
        }
    }

    public void Dispose() => scope.Gathering = null;
}
