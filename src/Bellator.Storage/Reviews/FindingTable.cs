using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;
using Bellator.Audit.Auditing;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Findings and verdicts, as one account sees them. Lists come in pages, by their place in the run.</summary>
public sealed class FindingTable(AccountScope scope)
{
    public const int PageSize = 100;

    internal const string Columns = "f.id, f.check_id, f.area, f.certainty, f.score, f.path, f.line, f.message, f.fingerprint, coalesce(c.verdict, 'to judge') AS verdict, f.position, f.state, f.open_ways, f.ways, f.source_path, f.source_line, f.cause";
    internal const string Source = " FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint";
    internal const int ColumnCount = 17;

    /// <summary>Those that follow a place, in order.</summary>
    /// <param name="check">Only this weakness; or, with <paramref name="isOther"/>, all but this one.</param>
    public Task<IReadOnlyList<FindingRow>> AfterAsync(Guid run, FindingFilter filter, int position, int count = PageSize, string? check = null, bool isOther = false, CancellationToken cancel = default) =>
        ListAsync(run, filter, "f.position > {0}", position, "f.position", count, check, isOther, cancel);

    /// <summary>Those before a place, in order.</summary>
    public async Task<IReadOnlyList<FindingRow>> BeforeAsync(Guid run, FindingFilter filter, int position, int count = PageSize, string? check = null, bool isOther = false, CancellationToken cancel = default) =>
        [.. (await ListAsync(run, filter, "f.position < {0}", position, "f.position DESC", count, check, isOther, cancel)).Reverse()];

    /// <summary>How many findings a choice holds, and how many of them are still to judge.</summary>
    public async Task<(int Total, int ToJudge)> CountAsync(Guid run, FindingFilter filter, string? check = null, CancellationToken cancel = default)
    {
        if (filter.IsArea)
        {
            return await scope.Command("SELECT coalesce(sum(total), 0)::int, coalesce(sum(to_judge), 0)::int FROM run_count WHERE run_id = $1 AND ($2 = '' OR area = $2) AND ($3 = '' OR check_id = $3)", run, filter.Area ?? "", check ?? "")
                .FirstAsync(r => (r.GetInt32(0), r.GetInt32(1)), cancel);
        }

        var values = new List<object?> { run };
        var sql = new StringBuilder($"SELECT count(*)::int, count(*) FILTER (WHERE coalesce(c.verdict, 'to judge') = 'to judge')::int{Source} WHERE f.run_id = $1");
        Limit(sql, values, filter, check);
        return await scope.Command(sql.ToString(), [.. values]).FirstAsync(r => (r.GetInt32(0), r.GetInt32(1)), cancel);
    }

    public Task<FindingRow?> FindAsync(Guid review, long id, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns}{Source} WHERE f.id = $1 AND f.review_id = $2", id, review).FirstAsync(Read, cancel);

    public async Task<(Guid Snapshot, ReportedFinding Finding)?> DetailAsync(Guid review, long id, CancellationToken cancel = default)
    {
        var found = await scope.Command("SELECT n.snapshot_id, f.detail FROM finding f JOIN run n ON n.id = f.run_id WHERE f.id = $1 AND f.review_id = $2", id, review)
            .FirstAsync(r => ((Guid, string)?)(r.GetGuid(0), r.GetString(1)), cancel);
        return found is { } row ? (row.Item1, JsonSerializer.Deserialize<ReportedFinding>(row.Item2)!) : null;
    }

