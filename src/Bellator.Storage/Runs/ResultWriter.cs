using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>Writes what a run found in one transaction, which counts only while its claim does.</summary>
internal sealed class ResultWriter(NpgsqlDataSource worker)
{
    private const int BatchRows = 500;

    private const int LongestSearchText = 1000;

    /// <summary>So many endpoints of a cause are kept.</summary>
    private const int MostEntries = 8;

    /// <returns>False if somebody else has the run by now: nothing was written.</returns>
    public async Task<bool> WriteAsync(ClaimedRun run, RunOutcome outcome, AuditActivity? activity, CancellationToken cancel)
    {
        var result = outcome.Result;
        await using var connection = await worker.OpenConnectionAsync(cancel);
        await using var transaction = await connection.BeginTransactionAsync(cancel);

        // Verdicts that are given meanwhile wait, so that they are counted.
        await Sql.Command(connection, "SELECT pg_advisory_xact_lock(hashtextextended($1, 0))", run.Review.ToString()).RunAsync(cancel);
        var held = await Sql.Command(
            connection,
            """
            UPDATE run SET state = 'done', stage = 'done', share = 1, error = NULL, finished_at = now(), finding_count = $3, files_done = $4, files_total = $4, figures = $5::jsonb, application = $6::jsonb,
              baseline_run = $7, parts = $8::jsonb
            WHERE id = $1 AND claim = $2 AND state = 'running'
            """,
            run.Run,
            run.Claim,
            result.Findings.Count,
            result.Figures.Files,
            JsonSerializer.Serialize(new { result.Figures, result.Notes }, DatabaseText.Json),
            result.About.Write(ApplicationJson),
            outcome.Baseline,
            outcome.Baseline is null ? null : JsonSerializer.Serialize(outcome.Parts, DatabaseText.Json)).RunAsync(cancel);
        if (held == 0)
        {
            return false;
        }

        foreach (var table in (string[])["finding", "cause", "run_count", "gone", "match_question"])
        {
            await Sql.Command(connection, $"DELETE FROM {table} WHERE run_id = $1", run.Run).RunAsync(cancel);
        }

        await WriteFindingsAsync(connection, run, outcome, cancel);
        await WriteChangesAsync(connection, run, outcome, cancel);
        await Sql.Command(
            connection,
            """
            INSERT INTO run_count (run_id, review_id, area, check_id, total, to_judge, causes, shared_causes)
            SELECT f.run_id, f.review_id, f.area, f.check_id, f.total, f.to_judge, coalesce(x.number, 0), coalesce(x.shared, 0) FROM (
              SELECT f.run_id, f.review_id, f.area, f.check_id, count(*) AS total, count(*) FILTER (WHERE coalesce(c.verdict, 'to judge') = 'to judge') AS to_judge
              FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint
              WHERE f.run_id = $1 GROUP BY f.run_id, f.review_id, f.area, f.check_id) f
            LEFT JOIN (SELECT check_id, count(*) AS number, count(*) FILTER (WHERE flow_count > 1) AS shared FROM cause WHERE run_id = $1 GROUP BY check_id) x ON x.check_id = f.check_id
            """,
            run.Run).RunAsync(cancel);
        activity?.Begin(RunExecutor.Commit);
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

    private static async Task WriteFindingsAsync(NpgsqlConnection connection, ClaimedRun run, RunOutcome outcome, CancellationToken cancel)
    {
        var findings = outcome.Result.Findings;
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
                INSERT INTO cause (run_id, review_id, number, check_id, area, sink_path, sink_line, cut_path, cut_line, cut_count, flow_count, kind, score, certainty, open_ways, rank_reason, entries)
                SELECT $1, $2, n, k, a, sp, sl, cp, cl, cc, fc, kd, sc, ct, ow, rr, string_to_array(en, E'\n')
                FROM unnest($3::int[], $4::text[], $5::text[], $6::text[], $7::int[], $8::text[], $9::int[], $10::int[], $11::int[], $12::text[], $13::numeric[], $14::text[], $15::int[], $16::text[], $17::text[])
                  AS t (n, k, a, sp, sl, cp, cl, cc, fc, kd, sc, ct, ow, rr, en)
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
                Array.ConvertAll(batch, b => b.Cause.Flows.Count),
                Array.ConvertAll(batch, b => b.Cause.Kind.ToString().ToLowerInvariant()),
                Array.ConvertAll(batch, b => (decimal)b.Cause.Score),
                Array.ConvertAll(batch, b => b.Cause.Certainty.ToString().ToLowerInvariant()),
                Array.ConvertAll(batch, b => b.Cause.OpenWays),
                Array.ConvertAll(batch, b => b.Cause.RankReason),
                Array.ConvertAll(batch, b => string.Join('\n', b.Cause.Ways.Take(MostEntries).Select(w => $"{w.Method} {w.Path} {w.SignIn}")))).RunAsync(cancel);
        }

