using System.Security.Claims;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>Sign-in: Identity on our own stores, sessions on the server, a cookie that only this host receives.</summary>
public static class AccountSetup
{
    /// <summary>NIST SP 800-63B-4, section 3.1.1.2 (from memory): length counts, composition rules do not help. 15 where a password is all there is.</summary>
    public const int MinimumPasswordLength = 15;

    /// <summary>Long enough for any passphrase; a bound, so that hashing cannot be made to work on megabytes.</summary>
    public const int MaximumPasswordLength = 128;

    public static IServiceCollection AddAccounts(this IServiceCollection services)
    {
        services.AddSingleton<AccountTable>();
        services.AddSingleton<SessionTable>();
        services.AddSingleton<AttemptTable>();
        services.AddSingleton<Argon2PasswordHasher>();
        services.AddSingleton<IPasswordHasher<Account>>(s => s.GetRequiredService<Argon2PasswordHasher>());
        services.AddSingleton<GuessingGuard>();
        services.AddScoped<Sessions>();
        services.AddScoped<SignInDesk>();
        services.AddIdentityCore<Account>(options =>
        {
            options.Password.RequiredLength = MinimumPasswordLength;
            options.Password.RequireDigit = false;
            options.Password.RequireLowercase = false;
            options.Password.RequireUppercase = false;
            options.Password.RequireNonAlphanumeric = false;
            options.User.AllowedUserNameCharacters = "";
        }).AddUserStore<AccountStore>().AddPasswordValidator<GuessablePasswords>();
        services.AddAuthentication(Sessions.Scheme).AddCookie(Sessions.Scheme, options =>
        {
            options.Cookie.Name = "__Host-bellator";
            options.Cookie.HttpOnly = true;
            options.Cookie.SecurePolicy = CookieSecurePolicy.Always;
            options.Cookie.SameSite = SameSiteMode.Strict;
            options.Cookie.Path = "/";

            // The server's row decides when a session is over; the cookie only names it.
            options.ExpireTimeSpan = SessionTable.Longest;
            options.SlidingExpiration = false;
            options.LoginPath = "/sign-in";
            options.ReturnUrlParameter = "next";
            options.Events.OnValidatePrincipal = Sessions.CheckAsync;
        });
        services.AddAuthorizationBuilder().SetFallbackPolicy(new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());
        return services;
    }

    public static Guid AccountId(this ClaimsPrincipal user) => Guid.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier)!);

    /// <summary>The key of the session that a request belongs to.</summary>
    public static string SessionKey(this ClaimsPrincipal user) => user.FindFirstValue(Sessions.KeyClaim) ?? "";

    /// <summary>Where a request comes from, for the log and for counting tries.</summary>
    public static string Source(this HttpContext context) => context.Connection.RemoteIpAddress?.ToString() ?? "";
}
