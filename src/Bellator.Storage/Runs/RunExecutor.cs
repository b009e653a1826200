using System.Text.Json;
using Bellator.Core.Auditing;
using Bellator.Core.Sources;
using Bellator.Storage.Replays;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>How many threads an audit has, and where it says what it is busy with.</summary>
public sealed record ExecutionSettings(int Threads, AuditActivity? Activity);

/// <summary>
/// Carries a claimed run out: reads the material, audits it, and writes what was found in one transaction, which counts only while the
/// claim does. There is never half a result, and never one of two processes at once.
/// </summary>
public sealed class RunExecutor(NpgsqlDataSource worker, string? scratchConnection, KeptAudits kept)
{
    /// <summary>What an audit is busy with when all is written and nothing of it holds yet.</summary>
    public const string Commit = "the commit";

    private const int BatchRows = 500;

    /// <summary>A result that took minutes is worth waiting for the database to come back.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(2);

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);

    /// <returns>False if somebody else has the run by now: nothing was written.</returns>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public async Task<bool> RunAsync(ClaimedRun run, ExecutionSettings settings, Action<AuditProgress> progress, CancellationToken cancel)
    {
        var (tree, leftOut) = await LoadAsync(run, settings.Activity, cancel);
        var meanings = await MeaningsAsync(run.Review, cancel);
        var memory = kept.Take(run.Review);
        var options = new AuditOptions { Memory = memory, ColumnMeanings = meanings, Threads = settings.Threads, Activity = settings.Activity };
        var result = Audit.Run(tree, options, progress, cancel);
        kept.Put(run.Review, memory, tree);
        result = result with { Notes = [.. result.Notes, .. leftOut] };
        if (scratchConnection is not null)
        {
            settings.Activity?.Begin("the replay of statements");
            var replay = new StatementReplay(scratchConnection);
            result = result with { Findings = await replay.ReplayAsync(result.Findings, result.Schema, cancel) };
            if (replay.LeftOut > 0)
            {
                result = result with { Notes = [.. result.Notes, new AuditNote("", $"{replay.LeftOut} statements of witnesses were not run on invented rows: there were too many of them")] };
            }
        }

        for (var until = DateTime.UtcNow + Patience; ;)
        {
            settings.Activity?.Begin("the result");
            try
            {
                return await WriteAsync(run, result, settings.Activity, cancel);
            }
            catch (NpgsqlException e) when (e.IsTransient && DateTime.UtcNow < until)
            {
                await Task.Delay(Pause, cancel);
            }
        }
    }

    private async Task<(SourceTree Tree, IReadOnlyList<AuditNote> LeftOut)> LoadAsync(ClaimedRun run, AuditActivity? activity, CancellationToken cancel)
    {
        activity?.Begin("the material");
        await using var connection = await worker.OpenConnectionAsync(cancel);
        var name = await Sql.Command(connection, "SELECT name FROM snapshot WHERE id = $1", run.Snapshot).FirstAsync(r => r.GetString(0), cancel);
        var files = new List<SourceFile>();
        var leftOut = new List<AuditNote>();
        await using var command = Sql.Command(connection, "SELECT f.path, b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 ORDER BY f.path", run.Snapshot);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var path = reader.GetString(0);
            if (run.LeftOut.Contains(path))
            {
                leftOut.Add(new AuditNote(path, "an audit hung or ended over this file; it was left out"));
                continue;
            }

            var content = reader.GetFieldValue<byte[]>(1);
            files.Add(new SourceFile(path, content, Languages.Detect(path, content)));
            activity?.Begin("the material");
        }

        activity?.End();
        return (new SourceTree(name ?? "", files, []), leftOut);
    }

    private async Task<Dictionary<(string, string), string>> MeaningsAsync(Guid review, CancellationToken cancel)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        return (await Sql.Command(connection, "SELECT table_name, column_name, meaning FROM column_meaning WHERE review_id = $1", review)
            .ListAsync(r => (Table: r.GetString(0), Column: r.GetString(1), Meaning: r.GetString(2)), cancel)).ToDictionary(m => (m.Table, m.Column), m => m.Meaning);
    }

    private async Task<bool> WriteAsync(ClaimedRun run, AuditResult result, AuditActivity? activity, CancellationToken cancel)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        // Verdicts that are given meanwhile wait, so that they are counted.
        await Sql.Command(connection, "SELECT pg_advisory_xact_lock(hashtextextended($1, 0))", run.Review.ToString()).RunAsync(cancel);
        var held = await Sql.Command(
            connection,
            """
            UPDATE run SET state = 'done', stage = 'done', share = 1, error = NULL, finished_at = now(), finding_count = $3, files_done = $4, files_total = $4, figures = $5::jsonb, application = $6::jsonb
            WHERE id = $1 AND claim = $2 AND state = 'running'
            """,
            run.Run,
            run.Claim,
            result.Findings.Count,
            result.Figures.Files,
            JsonSerializer.Serialize(new { result.Figures, result.Notes }, DatabaseText.Json),
            result.About.Write(ApplicationJson)).RunAsync(cancel);
        if (held == 0)
        {
            return false;
        }

        foreach (var table in (string[])["finding", "cause", "run_count"])
        {
            await Sql.Command(connection, $"DELETE FROM {table} WHERE run_id = $1", run.Run).RunAsync(cancel);
        }

        await WriteFindingsAsync(connection, run, result.Findings, cancel);
        await Sql.Command(
            connection,
            """
            INSERT INTO run_count (run_id, review_id, area, check_id, total, to_judge)
            SELECT f.run_id, f.review_id, f.area, f.check_id, count(*), count(*) FILTER (WHERE coalesce(c.verdict, 'to judge') = 'to judge')
            FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint
            WHERE f.run_id = $1 GROUP BY f.run_id, f.review_id, f.area, f.check_id
            """,
            run.Run).RunAsync(cancel);
        activity?.Begin(Commit);
        await transaction.CommitAsync(cancel);
        return true;
    }

    private static readonly JsonSerializerOptions ApplicationJson = MakeApplicationJson();

    private static JsonSerializerOptions MakeApplicationJson()
    {
        var options = new JsonSerializerOptions(ReportedApplication.Options);
        foreach (var converter in DatabaseText.Json.Converters)
        {
            options.Converters.Add(converter);
        }

        return options;
    }

    private static async Task WriteFindingsAsync(NpgsqlConnection connection, ClaimedRun run, IReadOnlyList<ReportedFinding> findings, CancellationToken cancel)
    {
        var causes = Causes.Of(findings);
        var flows = new Dictionary<ReportedFinding, (int Cause, CodePlace Source)>(ReferenceEqualityComparer.Instance);
        for (var number = 0; number < causes.Count; number++)
        {
            foreach (var flow in causes[number].Flows)
            {
                flows[flow.Finding] = (number + 1, flow.Source);
            }
        }

        foreach (var batch in causes.Select((c, i) => (Cause: c, Number: i + 1)).Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                """
                INSERT INTO cause (run_id, review_id, number, check_id, area, sink_path, sink_line, cut_path, cut_line, cut_count, flow_count)
                SELECT $1, $2, * FROM unnest($3::int[], $4::text[], $5::text[], $6::text[], $7::int[], $8::text[], $9::int[], $10::int[], $11::int[])
                """,
                run.Run,
                run.Review,
                Array.ConvertAll(batch, b => b.Number),
                Array.ConvertAll(batch, b => b.Cause.CheckId),
                Array.ConvertAll(batch, b => b.Cause.Flows[0].Finding.Area),
                Array.ConvertAll(batch, b => b.Cause.Sink.Path),
                Array.ConvertAll(batch, b => b.Cause.Sink.Line),
                Array.ConvertAll(batch, b => b.Cause.Cut.Path),
                Array.ConvertAll(batch, b => b.Cause.Cut.Line),
                Array.ConvertAll(batch, b => b.Cause.CutCount),
                Array.ConvertAll(batch, b => b.Cause.Flows.Count)).RunAsync(cancel);
        }

        foreach (var batch in findings.Select((f, i) => (Finding: f, Position: i)).Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                """
                INSERT INTO finding (run_id, review_id, position, fingerprint, check_id, area, certainty, score, path, line, message, cause, source_path, source_line, detail)
                SELECT $1, $2, p, f, k, a, c, s, h, l, m, u, sp, sl, d::jsonb
                FROM unnest($3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::numeric[], $9::text[], $10::int[], $11::text[], $12::int[], $13::text[], $14::int[], $15::text[])
                  AS t (p, f, k, a, c, s, h, l, m, u, sp, sl, d)
                """,
                run.Run,
                run.Review,
                Array.ConvertAll(batch, b => b.Position),
                Array.ConvertAll(batch, b => b.Finding.Fingerprint),
                Array.ConvertAll(batch, b => b.Finding.CheckId),
                Array.ConvertAll(batch, b => b.Finding.Area),
                Array.ConvertAll(batch, b => b.Finding.Certainty.ToString().ToLowerInvariant()),
                Array.ConvertAll(batch, b => (decimal)b.Finding.Score),
                Array.ConvertAll(batch, b => b.Finding.Path),
                Array.ConvertAll(batch, b => b.Finding.Region.StartLine),
                Array.ConvertAll(batch, b => b.Finding.Message),
                Array.ConvertAll(batch, b => flows[b.Finding].Cause),
                Array.ConvertAll(batch, b => flows[b.Finding].Source.Path),
                Array.ConvertAll(batch, b => flows[b.Finding].Source.Line),
                Array.ConvertAll(batch, b => JsonSerializer.Serialize(b.Finding, DatabaseText.Json))).RunAsync(cancel);
        }
    }
}
