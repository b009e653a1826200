namespace Bellator.Storage.Reviews;

/// <summary>What a review keeps of captured traffic, sealed.</summary>
/// <param name="By">Who asked for it.</param>
public sealed record KeptCapture(byte[] Sealed, string By, DateTime At);

/// <summary>Captures that a reviewer asked to keep with a review. The worker has no right to see them, and the database cannot read them.</summary>
public sealed class KeptCaptures(AccountScope scope)
{
    public Task<KeptCapture?> OfAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("SELECT k.sealed, a.name, k.at FROM kept_capture k JOIN account a ON a.id = k.account_id WHERE k.review_id = $1", review)
            .FirstAsync(r => new KeptCapture(r.GetFieldValue<byte[]>(0), r.GetString(1), r.GetDateTime(2)), cancel);

    /// <summary>Keeps it in the place of the one before.</summary>
    public Task<int> KeepAsync(Guid review, byte[] sealedReport, CancellationToken cancel = default) => scope.Command(
        """
        INSERT INTO kept_capture (review_id, sealed, account_id) VALUES ($1, $2, $3)
        ON CONFLICT (review_id) DO UPDATE SET sealed = $2, account_id = $3, at = now()
        """,
        review,
        sealedReport,
        scope.Account).RunAsync(cancel);

    public Task<int> ForgetAsync(Guid review, CancellationToken cancel = default) =>
        scope.Command("DELETE FROM kept_capture WHERE review_id = $1", review).RunAsync(cancel);
}
