using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>
/// Looks at a sign-in. Unknown addresses, wrong passwords and tries that come too early take the same work and get the same words: from
/// outside they are one thing.
/// </summary>
public sealed class SignInDesk(UserManager<Account> users, AccountTable accounts, GuessingGuard guard, Argon2PasswordHasher hasher, Sessions sessions)
{
    private static readonly Account Nobody = new();

    /// <exception cref="BusyException">More sign-ins are being looked at than the machine can bear.</exception>
    public async Task<bool> SignInAsync(HttpContext context, string email, string password)
    {
        var key = users.NormalizeName(email)!;
        var account = await accounts.FindByEmailAsync(key, context.RequestAborted);
        var counted = await guard.BeginAsync(context, key, account);
        var verified = await hasher.VerifyAsync(account ?? Nobody, account?.PasswordHash ?? hasher.NobodysHash, password, context.RequestAborted);
        if (account is null || counted is null || verified == PasswordVerificationResult.Failed)
        {
            await accounts.LogAsync(account?.Id, counted is null ? "sign-in too early" : "sign-in refused", "", context.Source());
            return false;
        }

        if (verified == PasswordVerificationResult.SuccessRehashNeeded)
        {
            account.PasswordHash = hasher.HashPassword(account, password);
            await accounts.UpdateAsync(account);
        }

        if (!await sessions.BeginAsync(context, account))
        {
            // The password was changed while this one was looked at: it is no longer the right one.
            await accounts.LogAsync(account.Id, "sign-in refused", "the password was changed meanwhile", context.Source());
            return false;
        }

        await guard.SucceededAsync(context, account, counted);
        await accounts.LogAsync(account.Id, "signed in", "", context.Source());
        return true;
    }
}
