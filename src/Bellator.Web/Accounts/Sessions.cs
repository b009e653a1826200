using System.Security.Claims;
using Bellator.Storage.Accounts;
using Bellator.Web.Security;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace Bellator.Web.Accounts;

/// <summary>Begins and ends sessions, and asks at every request whether the one that it names still holds.</summary>
public sealed class Sessions(SessionTable table)
{
    public const string Scheme = CookieAuthenticationDefaults.AuthenticationScheme;

    internal const string KeyClaim = "session";

    /// <summary>Begins a session, of which the key is always a new one; the session that the browser had before is over.</summary>
    /// <returns>False if the account was changed since it was read, as by a change of password: nobody is signed in.</returns>
    public async Task<bool> BeginAsync(HttpContext context, Account account)
    {
        if (await table.BeginAsync(account, context.RequestAborted) is not { } key)
        {
            return false;
        }

        if (context.User.SessionKey() is { Length: > 0 } before)
        {
            await table.EndAsync(before, context.RequestAborted);
        }

        var identity = new ClaimsIdentity(
            [new(ClaimTypes.NameIdentifier, account.Id.ToString()), new(ClaimTypes.Name, account.Email), new("name", account.Name), new(KeyClaim, key)],
            Scheme);
        await context.SignInAsync(Scheme, new ClaimsPrincipal(identity), new AuthenticationProperties { IsPersistent = false });
        return true;
    }

    /// <summary>Ends the session on the server, and then takes its cookie back.</summary>
    public async Task EndAsync(HttpContext context)
    {
        if (context.User.SessionKey() is { Length: > 0 } key)
        {
            await table.EndAsync(key);
        }

        await context.SignOutAsync(Scheme);
    }

    internal static async Task CheckAsync(CookieValidatePrincipalContext context)
    {
        var table = context.HttpContext.RequestServices.GetRequiredService<SessionTable>();
        Guid? account = null;
        try
        {
            account = context.Principal?.SessionKey() is { Length: > 0 } key ? await table.UseAsync(key, context.HttpContext.RequestAborted) : null;
        }
        catch (Exception e) when (RequestRules.IsAway(e))
        {
            // The page that says so must not need the database: it is shown as to a stranger, and every other one is not shown.
            context.HttpContext.Items[RequestRules.AwayItem] = e;
        }

        if (account is null || account.ToString() != context.Principal!.FindFirstValue(ClaimTypes.NameIdentifier))
        {
            context.RejectPrincipal();
        }
    }
}
