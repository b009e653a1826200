using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>
/// Keeps Identity's users in our account table through plain ADO.NET. Their name is their address. Nobody registers by themselves: a
/// colleague who has an account makes one, so an address is not confirmed by mail.
/// </summary>
public sealed class AccountStore(AccountTable accounts)
    : IUserPasswordStore<Account>, IUserSecurityStampStore<Account>
{
    public Task<string> GetUserIdAsync(Account user, CancellationToken cancellationToken) => Task.FromResult(user.Id.ToString());

    public Task<string?> GetUserNameAsync(Account user, CancellationToken cancellationToken) => Task.FromResult<string?>(user.Email);

    public Task SetUserNameAsync(Account user, string? userName, CancellationToken cancellationToken) => Set(() => user.Email = userName ?? "");

    public Task<string?> GetNormalizedUserNameAsync(Account user, CancellationToken cancellationToken) => Task.FromResult<string?>(user.EmailKey);

    public Task SetNormalizedUserNameAsync(Account user, string? normalizedName, CancellationToken cancellationToken) => Set(() => user.EmailKey = normalizedName ?? "");

    public async Task<IdentityResult> CreateAsync(Account user, CancellationToken cancellationToken) =>
        await accounts.InsertAsync(user, cancellationToken)
            ? IdentityResult.Success
            : IdentityResult.Failed(new IdentityError { Code = "Taken", Description = "There is an account with this address already." });

    public async Task<IdentityResult> UpdateAsync(Account user, CancellationToken cancellationToken) =>
        await accounts.UpdateAsync(user, cancellationToken)
            ? IdentityResult.Success
            : IdentityResult.Failed(new IdentityError { Code = "Changed", Description = "The account was changed by somebody else at the same time; nothing was written. Try again." });

    public Task<IdentityResult> DeleteAsync(Account user, CancellationToken cancellationToken) =>
        Task.FromResult(IdentityResult.Failed(new IdentityError { Code = "Kept", Description = "Accounts are kept: verdicts carry their names." }));

    public Task<Account?> FindByIdAsync(string userId, CancellationToken cancellationToken) =>
        Guid.TryParse(userId, out var id) ? accounts.FindAsync(id, cancellationToken) : Task.FromResult<Account?>(null);

    public Task<Account?> FindByNameAsync(string normalizedUserName, CancellationToken cancellationToken) => accounts.FindByEmailAsync(normalizedUserName, cancellationToken);

    public Task SetPasswordHashAsync(Account user, string? passwordHash, CancellationToken cancellationToken) => Set(() => user.PasswordHash = passwordHash ?? "");

    public Task<string?> GetPasswordHashAsync(Account user, CancellationToken cancellationToken) => Task.FromResult<string?>(user.PasswordHash);

    public Task<bool> HasPasswordAsync(Account user, CancellationToken cancellationToken) => Task.FromResult(user.PasswordHash.Length > 0);

    public Task SetSecurityStampAsync(Account user, string stamp, CancellationToken cancellationToken) => Set(() => user.SecurityStamp = stamp);

    public Task<string?> GetSecurityStampAsync(Account user, CancellationToken cancellationToken) => Task.FromResult<string?>(user.SecurityStamp);

    public void Dispose()
    {
    }

    private static Task Set(Action change)
    {
        change();
        return Task.CompletedTask;
    }
}
