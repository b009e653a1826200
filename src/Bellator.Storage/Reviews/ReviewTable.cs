using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Reviews and their members, as one account sees them.</summary>
public sealed class ReviewTable(AccountScope scope)
{
    /// <summary>The newest so many are listed.</summary>
    public const int MostShown = 500;

    public Task<IReadOnlyList<ReviewRow>> ListAsync(CancellationToken cancel = default) => scope.Command(
        $"""
        SELECT r.id, r.name, r.created_at, (SELECT count(*)::int FROM snapshot s WHERE s.review_id = r.id AND s.number IS NOT NULL), coalesce(f.to_judge, 0), coalesce(f.total, 0),
          (SELECT c.check_id FROM run_count c JOIN cause x ON x.run_id = c.run_id AND x.check_id = c.check_id WHERE c.run_id = ({RunTable.LatestDone}) AND c.to_judge > 0 ORDER BY x.number LIMIT 1)
        FROM review r
        LEFT JOIN LATERAL (SELECT sum(total)::int AS total, sum(to_judge)::int AS to_judge FROM run_count c WHERE c.run_id = ({RunTable.LatestDone})) f ON true
        ORDER BY r.created_at DESC LIMIT {MostShown}
        """).ListAsync(r => new ReviewRow(r.GetGuid(0), r.GetString(1), r.GetFieldValue<DateTimeOffset>(2), r.GetInt32(3), r.GetInt32(4), r.GetInt32(5), r.Text(6)), cancel);

    /// <summary>Null if there is no such review, or it is somebody else's: from outside both look the same.</summary>
    public Task<string?> NameOfAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("SELECT name FROM review WHERE id = $1", review).FirstAsync(r => (string?)r.GetString(0), cancel);

    public async Task<Guid> CreateAsync(string name, CancellationToken cancel = default)
    {
        var id = Guid.CreateVersion7();
        await scope.Command("SELECT create_review($1, $2)", id, name).RunAsync(cancel);
        return id;
    }

    public Task<IReadOnlyList<MemberRow>> MembersAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        "SELECT a.id, a.name, a.email, m.is_owner FROM membership m JOIN account a ON a.id = m.account_id WHERE m.review_id = $1 ORDER BY m.is_owner DESC, a.name",
        review).ListAsync(r => new MemberRow(r.GetGuid(0), r.GetString(1), r.GetString(2), r.GetBoolean(3)), cancel);

    /// <returns>False if the current account may not add members.</returns>
    public async Task<bool> AddMemberAsync(Guid review, Guid account, CancellationToken cancel = default)
    {
        try
        {
            await scope.Command("INSERT INTO membership (review_id, account_id) VALUES ($1, $2) ON CONFLICT DO NOTHING", review, account).RunAsync(cancel);
            return true;
        }
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.InsufficientPrivilege)
        {
            return false;
        }
    }

    public async Task<bool> RemoveMemberAsync(Guid review, Guid account, CancellationToken cancel = default) =>
        await scope.Command("DELETE FROM membership WHERE review_id = $1 AND account_id = $2", review, account).RunAsync(cancel) == 1;
}
