using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>What changed between a run and the one before it, as one account sees it.</summary>
public sealed class ChangeTable(AccountScope scope)
{
    public const int PageSize = 200;

    /// <summary>The run that another one was compared with and the number of its snapshot, and what else changed; null if it was compared with none.</summary>
    public async Task<(Guid Run, int Snapshot, IReadOnlyList<PartChange> Parts)?> BaselineAsync(Guid run, CancellationToken cancel = default) => await scope.Command(
        "SELECT b.id, s.number, r.parts FROM run r JOIN run b ON b.id = r.baseline_run JOIN snapshot s ON s.id = b.snapshot_id WHERE r.id = $1",
        run).FirstAsync(r => ((Guid, int, IReadOnlyList<PartChange>)?)(r.GetGuid(0), r.GetInt32(1), r.Text(2) is { } json ? JsonSerializer.Deserialize<List<PartChange>>(json) ?? [] : []), cancel);

    /// <summary>How many findings of a run are in each state.</summary>
    public async Task<IReadOnlyDictionary<string, int>> CountAsync(Guid run, CancellationToken cancel = default)
    {
        var counts = (await scope.Command("SELECT state, count(*)::int FROM finding WHERE run_id = $1 AND state IS NOT NULL GROUP BY state", run).ListAsync(r => (r.GetString(0), r.GetInt32(1)), cancel)).ToDictionary(p => p.Item1, p => p.Item2, StringComparer.Ordinal);
        counts["gone"] = await scope.Command("SELECT count(*)::int FROM gone WHERE run_id = $1", run).FirstAsync(r => r.GetInt32(0), cancel);
        return counts;
    }

    /// <summary>Findings in a state, with how it is known.</summary>
    public Task<IReadOnlyList<(FindingRow Finding, string Reason)>> InStateAsync(Guid run, string state, int after, int count, CancellationToken cancel = default) => scope.Command(
        $"SELECT {FindingTable.Columns}, f.state_reason{FindingTable.Source} WHERE f.run_id = $1 AND f.state = $2 AND f.position > $3 ORDER BY f.position LIMIT $4",
        run,
        state,
        after,
        count).ListAsync(r => (FindingTable.Read(r, 0), r.Text(FindingTable.ColumnCount) ?? ""), cancel);

    public Task<IReadOnlyList<GoneRow>> GoneAsync(Guid run, string after, int count, CancellationToken cancel = default) => scope.Command(
        """
        SELECT g.fingerprint, g.kind, g.reason, g.at_path, g.at_line, g.check_id, g.score, g.path, g.line, g.message, g.before_id, coalesce(c.verdict, 'to judge')
        FROM gone g LEFT JOIN current_verdict c ON c.review_id = g.review_id AND c.fingerprint = g.fingerprint
        WHERE g.run_id = $1 AND g.fingerprint > $2 ORDER BY g.kind = 'cannotTell', g.score DESC, g.path, g.line, g.fingerprint LIMIT $3
        """,
        run,
        after,
        count).ListAsync(r => new GoneRow(r.GetString(0), r.GetString(1), r.GetString(2), r.Text(3), r.Nullable<int>(4), r.GetString(5), r.GetDecimal(6), r.GetString(7), r.GetInt32(8), r.GetString(9), r.Nullable<long>(10), r.GetString(11)), cancel);

    /// <summary>Findings that may be one of several of before: somebody is to say.</summary>
    public async Task<IReadOnlyList<QuestionRow>> QuestionsAsync(Guid run, CancellationToken cancel = default) => [.. (await scope.Command(
        "SELECT q.fingerprint, f.id, f.check_id, f.path || ':' || f.line, q.candidate, q.candidate_place FROM match_question q JOIN finding f ON f.run_id = q.run_id AND f.fingerprint = q.fingerprint WHERE q.run_id = $1 ORDER BY f.position, q.candidate_place LIMIT 400",
        run).ListAsync(r => (Print: r.GetString(0), Id: r.GetInt64(1), Check: r.GetString(2), Place: r.GetString(3), Candidate: (r.GetString(4), r.GetString(5))), cancel))
        .GroupBy(r => r.Id).Select(g => new QuestionRow(g.First().Print, g.Key, g.First().Check, g.First().Place, [.. g.Select(r => r.Candidate)]))];

    /// <summary>A finding of a run, by the name that it is known by.</summary>
    public async Task<(long Id, ReportedFinding Finding)?> ByFingerprintAsync(Guid run, string fingerprint, CancellationToken cancel = default) => await scope.Command(
        "SELECT id, detail FROM finding WHERE run_id = $1 AND fingerprint = $2 LIMIT 1",
        run,
        fingerprint).FirstAsync(r => ((long, ReportedFinding)?)(r.GetInt64(0), JsonSerializer.Deserialize<ReportedFinding>(r.GetString(1))!), cancel);

    /// <summary>How a finding's state is known.</summary>
    public Task<string?> ReasonAsync(long finding, CancellationToken cancel = default) => scope.Command("SELECT state_reason FROM finding WHERE id = $1", finding).FirstAsync(r => r.Text(0), cancel);

    public Task<Guid> SnapshotOfAsync(Guid run, CancellationToken cancel = default) => scope.Command("SELECT snapshot_id FROM run WHERE id = $1", run).FirstAsync(r => r.GetGuid(0), cancel);

    /// <param name="candidate">The finding of before that it is; empty if it is none of them.</param>
    public async Task<bool> AnswerAsync(Guid run, string fingerprint, string candidate, CancellationToken cancel = default) => candidate.Length == 0
        ? await scope.Command("DELETE FROM match_question WHERE run_id = $1 AND fingerprint = $2", run, fingerprint).RunAsync(cancel) > 0
        : await scope.Command("SELECT same_finding($1, $2, $3)", run, fingerprint, candidate).FirstAsync(r => r.GetBoolean(0), cancel);
}
