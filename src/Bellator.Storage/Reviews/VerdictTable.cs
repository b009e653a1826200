using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>A verdict on several findings at once.</summary>
/// <param name="Seen">The newest verdict of the review that the person had on the screen: what somebody else judged since then is not overwritten.</param>
public sealed record Judgement(IReadOnlyList<string> Fingerprints, string Verdict, string Reason, DateOnly? Until = null, long? Seen = null);

/// <summary>Verdicts, as one account sees and gives them. Nothing is overwritten: the newest counts.</summary>
public sealed class VerdictTable(AccountScope scope)
{
    public const int MostAtOnce = 20_000;

    /// <returns>The judgement's own number, by which all of it can be taken back, and the findings that somebody else judged meanwhile and that were left as they are.</returns>
    public async Task<(Guid Batch, IReadOnlyList<string> Left)> JudgeAsync(Guid review, Judgement judgement, CancellationToken cancel = default)
    {
        var batch = Guid.CreateVersion7();
        await scope.Command("SELECT pg_advisory_xact_lock(hashtextextended($1, 0))", review.ToString()).RunAsync(cancel);
        var left = judgement.Seen is not { } seen ? [] : await scope.Command(
            "SELECT c.fingerprint FROM current_verdict c JOIN verdict v ON v.id = c.verdict_id WHERE c.review_id = $1 AND c.fingerprint = ANY ($2) AND c.verdict_id > $3 AND v.account_id IS DISTINCT FROM $4",
            review,
            judgement.Fingerprints.ToArray(),
            seen,
            scope.Account).ListAsync(r => r.GetString(0), cancel);
        await scope.Command(
            """
            INSERT INTO verdict (review_id, fingerprint, verdict, reason, account_id, batch, until)
            SELECT $1, f, $3, $4, $5, $6, $7 FROM (SELECT DISTINCT unnest($2::text[]) AS f) x WHERE NOT f = ANY ($8) AND EXISTS (SELECT 1 FROM finding y WHERE y.review_id = $1 AND y.fingerprint = f UNION ALL SELECT 1 FROM gone g WHERE g.review_id = $1 AND g.fingerprint = f)
            """,
            review,
            judgement.Fingerprints.ToArray(),
            judgement.Verdict,
            judgement.Reason,
            scope.Account,
            batch,
            judgement.Until,
            left.ToArray()).RunAsync(cancel);
        return (batch, left);
    }

    /// <summary>Takes a judgement back: what held before it holds again, where nobody has judged since.</summary>
    /// <returns>How many verdicts were taken back.</returns>
    public async Task<int> UndoAsync(Guid review, Guid batch, CancellationToken cancel = default)
    {
        await scope.Command("SELECT pg_advisory_xact_lock(hashtextextended($1, 0))", review.ToString()).RunAsync(cancel);
        return await scope.Command(
            """
            INSERT INTO verdict (review_id, fingerprint, verdict, reason, account_id, undoes, until)
            SELECT v.review_id, v.fingerprint, coalesce(p.verdict, 'to judge'), coalesce(p.reason, 'taken back'), $3, v.id, p.until
            FROM verdict v JOIN current_verdict c ON c.review_id = v.review_id AND c.fingerprint = v.fingerprint AND c.verdict_id = v.id
            LEFT JOIN LATERAL (SELECT o.verdict, o.reason, o.until FROM verdict o WHERE o.review_id = v.review_id AND o.fingerprint = v.fingerprint AND o.id < v.id ORDER BY o.id DESC LIMIT 1) p ON true
            WHERE v.review_id = $1 AND v.batch = $2
            """,
            review,
            batch,
            scope.Account).RunAsync(cancel);
    }

    /// <summary>The newest verdict of a review: what a page was made with.</summary>
    public Task<long> NewestAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("SELECT coalesce(max(verdict_id), 0) FROM current_verdict WHERE review_id = $1", review).FirstAsync(r => r.GetInt64(0), cancel);

    public Task<IReadOnlyList<VerdictRow>> HistoryAsync(Guid review, string fingerprint, CancellationToken cancel = default) => scope.Command(
        """
        SELECT v.id, v.verdict, v.reason, a.name, v.at, v.batch, v.until, v.undoes IS NOT NULL OR EXISTS (SELECT 1 FROM verdict u WHERE u.undoes = v.id)
        FROM verdict v LEFT JOIN account a ON a.id = v.account_id WHERE v.review_id = $1 AND v.fingerprint = $2 ORDER BY v.id DESC LIMIT 200
        """,
        review,
        fingerprint).ListAsync(r => new VerdictRow(r.GetInt64(0), r.GetString(1), r.GetString(2), r.Text(3), r.GetFieldValue<DateTimeOffset>(4), r.Nullable<Guid>(5), r.Nullable<DateOnly>(6), r.GetBoolean(7)), cancel);

    /// <summary>Reasons that were given in this review, the most frequent first.</summary>
    public Task<IReadOnlyList<string>> ReasonsAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        "SELECT reason FROM (SELECT reason, id FROM verdict WHERE review_id = $1 AND account_id IS NOT NULL AND undoes IS NULL ORDER BY id DESC LIMIT 500) x GROUP BY reason ORDER BY count(*) DESC, max(id) DESC LIMIT 12",
        review).ListAsync(r => r.GetString(0), cancel);

    /// <summary>The names that all findings of a cause are known by.</summary>
    public Task<IReadOnlyList<string>> OfCauseAsync(Guid run, int cause, CancellationToken cancel = default) =>
        scope.Command("SELECT fingerprint FROM finding WHERE run_id = $1 AND cause = $2 LIMIT $3", run, cause, MostAtOnce).ListAsync(r => r.GetString(0), cancel);
}
