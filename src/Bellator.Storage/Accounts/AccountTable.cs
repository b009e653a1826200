using Npgsql;

namespace Bellator.Storage.Accounts;

/// <summary>Accounts, and the log of what happened to them.</summary>
public sealed class AccountTable(Database database)
{
    private const string Columns = "id, email, email_key, name, password_hash, security_stamp, version";

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

    /// <summary>Writes an account as it was changed since it was read.</summary>
    /// <returns>False if somebody else has changed it meanwhile: nothing is written then.</returns>
    public async Task<bool> UpdateAsync(Account account, CancellationToken cancel = default)
    {
        await using var connection = await database.Web.OpenConnectionAsync(cancel);
        var written = await Sql.Command(
            connection,
            "UPDATE account SET email = $3, email_key = $4, name = $5, password_hash = $6, security_stamp = $7, version = version + 1 WHERE id = $1 AND version = $2",
            account.Id,
            account.Version,
            account.Email,
            account.EmailKey,
            account.Name,
            account.PasswordHash,
            account.SecurityStamp).RunAsync(cancel) == 1;
        account.Version += written ? 1 : 0;
        return written;
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
        Version = reader.GetInt32(6),
    };
}