    /// <summary>All findings of a run in full, for reports, with the newest verdict of each and its reason.</summary>
    public async IAsyncEnumerable<(ReportedFinding Finding, string Verdict, string? Reason)> AllAsync(Guid run, [EnumeratorCancellation] CancellationToken cancel = default)
    {
        await using var command = scope.Command(
            $"""
            SELECT f.detail, coalesce(c.verdict, 'to judge'), CASE WHEN c.verdict IS NULL THEN NULL ELSE
              (SELECT v.reason FROM verdict v WHERE v.review_id = f.review_id AND v.fingerprint = f.fingerprint ORDER BY v.id DESC LIMIT 1) END
            {Source} WHERE f.run_id = $1 ORDER BY f.position
            """,
            run);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            yield return (JsonSerializer.Deserialize<ReportedFinding>(reader.GetString(0))!, reader.GetString(1), reader.Text(2));
        }
    }

    /// <summary>How many findings of a run have each verdict.</summary>
    public async Task<IReadOnlyDictionary<string, int>> VerdictsAsync(Guid review, Guid run, CancellationToken cancel = default) => (await scope.Command(
        """
        SELECT c.verdict, count(*)::int FROM current_verdict c JOIN finding f ON f.review_id = c.review_id AND f.fingerprint = c.fingerprint AND f.run_id = $2
        WHERE c.review_id = $1 AND c.verdict <> 'to judge' GROUP BY c.verdict
        UNION ALL SELECT 'to judge', coalesce(sum(to_judge), 0)::int FROM run_count WHERE run_id = $2
        """,
        review,
        run).ListAsync(r => (r.GetString(0), r.GetInt32(1)), cancel)).ToDictionary(p => p.Item1, p => p.Item2, StringComparer.Ordinal);

    /// <summary>How many findings of each area are still to judge.</summary>
    public async Task<IReadOnlyDictionary<string, int>> ToJudgeAsync(Guid run, CancellationToken cancel = default) =>
        (await scope.Command("SELECT area, sum(to_judge)::int FROM run_count WHERE run_id = $1 AND to_judge > 0 GROUP BY area", run).ListAsync(r => (r.GetString(0), r.GetInt32(1)), cancel))
            .ToDictionary(p => p.Item1, p => p.Item2, StringComparer.Ordinal);

    private Task<IReadOnlyList<FindingRow>> ListAsync(Guid run, FindingFilter filter, string from, int position, string order, int count, string? check, bool isOther, CancellationToken cancel)
    {
        var values = new List<object?> { run, position };
        var sql = new StringBuilder($"SELECT {Columns}{Source} WHERE f.run_id = $1 AND ").AppendFormat(CultureInfo.InvariantCulture, from, "$2");
        Limit(sql, values, filter, check, isOther);
        values.Add(count);
        sql.Append(CultureInfo.InvariantCulture, $" ORDER BY {order} LIMIT ${values.Count}");
        return scope.Command(sql.ToString(), [.. values]).ListAsync(Read, cancel);
    }

    internal static void Limit(StringBuilder sql, List<object?> values, FindingFilter filter, string? check, bool isOther = false)
    {
        Add("f.area = {0}", filter.Area);
        Add("f.certainty = {0}", filter.Certainty);
        Add("coalesce(c.verdict, 'to judge') = {0}", filter.Verdict);
        Add("f.score >= {0}", filter.MinimumScore);
        Add("f.state = {0}", filter.State);
        Add("f.cause = {0}", filter.Cause);
        Add("f.fingerprint IN (SELECT a.fingerprint FROM assignment a WHERE a.review_id = f.review_id AND a.account_id = {0})", filter.AssignedTo);
        if (filter.IsUnassigned)
        {
            sql.Append(" AND NOT EXISTS (SELECT 1 FROM assignment a WHERE a.review_id = f.review_id AND a.fingerprint = f.fingerprint)");
        }

        Add("(f.state IN ('new', 'changed', 'back') OR c.verdict_id IN (SELECT v.id FROM verdict v WHERE v.review_id = f.review_id AND v.at > {0}))", filter.Since);
        Add(isOther ? "f.check_id <> {0}" : "f.check_id = {0}", check);
        if (!string.IsNullOrWhiteSpace(filter.Text))
        {
            // The person's text is looked for as it is: its own wildcards are escaped.
            var pattern = "%" + filter.Text.Trim().Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal) + "%";
            Add("(f.message ILIKE {0} OR f.path ILIKE {0} OR f.check_id ILIKE {0} OR f.source_path ILIKE {0} OR f.search ILIKE {0})", pattern);
        }

        void Add(string condition, object? value)
        {
            if (value is not (null or ""))
            {
                values.Add(value);
                sql.Append(" AND ").AppendFormat(CultureInfo.InvariantCulture, condition, "$" + values.Count);
            }
        }
    }

    private static FindingRow Read(NpgsqlDataReader r) => Read(r, 0);

    internal static FindingRow Read(NpgsqlDataReader r, int at) => new(
        r.GetInt64(at), r.GetString(at + 1), r.GetString(at + 2), r.GetString(at + 3), r.GetDecimal(at + 4), r.GetString(at + 5), r.GetInt32(at + 6), r.GetString(at + 7), r.GetString(at + 8), r.GetString(at + 9), r.GetInt32(at + 10))
    {
        State = r.Text(at + 11),
        OpenWays = r.GetInt32(at + 12),
        Ways = r.GetInt32(at + 13),
        SourcePath = r.Text(at + 14) ?? r.GetString(at + 5),
        SourceLine = r.Nullable<int>(at + 15) ?? r.GetInt32(at + 6),
        Cause = r.Nullable<int>(at + 16),
    };
}
