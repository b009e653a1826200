using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>What reviewers state of the audited code, as one account sees it.</summary>
public sealed class FactTable(AccountScope scope)
{
    /// <summary>So many of a review are listed; the newest first.</summary>
    public const int MostListed = 200;

    private const string Columns =
        """
        SELECT f.id, f.title, f.facts, f.reason, f.fingerprint, f.state, a.name, f.at, d.name, f.decided_at, (SELECT count(*)::int FROM fact_answer x WHERE x.fact_id = f.id),
          (SELECT r.id FROM run r WHERE r.trial_of = f.id ORDER BY r.created_at DESC LIMIT 1)
        FROM review_fact f JOIN account a ON a.id = f.account_id LEFT JOIN account d ON d.id = f.decided_by
        """;

    public Task<IReadOnlyList<FactRow>> ListAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command($"{Columns} WHERE f.review_id = $1 ORDER BY f.state = 'proposed' DESC, f.state = 'kept' DESC, f.id DESC LIMIT {MostListed}", review).ListAsync(Read, cancel);

    public Task<FactRow?> FindAsync(Guid review, long id, CancellationToken cancel = default) =>
        scope.Command($"{Columns} WHERE f.review_id = $1 AND f.id = $2", review, id).FirstAsync(Read, cancel);

    /// <summary>Notes a fact that is to be tried.</summary>
    /// <param name="fingerprint">The finding over which it came up, if one did.</param>
    public Task<long> ProposeAsync(Guid review, string title, string facts, string reason, string? fingerprint, CancellationToken cancel = default) => scope.Command(
        "INSERT INTO review_fact (review_id, title, facts, reason, fingerprint, account_id) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id",
        review,
        title,
        facts,
        reason,
        fingerprint,
        scope.Account).FirstAsync(r => r.GetInt64(0), cancel);

    /// <param name="decision">keep, off or try.</param>
    /// <returns>False if it cannot be decided so: a fact that was not tried is not kept.</returns>
    public Task<bool> DecideAsync(long fact, string decision, CancellationToken cancel = default) =>
        scope.Command("SELECT decide_fact($1, $2)", fact, decision).FirstAsync(r => r.GetBoolean(0), cancel);

    private static FactRow Read(NpgsqlDataReader r) => new(
        r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetString(3), r.Text(4), r.GetString(5), r.GetString(6), r.GetFieldValue<DateTimeOffset>(7), r.Text(8), r.Nullable<DateTimeOffset>(9), r.GetInt32(10), r.Nullable<Guid>(11));
}
