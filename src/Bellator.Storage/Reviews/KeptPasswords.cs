using System.Text.Json;
using Bellator.Passwords;

namespace Bellator.Storage.Reviews;

/// <summary>A table of stored passwords that a review keeps.</summary>
/// <param name="By">Who asked for it.</param>
public sealed record KeptPasswordRows(IReadOnlyList<StoredPassword> Rows, string By, DateTime At);

/// <summary>Stored passwords that a reviewer asked to keep with a review. The worker has no right to see them.</summary>
public sealed class KeptPasswords(AccountScope scope)
{
    public Task<KeptPasswordRows?> OfAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("SELECT k.rows, a.name, k.at FROM kept_passwords k JOIN account a ON a.id = k.account_id WHERE k.review_id = $1", review)
            .FirstAsync(r => new KeptPasswordRows(JsonSerializer.Deserialize<List<StoredPassword>>(r.GetString(0)) ?? [], r.GetString(1), r.GetDateTime(2)), cancel);

    /// <summary>Keeps the table in the place of the one before.</summary>
    public Task<int> KeepAsync(Guid review, IReadOnlyList<StoredPassword> rows, CancellationToken cancel = default) => scope.Command(
        """
        INSERT INTO kept_passwords (review_id, rows, account_id) VALUES ($1, $2::jsonb, $3)
        ON CONFLICT (review_id) DO UPDATE SET rows = $2::jsonb, account_id = $3, at = now()
        """,
        review,
        JsonSerializer.Serialize(rows, DatabaseText.Json),
        scope.Account).RunAsync(cancel);

    public Task<int> ForgetAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("DELETE FROM kept_passwords WHERE review_id = $1", review).RunAsync(cancel);
}
