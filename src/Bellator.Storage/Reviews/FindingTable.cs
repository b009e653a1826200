using System.Text;
using System.Text.Json;
using Bellator.Core.Auditing;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Findings and verdicts, as one account sees them.</summary>
public sealed class FindingTable(AccountScope scope)
{
    internal const string CurrentVerdict =
        "coalesce((SELECT v.verdict FROM verdict v WHERE v.review_id = f.review_id AND v.fingerprint = f.fingerprint ORDER BY v.id DESC LIMIT 1), 'to judge')";

    private const string Columns = "f.id, f.check_id, f.area, f.certainty, f.score, f.path, f.line, f.message, f.fingerprint, " + CurrentVerdict + " AS verdict";

    public Task<IReadOnlyList<FindingRow>> ListAsync(Guid run, FindingFilter filter, CancellationToken cancel = default)
    {
        var sql = new StringBuilder($"SELECT * FROM (SELECT {Columns}, f.position FROM finding f WHERE f.run_id = $1) x WHERE true");
        var values = new List<object?> { run };
        Limit("area = {0}", filter.Area);
        Limit("certainty = {0}", filter.Certainty);
        Limit("verdict = {0}", filter.Verdict);
        Limit("score >= {0}", filter.MinimumScore);
        if (!string.IsNullOrWhiteSpace(filter.Text))
        {
            // The person's text is looked for as it is: its own wildcards are escaped.
            var pattern = "%" + filter.Text.Trim().Replace("\\", "\\\\", StringComparison.Ordinal).Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal) + "%";
            Limit("(message ILIKE {0} OR path ILIKE {0} OR check_id ILIKE {0})", pattern);
        }

        sql.Append(" ORDER BY position");
        return scope.Command(sql.ToString(), [.. values]).ListAsync(Read, cancel);

        void Limit(string condition, object? value)
        {
            if (value is not (null or ""))
            {
                values.Add(value);
                sql.Append(" AND ").AppendFormat(System.Globalization.CultureInfo.InvariantCulture, condition, "$" + values.Count);
            }
        }
    }

    public Task<FindingRow?> FindAsync(Guid review, long id, CancellationToken cancel = default) =>
        scope.Command($"SELECT {Columns} FROM finding f WHERE f.id = $1 AND f.review_id = $2", id, review).FirstAsync(Read, cancel);

    public async Task<(Guid Snapshot, ReportedFinding Finding)?> DetailAsync(Guid review, long id, CancellationToken cancel = default)
    {
        var found = await scope.Command("SELECT n.snapshot_id, f.detail FROM finding f JOIN run n ON n.id = f.run_id WHERE f.id = $1 AND f.review_id = $2", id, review)
            .FirstAsync(r => ((Guid, string)?)(r.GetGuid(0), r.GetString(1)), cancel);
        return found is { } row ? (row.Item1, JsonSerializer.Deserialize<ReportedFinding>(row.Item2)!) : null;
    }

    /// <summary>All findings of a run in full, for reports.</summary>
    public async Task<IReadOnlyList<ReportedFinding>> AllAsync(Guid run, CancellationToken cancel = default) =>
        await scope.Command("SELECT detail FROM finding WHERE run_id = $1 ORDER BY position", run)
            .ListAsync(r => JsonSerializer.Deserialize<ReportedFinding>(r.GetString(0))!, cancel);

    /// <summary>How many findings of each area are still to judge.</summary>
    public async Task<IReadOnlyDictionary<string, int>> ToJudgeAsync(Guid review, CancellationToken cancel = default) => (await scope.Command(
        $"SELECT f.area, count(*)::int FROM review r JOIN finding f ON f.run_id = ({RunTable.LatestDone}) WHERE r.id = $1 AND {CurrentVerdict} = 'to judge' GROUP BY f.area",
        review).ListAsync(r => (r.GetString(0), r.GetInt32(1)), cancel)).ToDictionary(p => p.Item1, p => p.Item2, StringComparer.Ordinal);

    public Task JudgeAsync(Guid review, string fingerprint, string verdict, string reason, CancellationToken cancel = default) => scope.Command(
        "INSERT INTO verdict (review_id, fingerprint, verdict, reason, account_id) VALUES ($1, $2, $3, $4, $5)",
        review,
        fingerprint,
        verdict,
        reason,
        scope.Account).RunAsync(cancel);

    public Task<IReadOnlyList<VerdictRow>> HistoryAsync(Guid review, string fingerprint, CancellationToken cancel = default) => scope.Command(
        "SELECT v.verdict, v.reason, a.name, v.at FROM verdict v JOIN account a ON a.id = v.account_id WHERE v.review_id = $1 AND v.fingerprint = $2 ORDER BY v.id DESC",
        review,
        fingerprint).ListAsync(r => new VerdictRow(r.GetString(0), r.GetString(1), r.GetString(2), r.GetFieldValue<DateTimeOffset>(3)), cancel);

    private static FindingRow Read(NpgsqlDataReader r) => new(
        r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), r.GetDecimal(4), r.GetString(5), r.GetInt32(6), r.GetString(7), r.GetString(8), r.GetString(9));
}
