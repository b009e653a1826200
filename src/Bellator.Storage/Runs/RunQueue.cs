using Bellator.Audit.Auditing;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>A run that this process carries out.</summary>
/// <param name="Claim">What this process has it under: once another has taken it over, nothing written under this counts.</param>
/// <param name="LeftOut">Files that earlier tries hung or died over.</param>
/// <param name="TrialOf">The fact that the run tries; null for an audit whose result counts.</param>
public sealed record ClaimedRun(Guid Run, Guid Claim, Guid Review, Guid Snapshot, IReadOnlyList<string> LeftOut, long? TrialOf = null);

/// <summary>A run that waits for somebody to carry it out.</summary>
/// <param name="Bytes">How much source there is to audit.</param>
public sealed record WaitingRun(Guid Run, long Bytes);

/// <summary>
/// Which runs there are to carry out, who has them, and how they end. Every run comes to an end: one whose process fell silent goes back
/// to those that wait and, when that has happened too often, is marked as interrupted.
/// </summary>
/// <param name="silence">How long a process may say nothing of a run before others take it over.</param>
public sealed class RunQueue(NpgsqlDataSource worker, TimeSpan? silence = null)
{
    public const int MaxAttempts = 3;

    /// <summary>Whoever carries a run out says so more often than this.</summary>
    public static readonly TimeSpan UsualSilence = TimeSpan.FromSeconds(20);

    /// <summary>A run is handed to the workers once more after this long, should the first time have been lost.</summary>
    private static readonly TimeSpan Again = TimeSpan.FromSeconds(30);

    private static readonly TimeSpan AtOnce = TimeSpan.FromSeconds(3);

    /// <summary>Takes a run over; null if it is over, was cancelled, or somebody else has it.</summary>
    public async Task<ClaimedRun?> ClaimAsync(Guid run, CancellationToken cancel = default)
    {
        var claim = Guid.CreateVersion7();
        await using var connection = await worker.OpenConnectionAsync(cancel);
        return await Sql.Command(
            connection,
            """
            UPDATE run SET state = 'running', stage = 'reading', started_at = coalesce(started_at, now()), heartbeat_at = now(), attempts = attempts + 1, share = 0, claim = $2
            WHERE id = $1 AND NOT cancel_requested AND attempts < $3 AND (state = 'queued' OR (state = 'running' AND heartbeat_at < now() - $4))
            RETURNING review_id, snapshot_id, left_out, trial_of
            """,
            run,
            claim,
            MaxAttempts,
            silence ?? UsualSilence).FirstAsync(r => new ClaimedRun(run, claim, r.GetGuid(0), r.GetGuid(1), r.GetFieldValue<string[]>(2), r.Nullable<long>(3)), cancel);
    }

    /// <summary>Says that the run is alive, and how far.</summary>
    /// <returns>Null if it is no longer ours; otherwise whether somebody asked it to stop.</returns>
    public async Task<bool?> ProgressAsync(ClaimedRun run, AuditProgress progress, CancellationToken cancel = default)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        return await Sql.Command(
            connection,
            "UPDATE run SET stage = $3, share = $4, files_done = $5, files_total = $6, finding_count = $7, heartbeat_at = now() WHERE id = $1 AND claim = $2 AND state = 'running' RETURNING cancel_requested",
            run.Run,
            run.Claim,
            progress.Stage,
            (float)progress.Share,
            progress.FilesDone,
            progress.FilesTotal,
            progress.Findings).FirstAsync(r => (bool?)r.GetBoolean(0), cancel);
    }

    /// <summary>Ends a run that is still ours.</summary>
    public async Task EndAsync(ClaimedRun run, string state, string? error)
    {
        await using var connection = await worker.OpenConnectionAsync();
        await Sql.Command(connection, "UPDATE run SET state = $3, error = $4, finished_at = now() WHERE id = $1 AND claim = $2 AND state = 'running'", run.Run, run.Claim, state, error).RunAsync();
    }

    /// <summary>Gives a run back that is still ours: this process is to end, which is no fault of the run's.</summary>
    public async Task GiveBackAsync(ClaimedRun run)
    {
        await using var connection = await worker.OpenConnectionAsync();
        await Sql.Command(connection, "UPDATE run SET state = 'queued', stage = 'queued', attempts = greatest(0, attempts - 1), queued_at = 'epoch', claim = NULL WHERE id = $1 AND claim = $2 AND state = 'running'", run.Run, run.Claim).RunAsync();
    }

    /// <summary>Notes that a file is left out of the next try.</summary>
    public async Task LeaveOutAsync(ClaimedRun run, string path)
    {
        await using var connection = await worker.OpenConnectionAsync();
        await Sql.Command(connection, "UPDATE run SET left_out = array_append(left_out, $3) WHERE id = $1 AND claim = $2 AND NOT $3 = ANY (left_out)", run.Run, run.Claim, path).RunAsync();
    }

    /// <summary>How much source a run has to audit.</summary>
    public async Task<long> BytesOfAsync(Guid run, CancellationToken cancel = default)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, "SELECT s.byte_count FROM run r JOIN snapshot s ON s.id = r.snapshot_id WHERE r.id = $1", run).FirstAsync(r => r.GetInt64(0), cancel);
    }

    /// <summary>Brings order into what others left: silent runs and intakes come to an end or wait again, and waiting runs that nobody was told of are returned.</summary>
    public async Task<IReadOnlyList<WaitingRun>> KeepAsync(CancellationToken cancel = default)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        await Sql.Command(
            connection,
            """
            UPDATE run SET finished_at = CASE WHEN cancel_requested OR attempts >= $2 THEN now() END,
              state = CASE WHEN cancel_requested THEN 'cancelled' WHEN attempts >= $2 THEN 'interrupted' ELSE 'queued' END,
              stage = CASE WHEN cancel_requested OR attempts >= $2 THEN stage ELSE 'queued' END, queued_at = 'epoch'
            WHERE state = 'running' AND heartbeat_at < now() - $1
            """,
            silence ?? UsualSilence,
            MaxAttempts).RunAsync(cancel);
        await Sql.Command(connection, "SELECT reopen_accepted()").RunAsync(cancel);
        await Sql.Command(connection, "UPDATE run SET state = 'interrupted', finished_at = now() WHERE state = 'queued' AND attempts >= $1", MaxAttempts).RunAsync(cancel);
        await Sql.Command(
            connection,
            """
            WITH given_up AS (
              UPDATE intake SET state = 'interrupted', finished_at = now() WHERE state = 'reading' AND heartbeat_at < now() - $1 RETURNING snapshot_id)
            SELECT forget_snapshot(snapshot_id) FROM given_up
            """,
            silence ?? UsualSilence).RunAsync(cancel);
        return await Sql.Command(
            connection,
            """
            WITH told AS (
              UPDATE run SET queued_at = now() WHERE state = 'queued' AND (queued_at < now() - $1 OR (queued_at = created_at AND created_at < now() - $2)) RETURNING id, snapshot_id)
            SELECT t.id, s.byte_count FROM told t JOIN snapshot s ON s.id = t.snapshot_id
            """,
            Again,
            AtOnce).ListAsync(r => new WaitingRun(r.GetGuid(0), r.GetInt64(1)), cancel);
    }

    /// <summary>Notes that the workers were told of a run.</summary>
    public async Task ToldAsync(Guid run, CancellationToken cancel = default)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "UPDATE run SET queued_at = clock_timestamp() WHERE id = $1 AND state = 'queued'", run).RunAsync(cancel);
    }
}
