using System.Text.Json;
using Bellator.Audit.Auditing;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Audit runs, as one account sees them.</summary>
public sealed class RunTable(AccountScope scope)
{
    internal const string LatestDone = "SELECT n.id FROM run n WHERE n.review_id = r.id AND n.state = 'done' AND n.trial_of IS NULL ORDER BY n.finished_at DESC LIMIT 1";
    internal const string Columns = "id, snapshot_id, state, stage, share, files_done, files_total, finding_count, error, created_at, finished_at, left_out";
    internal const int ColumnCount = 12;

    /// <summary>Notes that a snapshot is to be audited. Whoever does this hands the run to a worker afterwards; where that fails, the keeper of runs does.</summary>
    /// <param name="trialOf">The fact that is only tried: the result then counts for nothing but its being shown.</param>
    public async Task<Guid> QueueAsync(Guid review, Guid snapshot, CancellationToken cancel = default, long? trialOf = null)
    {
        var id = Guid.CreateVersion7();
        await scope.Command("INSERT INTO run (id, review_id, snapshot_id, state, trial_of) VALUES ($1, $2, $3, 'queued', $4)", id, review, snapshot, trialOf).RunAsync(cancel);
        return id;
    }

    public Task<RunRow?> FindAsync(Guid review, Guid run, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns} FROM run WHERE id = $1 AND review_id = $2", run, review).FirstAsync(Read, cancel);

    /// <summary>The newest run that came to its end: its findings are the review's.</summary>
    public Task<RunRow?> LatestDoneAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns} FROM run WHERE review_id = $1 AND state = 'done' AND trial_of IS NULL ORDER BY finished_at DESC LIMIT 1", review).FirstAsync(Read, cancel);

    /// <summary>Asks a run to stop; one that waits is over at once.</summary>
    public async Task<bool> CancelAsync(Guid review, Guid run, CancellationToken cancel = default) => await scope.Command(
        """
        UPDATE run SET cancel_requested = true,
          state = CASE WHEN state = 'queued' THEN 'cancelled' ELSE state END,
          finished_at = CASE WHEN state = 'queued' THEN now() ELSE finished_at END
        WHERE id = $1 AND review_id = $2 AND state IN ('queued', 'running')
        """,
        run,
        review).RunAsync(cancel) == 1;

    /// <summary>What could not be audited as it should.</summary>
    public async Task<IReadOnlyList<AuditNote>> NotesAsync(Guid run, CancellationToken cancel = default) =>
        await scope.Command("SELECT figures -> 'Notes' FROM run WHERE id = $1", run).FirstAsync(r => r.Text(0), cancel) is { } json ? JsonSerializer.Deserialize<List<AuditNote>>(json) ?? [] : [];

    internal static RunRow Read(NpgsqlDataReader r) => new(
        r.GetGuid(0), r.GetGuid(1), r.GetString(2), r.GetString(3), r.GetFloat(4), r.GetInt32(5), r.GetInt32(6), r.GetInt32(7), r.Text(8),
        r.GetFieldValue<DateTimeOffset>(9), r.Nullable<DateTimeOffset>(10), r.GetFieldValue<string[]>(11));
}
