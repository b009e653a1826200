using Npgsql;

namespace Bellator.Storage;

/// <summary>Connections of the program's two roles.</summary>
/// <param name="scratchConnection">The role that runs statements of audited code; null where none may be run.</param>
public sealed class Database(string webConnection, string workerConnection, string? scratchConnection = null) : IAsyncDisposable
{
    public string? ScratchConnection { get; } = scratchConnection;

    public NpgsqlDataSource Web { get; } = NpgsqlDataSource.Create(webConnection);

    public NpgsqlDataSource Worker { get; } = NpgsqlDataSource.Create(workerConnection);

    /// <summary>Begins a piece of work on behalf of an account. Row security shows only what belongs to it.</summary>
    public Task<AccountScope> OpenAsAsync(Guid account, CancellationToken cancel = default) => OpenAsAsync(account, [], cancel);

    /// <summary>Begins a piece of work on behalf of an account, and reads what it needs first in the same round trip.</summary>
    public async Task<AccountScope> OpenAsAsync(Guid account, IReadOnlyList<(NpgsqlBatchCommand Command, Func<NpgsqlDataReader, CancellationToken, Task> Read)> first, CancellationToken cancel = default)
    {
        var connection = await Web.OpenConnectionAsync(cancel);
        try
        {
            var transaction = await connection.BeginTransactionAsync(cancel);
            await using var batch = new NpgsqlBatch(connection, transaction)
            {
                BatchCommands = { new NpgsqlBatchCommand("SELECT set_config('bellator.account', $1, true)") { Parameters = { new() { Value = account.ToString() } } } },
            };
            foreach (var (command, _) in first)
            {
                batch.BatchCommands.Add(command);
            }

            await using (var reader = await batch.ExecuteReaderAsync(cancel))
            {
                foreach (var (_, read) in first)
                {
                    await reader.NextResultAsync(cancel);
                    await read(reader, cancel);
                }
            }

            return new AccountScope(account, connection, transaction);
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
    }

    /// <summary>Forgets connections to a server that is no more.</summary>
    public void Clear()
    {
        Web.Clear();
        Worker.Clear();
    }

    public async ValueTask DisposeAsync()
    {
        await Web.DisposeAsync();
        await Worker.DisposeAsync();
    }
}

/// <summary>A transaction on behalf of one account; rolled back unless it is committed.</summary>
public sealed class AccountScope(Guid account, NpgsqlConnection connection, NpgsqlTransaction transaction) : IAsyncDisposable
{
    public Guid Account { get; } = account;

    public Task CommitAsync(CancellationToken cancel = default) => transaction.CommitAsync(cancel);

    internal Together? Gathering { get; set; }

    public ScopedCommand Command(string sql, params object?[] values) => new(this, Sql.Command(connection, sql, values));

    /// <summary>From now until it is asked, questions are gathered for one round trip.</summary>
    public Together Together() => Gathering = new Together(this, connection);

    public async ValueTask DisposeAsync()
    {
        await transaction.DisposeAsync();
        await connection.DisposeAsync();
    }
}

/// <summary>Small helps for commands with bound values.</summary>
public static class Sql
{
    public static NpgsqlCommand Command(NpgsqlConnection connection, string sql, params object?[] values)
    {
        var command = new NpgsqlCommand(sql, connection);
        foreach (var value in values)
        {
            command.Parameters.Add(new NpgsqlParameter
            {
                Value = value switch
                {
                    null => DBNull.Value,
                    string text => DatabaseText.Clean(text),
                    string?[] texts => Array.ConvertAll(texts, t => t is null ? null : DatabaseText.Clean(t)),
                    _ => value,
                },
            });
        }

        return command;
    }

    public static async Task<IReadOnlyList<T>> ListAsync<T>(this NpgsqlCommand command, Func<NpgsqlDataReader, T> read, CancellationToken cancel = default)
    {
        await using (command)
        {
            var list = new List<T>();
            await using var reader = await command.ExecuteReaderAsync(cancel);
            while (await reader.ReadAsync(cancel))
            {
                list.Add(read(reader));
            }

            return list;
        }
    }

    public static async Task<T?> FirstAsync<T>(this NpgsqlCommand command, Func<NpgsqlDataReader, T> read, CancellationToken cancel = default)
    {
        await using (command)
        {
            await using var reader = await command.ExecuteReaderAsync(cancel);
            return await reader.ReadAsync(cancel) ? read(reader) : default;
        }
    }

    public static async Task<int> RunAsync(this NpgsqlCommand command, CancellationToken cancel = default)
    {
        await using (command)
        {
            return await command.ExecuteNonQueryAsync(cancel);
        }
    }

    public static T? Nullable<T>(this NpgsqlDataReader reader, int column)
        where T : struct => reader.IsDBNull(column) ? null : reader.GetFieldValue<T>(column);

    public static string? Text(this NpgsqlDataReader reader, int column) => reader.IsDBNull(column) ? null : reader.GetString(column);
}
