using System.Globalization;
using System.Text;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Causes of findings, as one account sees them: what a reviewer would open first comes first, and pages begin behind a number.</summary>
public sealed class CauseTable(AccountScope scope)
{
    public const int PageSize = 50;

    private const string Columns = "x.number, x.check_id, x.sink_path, x.sink_line, x.cut_path, x.cut_line, x.cut_count, x.flow_count, x.kind, x.score, x.certainty, x.open_ways, x.entries, x.rank_reason";

    /// <summary>Causes that have a finding of a choice, after a number, with the first flows of each.</summary>
    public async Task<IReadOnlyList<CauseRow>> AfterAsync(Guid run, FindingFilter filter, int after, int count, int flows, CancellationToken cancel = default)
    {
        var values = new List<object?> { run, after, count };
        var sql = new StringBuilder("SELECT ").Append(Columns).Append(" FROM cause x WHERE x.run_id = $1 AND x.number > $2");
        Chosen(sql, values, filter);
        sql.Append(" ORDER BY x.number LIMIT $3");
        return await WithFlowsAsync(run, await scope.Command(sql.ToString(), [.. values]).ListAsync(Read, cancel), flows, cancel);
    }

    /// <summary>How many causes a choice has.</summary>
    public async Task<int> CountAsync(Guid run, FindingFilter filter, CancellationToken cancel = default)
    {
        if (filter.IsArea)
        {
            return await scope.Command("SELECT coalesce(sum(causes), 0)::int FROM run_count WHERE run_id = $1 AND ($2 = '' OR area = $2)", run, filter.Area ?? "").FirstAsync(r => r.GetInt32(0), cancel);
        }

        var values = new List<object?> { run };
        var sql = new StringBuilder("SELECT count(*)::int FROM cause x WHERE x.run_id = $1");
        Chosen(sql, values, filter);
        return await scope.Command(sql.ToString(), [.. values]).FirstAsync(r => r.GetInt32(0), cancel);
    }

    /// <summary>Causes of an area after a number, with the first flows of each.</summary>
    /// <param name="shared">Those of several flows, or those of one.</param>
    public async Task<IReadOnlyList<CauseRow>> OfAreaAsync(Guid run, string area, bool shared, int after, int count, int flows, CancellationToken cancel = default) => await WithFlowsAsync(
        run,
        await scope.Command($"SELECT {Columns} FROM cause x WHERE run_id = $1 AND area = $2 AND (flow_count > 1) = $3 AND number > $4 ORDER BY number LIMIT $5", run, area, shared, after, count).ListAsync(Read, cancel),
        flows,
        cancel);

    /// <summary>The causes with their first flows, and how many of all are judged: two plain statements are planned and run faster than one that joins each cause to its own.</summary>
    private async Task<IReadOnlyList<CauseRow>> WithFlowsAsync(Guid run, IReadOnlyList<CauseRow> causes, int flows, CancellationToken cancel)
    {
        if (causes.Count == 0)
        {
            return [];
        }

        var rows = (await scope.Command(
            $"""
            SELECT * FROM (
              SELECT {FindingTable.Columns}, row_number() OVER (PARTITION BY f.cause ORDER BY f.source_path COLLATE "C", f.source_line, f.position) AS place,
                (count(*) FILTER (WHERE coalesce(c.verdict, 'to judge') <> 'to judge') OVER (PARTITION BY f.cause))::int AS judged
              {FindingTable.Source} WHERE f.run_id = $1 AND f.cause = ANY ($2)) y
            WHERE place <= $3 ORDER BY cause, place
            """,
            run,
            causes.Select(c => c.Number).ToArray(),
            flows).ListAsync(r => (Flow: FindingTable.Read(r, 0), Judged: r.GetInt32(FindingTable.ColumnCount + 1)), cancel)).ToLookup(r => r.Flow.Cause);
        return [.. causes.Select(c => c with { Judged = rows[c.Number].Select(r => r.Judged).FirstOrDefault(), Flows = [.. rows[c.Number].Select(r => r.Flow)] })];
    }

    /// <summary>How many causes an area has of several flows and of one.</summary>
    public Task<(int Shared, int Single)> CountOfAreaAsync(Guid run, string area, CancellationToken cancel = default) =>
        scope.Command("SELECT coalesce(sum(shared_causes), 0)::int, coalesce(sum(causes - shared_causes), 0)::int FROM run_count WHERE run_id = $1 AND area = $2", run, area)
            .FirstAsync(r => (r.GetInt32(0), r.GetInt32(1)), cancel);

    /// <summary>The worst cause that has a finding which nobody has judged: its weakness and place.</summary>
    public Task<(string CheckId, string Path, int Line)?> WorstOpenAsync(Guid run, CancellationToken cancel = default) => scope.Command(
        """
        SELECT x.check_id, x.cut_path, x.cut_line FROM cause x
        WHERE x.run_id = $1 AND EXISTS (SELECT 1 FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint WHERE f.run_id = $1 AND f.cause = x.number AND coalesce(c.verdict, 'to judge') = 'to judge')
        ORDER BY x.number LIMIT 1
        """,
        run).FirstAsync(r => ((string, string, int)?)(r.GetString(0), r.GetString(1), r.GetInt32(2)), cancel);

    private static void Chosen(StringBuilder sql, List<object?> values, FindingFilter filter)
    {
        if (!string.IsNullOrEmpty(filter.Area) && filter.IsArea)
        {
            values.Add(filter.Area);
            sql.Append(CultureInfo.InvariantCulture, $" AND x.area = ${values.Count}");
        }
        else if (!filter.IsArea)
        {
            sql.Append(CultureInfo.InvariantCulture, $" AND x.number IN (SELECT f.cause{FindingTable.Source} WHERE f.run_id = $1");
            FindingTable.Limit(sql, values, filter, null);
            sql.Append(')');
        }
    }

    private static CauseRow Read(NpgsqlDataReader r) => new(
        r.GetInt32(0), r.GetString(1), r.GetString(2), r.GetInt32(3), r.GetString(4), r.GetInt32(5), r.GetInt32(6), r.GetInt32(7), r.GetString(8), r.GetDecimal(9), r.GetString(10), r.GetInt32(11), r.GetFieldValue<string[]>(12), r.GetString(13), 0, []);
}
