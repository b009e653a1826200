using System.Security.Cryptography;
using System.Text;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.DataProtection;

namespace Bellator.Web.Accounts;

/// <summary>
/// Slows guessing down without a lock that strangers could put on somebody's account: wrong tries count for the account, but a browser
/// that has signed in to it before counts for itself. NIST SP 800-63B-4, section 3.2.2 (from memory): growing delays, and what is known
/// of the device, are ways to limit guessing that do not lock the owner out.
/// </summary>
public sealed class GuessingGuard(AttemptTable attempts, IDataProtectionProvider protection)
{
    private static readonly TimeSpan DeviceTime = TimeSpan.FromDays(180);
    private static readonly AttemptPolicy Account = new(5, TimeSpan.FromMinutes(10), TimeSpan.FromMinutes(15));
    private static readonly AttemptPolicy Source = new(40, TimeSpan.FromSeconds(20), TimeSpan.FromMinutes(1));
    private readonly ITimeLimitedDataProtector _devices = protection.CreateProtector("bellator.device").ToTimeLimitedDataProtector();

    /// <summary>A try that was counted; null keys were not.</summary>
    public sealed record Try(string Key, string? SourceKey);

    /// <summary>Counts a try to sign in before its password is looked at.</summary>
    /// <returns>Null if it comes too early.</returns>
    public async Task<Try?> BeginAsync(HttpContext context, string emailKey, Account? account)
    {
        var device = account is null ? null : DeviceOf(context, account.Id);
        var source = "source:" + context.Source();
        if (device is null && !await attempts.BeginAsync(source, Source, context.RequestAborted))
        {
            return null;
        }

        var key = device is null ? "account:" + emailKey : $"device:{device}:{emailKey}";
        return await attempts.BeginAsync(key, Account, context.RequestAborted) ? new Try(key, device is null ? source : null) : null;
    }

    /// <summary>Counts a try to give the current password of a session's account.</summary>
    public Task<bool> BeginCurrentAsync(Guid account, CancellationToken cancel) => attempts.BeginAsync("current:" + account, Account, cancel);

    public Task EndCurrentAsync(Guid account) => attempts.ForgetAsync("current:" + account);

    /// <summary>The try was right: it is not held against anybody, and the browser is known from now on.</summary>
    public async Task SucceededAsync(HttpContext context, Account account, Try done)
    {
        await attempts.ForgetAsync(done.Key);
        if (done.SourceKey is { } source)
        {
            await attempts.TakeBackAsync(source);
        }

        var device = DeviceOf(context, account.Id) ?? Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16));
        context.Response.Cookies.Append(CookieOf(account.Id), _devices.Protect($"{account.Id:n}{device}", DeviceTime), new CookieOptions
        {
            HttpOnly = true,
            Secure = true,
            SameSite = SameSiteMode.Strict,
            Path = "/",
            MaxAge = DeviceTime,
            IsEssential = true,
        });
    }

    private string? DeviceOf(HttpContext context, Guid account)
    {
        if (context.Request.Cookies[CookieOf(account)] is not { } cookie)
        {
            return null;
        }

        try
        {
            var text = _devices.Unprotect(cookie);
            return text.StartsWith(account.ToString("n"), StringComparison.Ordinal) ? text[32..] : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }

    /// <summary>People of one household share a browser: each account has a cookie of its own.</summary>
    private static string CookieOf(Guid account) => "__Host-bellator-device-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.ASCII.GetBytes(account.ToString("n"))).AsSpan(0, 4));
}