        foreach (var batch in findings.Select((f, i) => (Finding: f, Position: i)).Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                """
                INSERT INTO finding (run_id, review_id, position, fingerprint, check_id, area, certainty, score, path, line, message, cause, source_path, source_line, detail, state, state_reason, ways, open_ways, search)
                SELECT $1, $2, p, f, k, a, c, s, h, l, m, u, sp, sl, d::jsonb, st, sr, w, ow, se
                FROM unnest($3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::numeric[], $9::text[], $10::int[], $11::text[], $12::int[], $13::text[], $14::int[], $15::text[], $16::text[], $17::text[], $18::int[], $19::int[], $20::text[])
                  AS t (p, f, k, a, c, s, h, l, m, u, sp, sl, d, st, sr, w, ow, se)
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
                Array.ConvertAll(batch, b => JsonSerializer.Serialize(b.Finding, DatabaseText.Json)),
                Array.ConvertAll(batch, b => outcome.StateOf(b.Finding)),
                Array.ConvertAll(batch, b => outcome.ReasonOf(b.Finding)),
                Array.ConvertAll(batch, b => b.Finding.WayCount),
                Array.ConvertAll(batch, b => b.Finding.OpenWayCount),
                Array.ConvertAll(batch, b => SearchTextOf(b.Finding))).RunAsync(cancel);
        }
    }

    /// <summary>What people look for and lists do not show: endpoints, numbers of weaknesses, the tables of a statement.</summary>
    private static string SearchTextOf(ReportedFinding finding)
    {
        var text = string.Join(' ', finding.Ways.Select(w => $"{w.Method} {w.Path}").Concat(finding.Cwes.Select(c => $"CWE-{c}")).Append(finding.Witness?.Ordinary ?? ""));
        return text.Length > LongestSearchText ? text[..LongestSearchText] : text;
    }

    /// <summary>What is gone, what is open to a person's choice, and verdicts that no longer hold.</summary>
    private static async Task WriteChangesAsync(NpgsqlConnection connection, ClaimedRun run, RunOutcome outcome, CancellationToken cancel)
    {
        foreach (var batch in outcome.Changes.Where(c => c.Before is not null && c.After is null).Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                """
                INSERT INTO gone (run_id, review_id, fingerprint, kind, reason, at_path, at_line, check_id, area, score, path, line, message, before_id, detail)
                SELECT $1, $2, f, k, r, nullif(ap, ''), nullif(al, 0), c, a, s, p, l, m, (SELECT x.id FROM finding x WHERE x.run_id = $15 AND x.fingerprint = f LIMIT 1), d::jsonb
                FROM unnest($3::text[], $4::text[], $5::text[], $6::text[], $7::int[], $8::text[], $9::text[], $10::numeric[], $11::text[], $12::int[], $13::text[], $14::text[])
                  AS t (f, k, r, ap, al, c, a, s, p, l, m, d) ON CONFLICT DO NOTHING
                """,
                run.Run,
                run.Review,
                Array.ConvertAll(batch, b => b.Before!.Fingerprint),
                Array.ConvertAll(batch, b => JsonNamingPolicy.CamelCase.ConvertName(b.Lost!.Kind.ToString())),
                Array.ConvertAll(batch, b => b.Reason),
                Array.ConvertAll(batch, b => b.Lost!.At?.Path ?? ""),
                Array.ConvertAll(batch, b => b.Lost!.At?.Region.StartLine ?? 0),
                Array.ConvertAll(batch, b => b.Before!.CheckId),
                Array.ConvertAll(batch, b => b.Before!.Area),
                Array.ConvertAll(batch, b => (decimal)b.Before!.Score),
                Array.ConvertAll(batch, b => b.Before!.Path),
                Array.ConvertAll(batch, b => b.Before!.Region.StartLine),
                Array.ConvertAll(batch, b => b.Before!.Message),
                Array.ConvertAll(batch, b => JsonSerializer.Serialize(b.Before, DatabaseText.Json)),
                outcome.Baseline).RunAsync(cancel);
        }

        var questions = outcome.Changes.SelectMany(c => c.Perhaps.Select(p => (New: c.After!, Old: p))).ToList();
        foreach (var batch in questions.Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                "INSERT INTO match_question (run_id, review_id, fingerprint, candidate, candidate_place) SELECT $1, $2, * FROM unnest($3::text[], $4::text[], $5::text[]) ON CONFLICT DO NOTHING",
                run.Run,
                run.Review,
                Array.ConvertAll(batch, b => b.New.Fingerprint),
                Array.ConvertAll(batch, b => b.Old.Fingerprint),
                Array.ConvertAll(batch, b => $"{b.Old.Path}:{b.Old.Region.StartLine}")).RunAsync(cancel);
        }

        // Whoever judged after this very code was audited had it on the screen: to audit it once more opens nothing again.
        foreach (var batch in (run.TrialOf is null ? outcome.Reopened : []).Chunk(BatchRows))
        {
            await Sql.Command(
                connection,
                """
                INSERT INTO verdict (review_id, fingerprint, verdict, reason)
                SELECT $1, f, 'to judge', r FROM unnest($2::text[], $3::text[], $4::text[]) AS t (f, v, r)
                JOIN current_verdict c ON c.review_id = $1 AND c.fingerprint = f AND c.verdict = v
                JOIN verdict g ON g.id = c.verdict_id AND g.at < coalesce((SELECT min(o.finished_at) FROM run o WHERE o.snapshot_id = $5 AND o.state = 'done' AND o.trial_of IS NULL AND o.id <> $6), now())
                """,
                run.Review,
                Array.ConvertAll(batch, b => b.Fingerprint),
                Array.ConvertAll(batch, b => b.Verdict),
                Array.ConvertAll(batch, b => b.Reason),
                run.Snapshot,
                run.Run).RunAsync(cancel);
        }
    }
}
