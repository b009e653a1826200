using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Material on its way in, as one account sees it.</summary>
public sealed class IntakeTable(AccountScope scope)
{
    private const string Columns = "id, name, state, files_done, bytes_done, message, created_at";

    public async Task<Guid> BeginAsync(Guid review, Guid snapshot, string name, CancellationToken cancel = default)
    {
        var id = Guid.CreateVersion7();
        await scope.Command("INSERT INTO intake (id, review_id, snapshot_id, account_id, name, state) VALUES ($1, $2, $3, $4, $5, 'reading')", id, review, snapshot, scope.Account, name).RunAsync(cancel);
        return id;
    }

    public Task<IntakeRow?> FindAsync(Guid review, Guid intake, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns} FROM intake WHERE id = $1 AND review_id = $2", intake, review).FirstAsync(Read, cancel);

    public Task<IntakeRow?> LatestAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns} FROM intake WHERE review_id = $1 ORDER BY created_at DESC LIMIT 1", review).FirstAsync(Read, cancel);

    /// <summary>Says how far it is.</summary>
    /// <returns>False if somebody asked it to stop, or it was given up meanwhile.</returns>
    public Task<bool> ProgressAsync(Guid intake, int files, long bytes, CancellationToken cancel = default) =>
        scope.Command("UPDATE intake SET files_done = $2, bytes_done = $3, heartbeat_at = now() WHERE id = $1 AND state = 'reading' RETURNING NOT cancel_requested", intake, files, bytes).FirstAsync(r => r.GetBoolean(0), cancel);

    public Task<int> EndAsync(Guid intake, string state, string? message, CancellationToken cancel = default) =>
        scope.Command("UPDATE intake SET state = $2, message = $3, finished_at = now() WHERE id = $1 AND state = 'reading'", intake, state, message).RunAsync(cancel);

    public async Task<bool> CancelAsync(Guid review, Guid intake, CancellationToken cancel = default) =>
        await scope.Command("UPDATE intake SET cancel_requested = true WHERE id = $1 AND review_id = $2 AND state = 'reading'", intake, review).RunAsync(cancel) == 1;

    private static IntakeRow Read(NpgsqlDataReader r) => new(r.GetGuid(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetInt64(4), r.Text(5), r.GetFieldValue<DateTimeOffset>(6));
}
