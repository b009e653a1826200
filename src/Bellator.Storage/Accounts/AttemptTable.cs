using System.Security.Cryptography;
using System.Text;

namespace Bellator.Storage.Accounts;

/// <summary>How many wrong tries are free, how fast they are forgiven, and how long the wait for the next one may become.</summary>
public sealed record AttemptPolicy(int Free, TimeSpan Forgiven, TimeSpan Longest);

/// <summary>Counts tries to guess something, in the database and before they are judged, so that tries at the same time count too.</summary>
public sealed class AttemptTable(Database database)
{
    private static readonly TimeSpan Kept = TimeSpan.FromDays(2);

    /// <param name="key">What is counted for: an account, a device, a source.</param>
    /// <returns>False if the try comes too early. It is not to be judged then.</returns>
    public async Task<bool> BeginAsync(string key, AttemptPolicy policy, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, "SELECT begin_attempt($1, $2, $3, $4)", HashOf(key), policy.Free, policy.Forgiven, policy.Longest).FirstAsync(r => r.GetBoolean(0), cancel);
    }

    /// <summary>The try was right: what was counted before it is forgotten.</summary>
    public async Task ForgetAsync(string key, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "DELETE FROM attempt_count WHERE key = $1 OR last_at < now() - $2", HashOf(key), Kept).RunAsync(cancel);
    }

    /// <summary>The try was right, but others are counted under the same key: only this one is taken back.</summary>
    public async Task TakeBackAsync(string key, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "UPDATE attempt_count SET failures = greatest(0, failures - 1) WHERE key = $1", HashOf(key)).RunAsync(cancel);
    }

    private static byte[] HashOf(string key) => SHA256.HashData(Encoding.UTF8.GetBytes(key));
}
