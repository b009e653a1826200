using Npgsql;

namespace Bellator.Storage.Accounts;

/// <summary>Accounts, their sessions, and the log of what happened to them.</summary>
public sealed class AccountTable(Database database)
{
    private const string Columns = "id, email, email_key, name, password_hash, security_stamp, failed_count, lockout_end";

    public async Task<Account?> FindAsync(Guid id, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, $"SELECT {Columns} FROM account WHERE id = $1", id).FirstAsync(Read, cancel);
    }

    public async Task<Account?> FindByEmailAsync(string emailKey, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, $"SELECT {Columns} FROM account WHERE email_key = $1", emailKey).FirstAsync(Read, cancel);
    }

    public async Task<bool> AnyAsync(CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, "SELECT EXISTS (SELECT 1 FROM account)").FirstAsync(r => r.GetBoolean(0), cancel);
    }

    /// <returns>False if the address is taken.</returns>
    public async Task<bool> InsertAsync(Account account, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(
            connection,
            "INSERT INTO account (id, email, email_key, name, password_hash, security_stamp) VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (email_key) DO NOTHING",
            account.Id,
            account.Email,
            account.EmailKey,
            account.Name,
            account.PasswordHash,
            account.SecurityStamp).RunAsync(cancel) == 1;
    }

    public async Task UpdateAsync(Account account, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(
            connection,
            "UPDATE account SET email = $2, email_key = $3, name = $4, password_hash = $5, security_stamp = $6, failed_count = $7, lockout_end = $8 WHERE id = $1",
            account.Id,
            account.Email,
            account.EmailKey,
            account.Name,
            account.PasswordHash,
            account.SecurityStamp,
            account.FailedCount,
            account.LockoutEnd?.ToUniversalTime()).RunAsync(cancel);
    }

    public async Task SaveSessionAsync(byte[] keyHash, Guid account, byte[] ticket, DateTimeOffset expires, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(
            connection,
            "INSERT INTO session (key_hash, account_id, ticket, expires_at) VALUES ($1, $2, $3, $4) ON CONFLICT (key_hash) DO UPDATE SET ticket = $3, expires_at = $4",
            keyHash,
            account,
            ticket,
            expires.ToUniversalTime()).RunAsync(cancel);
        await Sql.Command(connection, "DELETE FROM session WHERE expires_at < now()").RunAsync(cancel);
    }

    public async Task<byte[]?> FindSessionAsync(byte[] keyHash, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        return await Sql.Command(connection, "SELECT ticket FROM session WHERE key_hash = $1 AND expires_at > now()", keyHash)
            .FirstAsync(r => r.GetFieldValue<byte[]>(0), cancel);
    }

    public async Task EndSessionAsync(byte[] keyHash, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "DELETE FROM session WHERE key_hash = $1", keyHash).RunAsync(cancel);
    }

    /// <summary>Ends every session of an account, as after a change of password.</summary>
    public async Task EndSessionsAsync(Guid account, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "DELETE FROM session WHERE account_id = $1", account).RunAsync(cancel);
    }

    public async Task LogAsync(Guid? account, string happened, string detail, string address, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        await Sql.Command(connection, "INSERT INTO audit_log (account_id, event, detail, address) VALUES ($1, $2, $3, $4)", account, happened, detail, address).RunAsync(cancel);
    }

    private static Account Read(NpgsqlDataReader reader) => new()
    {
        Id = reader.GetGuid(0),
        Email = reader.GetString(1),
        EmailKey = reader.GetString(2),
        Name = reader.GetString(3),
        PasswordHash = reader.GetString(4),
        SecurityStamp = reader.GetString(5),
        FailedCount = reader.GetInt32(6),
        LockoutEnd = reader.Nullable<DateTimeOffset>(7),
    };
}
