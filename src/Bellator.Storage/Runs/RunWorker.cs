using System.Diagnostics;
using System.Text.Json;
using Bellator.Core.Auditing;
using Bellator.Core.Sources;
using Bellator.Storage.Replays;
using Npgsql;
using NpgsqlTypes;

namespace Bellator.Storage.Runs;

/// <summary>
/// Carries out audit runs under the worker's role. A run may be begun again after its process was killed: findings are written in one
/// transaction at the end, so there is never half a result.
/// </summary>
public sealed class RunWorker(Database database, KeptAudits kept)
{
    private const int MaxAttempts = 3;
    private static readonly TimeSpan ProgressInterval = TimeSpan.FromMilliseconds(300);

    public async Task RunAsync(Guid run, CancellationToken cancel)
    {
        if (await BeginAsync(run, cancel) is not var (snapshot, review))
        {
            return;
        }

        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            var tree = await LoadAsync(snapshot, stop.Token);
            var meanings = await MeaningsAsync(review, stop.Token);
            using var progress = new ProgressWriter(database, run, stop);
            var memory = kept.Take(review);
            var result = await Task.Factory.StartNew(() => Audit.Run(tree, new AuditOptions { Memory = memory, ColumnMeanings = meanings }, progress.Note, stop.Token), CancellationToken.None, TaskCreationOptions.LongRunning, TaskScheduler.Default);
            kept.Put(review, memory, tree);
            if (database.ScratchConnection is { } scratch)
            {
                result = result with { Findings = await new StatementReplay(scratch).ReplayAsync(result.Findings, result.Schema, stop.Token) };
            }

            await FinishAsync(run, result, CancellationToken.None);
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            await EndAsync(run, "cancelled", null);
        }
        catch (OperationCanceledException)
        {
            // The process is asked to end: the job comes back, here or on another machine.
            await EndAsync(run, "queued", null);
            throw;
        }
        catch (Exception e) when (e is SourceException or InvalidOperationException or NpgsqlException)
        {
            await EndAsync(run, "failed", e.Message);
        }
    }

    /// <summary>Marks runs that nobody works on any more; called when a process starts.</summary>
    public async Task<int> MarkInterruptedAsync(TimeSpan silence, CancellationToken cancel = default)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(cancel);
        return await Sql.Command(
            connection,
            "UPDATE run SET state = 'interrupted', finished_at = now() WHERE state = 'running' AND attempts >= $2 AND heartbeat_at < now() - $1",
            silence,
            MaxAttempts).RunAsync(cancel);
    }

    private async Task<(Guid Snapshot, Guid Review)?> BeginAsync(Guid run, CancellationToken cancel)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "UPDATE run SET state = 'interrupted', finished_at = now() WHERE id = $1 AND state = 'running' AND attempts >= $2", run, MaxAttempts).RunAsync(cancel);
        return await Sql.Command(
            connection,
            """
            UPDATE run SET state = 'running', stage = 'reading', started_at = now(), heartbeat_at = now(), attempts = attempts + 1, share = 0
            WHERE id = $1 AND state IN ('queued', 'running') AND NOT cancel_requested RETURNING snapshot_id, review_id
            """,
            run).FirstAsync(r => ((Guid, Guid)?)(r.GetGuid(0), r.GetGuid(1)), cancel);
    }

    private async Task<SourceTree> LoadAsync(Guid snapshot, CancellationToken cancel)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(cancel);
        var name = await Sql.Command(connection, "SELECT name FROM snapshot WHERE id = $1", snapshot).FirstAsync(r => r.GetString(0), cancel);
        var files = await Sql.Command(connection, "SELECT f.path, b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 ORDER BY f.path COLLATE \"C\"", snapshot)
            .ListAsync(r => (Path: r.GetString(0), Content: r.GetFieldValue<byte[]>(1)), cancel);
        return new SourceTree(name ?? "", [.. files.Select(f => new SourceFile(f.Path, f.Content, Languages.Detect(f.Path, f.Content)))], []);
    }

    private async Task<Dictionary<(string, string), string>> MeaningsAsync(Guid review, CancellationToken cancel)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(cancel);
        return (await Sql.Command(connection, "SELECT table_name, column_name, meaning FROM column_meaning WHERE review_id = $1", review)
            .ListAsync(r => (Table: r.GetString(0), Column: r.GetString(1), Meaning: r.GetString(2)), cancel)).ToDictionary(m => (m.Table, m.Column), m => m.Meaning);
    }

    private async Task FinishAsync(Guid run, AuditResult result, CancellationToken cancel)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);
        await Sql.Command(connection, "DELETE FROM finding WHERE run_id = $1", run).RunAsync(cancel);
        var position = 0;
        foreach (var finding in result.Findings)
        {
            await using var insert = Sql.Command(
                connection,
                """
                INSERT INTO finding (run_id, review_id, position, fingerprint, check_id, area, certainty, score, path, line, message, detail)
                SELECT $1, review_id, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11 FROM run WHERE id = $1
                """,
                run,
                position++,
                finding.Fingerprint,
                finding.CheckId,
                finding.Area,
                finding.Certainty.ToString().ToLowerInvariant(),
                (decimal)finding.Score,
                finding.Path,
                finding.Region.StartLine,
                finding.Message.Replace('\0', '?'));
            insert.Parameters.Add(new NpgsqlParameter { Value = JsonSerializer.Serialize(finding).Replace("\\u0000", "?", StringComparison.Ordinal), NpgsqlDbType = NpgsqlDbType.Jsonb });
            await insert.ExecuteNonQueryAsync(cancel);
        }

        await using var finish = Sql.Command(
            connection,
            "UPDATE run SET state = 'done', stage = 'done', share = 1, finished_at = now(), finding_count = $2, files_done = $3, files_total = $3, figures = $4, application = $5 WHERE id = $1",
            run,
            result.Findings.Count,
            result.Figures.Files);
        finish.Parameters.Add(new NpgsqlParameter { Value = JsonSerializer.Serialize(new { result.Figures, result.Notes }), NpgsqlDbType = NpgsqlDbType.Jsonb });
        finish.Parameters.Add(new NpgsqlParameter { Value = result.About.Write().Replace("\\u0000", "?", StringComparison.Ordinal), NpgsqlDbType = NpgsqlDbType.Jsonb });
        await finish.ExecuteNonQueryAsync(cancel);
        await transaction.CommitAsync(cancel);
    }

    private async Task EndAsync(Guid run, string state, string? error)
    {
        await using var connection = await database.Worker.OpenConnectionAsync(CancellationToken.None);
        await Sql.Command(connection, "UPDATE run SET state = $2, error = $3, finished_at = CASE WHEN $2 = 'queued' THEN NULL ELSE now() END WHERE id = $1", run, state, error).RunAsync();
    }

    /// <summary>Writes progress a few times a second from a timer, and notices a wish to cancel; the audit's own threads never wait for the database.</summary>
    private sealed class ProgressWriter : IDisposable
    {
        private readonly Database _database;
        private readonly Guid _run;
        private readonly CancellationTokenSource _stop;
        private readonly Timer _timer;
        private readonly Lock _writing = new();
        private AuditProgress _latest = new("reading", 0, 0, 0, 0);

        public ProgressWriter(Database database, Guid run, CancellationTokenSource stop)
        {
            _database = database;
            _run = run;
            _stop = stop;
            _timer = new Timer(_ => Write(), null, ProgressInterval, ProgressInterval);
        }

        public void Note(AuditProgress progress) => Volatile.Write(ref _latest, progress);

        public void Dispose()
        {
            _timer.Dispose();
            lock (_writing)
            {
                // A write that is under way ends before the result is written.
            }
        }

        private void Write()
        {
            if (!_writing.TryEnter())
            {
                return;
            }

            try
            {
                var progress = Volatile.Read(ref _latest);
                using var connection = _database.Worker.OpenConnection();
                using var command = Sql.Command(
                    connection,
                    "UPDATE run SET stage = $2, share = $3, files_done = $4, files_total = $5, finding_count = $6, heartbeat_at = now() WHERE id = $1 AND state = 'running' RETURNING cancel_requested",
                    _run,
                    progress.Stage,
                    (float)progress.Share,
                    progress.FilesDone,
                    progress.FilesTotal,
                    progress.Findings);
                if (command.ExecuteScalar() is true)
                {
                    _stop.Cancel();
                }
            }
            catch (Exception e) when (e is NpgsqlException or ObjectDisposedException)
            {
                // Progress is not worth an audit: the next write may succeed.
                Trace.WriteLine(e.Message);
            }
            finally
            {
                _writing.Exit();
            }
        }
    }
}
