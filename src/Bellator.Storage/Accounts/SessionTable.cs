using System.Security.Cryptography;
using System.Text;

namespace Bellator.Storage.Accounts;

/// <summary>
/// Sessions, as the server knows them: the cookie holds a random key, the database its digest. A session holds only as long as the
/// account's stamp is the one it began with. Times: NIST SP 800-63B-4, section 2.2.3 (AAL2, from memory): at most an hour without
/// activity, at most 24 hours in all.
/// </summary>
public sealed class SessionTable(Database database)
{
    public static readonly TimeSpan Idle = TimeSpan.FromHours(1);

    public static readonly TimeSpan Longest = TimeSpan.FromHours(12);

    /// <summary>Activity is written down this often, so that a page does not cost a write each time.</summary>
    private static readonly TimeSpan Noted = TimeSpan.FromMinutes(1);

    private const string Find = "SELECT a.id FROM session s JOIN account a ON a.id = s.account_id AND a.security_stamp = s.stamp WHERE s.key_hash = $1 AND s.seen_at > now() - $2 AND s.ends_at > now()";

    /// <summary>Begins a session of an account as it was when its password was looked at.</summary>
    /// <returns>Its key; null if the account has another stamp by now, as after a change of password.</returns>
    public async Task<string?> BeginAsync(Account account, CancellationToken cancel = default)
    {
        var key = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        var begun = await Sql.Command(
            connection,
            "INSERT INTO session (key_hash, account_id, stamp, ends_at) SELECT $1, id, security_stamp, now() + $4 FROM account WHERE id = $2 AND security_stamp = $3 FOR SHARE",
            HashOf(key),
            account.Id,
            account.SecurityStamp,
            Longest).RunAsync(cancel);
        await Sql.Command(connection, "DELETE FROM session WHERE ends_at < now() OR seen_at < now() - $1", Idle).RunAsync(cancel);
        return begun == 1 ? key : null;
    }

    /// <summary>The account that a session belongs to; null if there is none, or it is over. Counts as activity.</summary>
    public async Task<Guid?> UseAsync(string key, CancellationToken cancel = default)
    {
        // Only a row that is there is changed: a request that began before the session's end cannot bring it back.
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(
            connection,
            "WITH seen AS (UPDATE session SET seen_at = now() WHERE key_hash = $1 AND seen_at < now() - $3 AND seen_at > now() - $2 AND ends_at > now()) " + Find,
            HashOf(key),
            Idle,
            Noted).FirstAsync(r => (Guid?)r.GetGuid(0), cancel);
    }

    /// <summary>Whether a session still holds, for answers that take long. It is no activity.</summary>
    public async Task<bool> HoldsAsync(string key, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, Find, HashOf(key), Idle).FirstAsync(_ => true, cancel);
    }

    public async Task EndAsync(string key, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "DELETE FROM session WHERE key_hash = $1", HashOf(key)).RunAsync(cancel);
    }

    private static byte[] HashOf(string key) => SHA256.HashData(Encoding.UTF8.GetBytes(key));
}
