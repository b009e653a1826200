namespace Bellator.Storage.Reviews;

/// <summary>How members of a review share its work: notes, assignments, saved choices, and what they saw last.</summary>
public sealed class TeamworkTable(AccountScope scope)
{
    public Task NoteAsync(Guid review, string fingerprint, string text, CancellationToken cancel = default) =>
        scope.Command("INSERT INTO finding_note (review_id, fingerprint, text, account_id) VALUES ($1, $2, $3, $4)", review, fingerprint, text, scope.Account).RunAsync(cancel);

    public Task<IReadOnlyList<NoteRow>> NotesAsync(Guid review, string fingerprint, CancellationToken cancel = default) => scope.Command(
        "SELECT n.id, n.text, a.name, n.at FROM finding_note n JOIN account a ON a.id = n.account_id WHERE n.review_id = $1 AND n.fingerprint = $2 ORDER BY n.id LIMIT 200",
        review,
        fingerprint).ListAsync(r => new NoteRow(r.GetInt64(0), r.GetString(1), r.GetString(2), r.GetFieldValue<DateTimeOffset>(3)), cancel);

    /// <param name="account">Nobody, if it is null.</param>
    public Task AssignAsync(Guid review, IReadOnlyList<string> fingerprints, Guid? account, CancellationToken cancel = default) => account is null
        ? scope.Command("DELETE FROM assignment WHERE review_id = $1 AND fingerprint = ANY ($2)", review, fingerprints.ToArray()).RunAsync(cancel)
        : scope.Command(
            "INSERT INTO assignment (review_id, fingerprint, account_id, by_account) SELECT $1, f, $3, $4 FROM (SELECT DISTINCT unnest($2::text[]) AS f) x ON CONFLICT (review_id, fingerprint) DO UPDATE SET account_id = $3, by_account = $4, at = now()",
            review,
            fingerprints.ToArray(),
            account.Value,
            scope.Account).RunAsync(cancel);

    public Task<IReadOnlyList<(string Fingerprint, string Name)>> AssignedAsync(Guid review, IReadOnlyList<string> fingerprints, CancellationToken cancel = default) => scope.Command(
        "SELECT s.fingerprint, a.name FROM assignment s JOIN account a ON a.id = s.account_id WHERE s.review_id = $1 AND s.fingerprint = ANY ($2)",
        review,
        fingerprints.ToArray()).ListAsync(r => (r.GetString(0), r.GetString(1)), cancel);

    /// <summary>Saves a choice; one of the same name is replaced.</summary>
    public async Task SaveFilterAsync(Guid review, string name, string query, CancellationToken cancel = default)
    {
        await ForgetFilterAsync(review, name, cancel);
        await scope.Command("INSERT INTO saved_filter (review_id, name, query, account_id) VALUES ($1, $2, $3, $4)", review, name, query, scope.Account).RunAsync(cancel);
    }

    public Task ForgetFilterAsync(Guid review, string name, CancellationToken cancel = default) => scope.Command("DELETE FROM saved_filter WHERE review_id = $1 AND name = $2", review, name).RunAsync(cancel);

    public Task<IReadOnlyList<SavedFilterRow>> FiltersAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        "SELECT f.name, f.query, a.name FROM saved_filter f JOIN account a ON a.id = f.account_id WHERE f.review_id = $1 ORDER BY f.name LIMIT 40",
        review).ListAsync(r => new SavedFilterRow(r.GetString(0), r.GetString(1), r.GetString(2)), cancel);

    /// <summary>Notes that the account looks at the review.</summary>
    /// <returns>Since when things are new to it: the end of its visit before this one.</returns>
    public Task<DateTimeOffset?> VisitAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        """
        INSERT INTO visit (review_id, account_id, since, seen_at) VALUES ($1, $2, now(), now())
        ON CONFLICT (review_id, account_id) DO UPDATE SET since = CASE WHEN visit.seen_at < now() - interval '30 minutes' THEN visit.seen_at ELSE visit.since END, seen_at = now()
        RETURNING since
        """,
        review,
        scope.Account).FirstAsync(r => (DateTimeOffset?)r.GetFieldValue<DateTimeOffset>(0), cancel);
}
