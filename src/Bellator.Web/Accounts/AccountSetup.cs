using System.Security.Claims;
using Bellator.Storage.Accounts;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>Sign-in: Identity on our own stores, sessions on the server, a cookie that only this host receives.</summary>
public static class AccountSetup
{
    public const int MinimumPasswordLength = 12;

    /// <summary>Long enough for any passphrase; a bound, so that hashing cannot be made to work on megabytes.</summary>
    public const int MaximumPasswordLength = 128;

    public static IServiceCollection AddAccounts(this IServiceCollection services)
    {
        services.AddSingleton<AccountTable>();
        services.AddSingleton<IPasswordHasher<Account>, Argon2PasswordHasher>();
        services.AddIdentityCore<Account>(options =>
        {
            // NIST SP 800-63B-4, section 3.1.1.2: length counts, composition rules do not help.
            options.Password.RequiredLength = MinimumPasswordLength;
            options.Password.RequireDigit = false;
            options.Password.RequireLowercase = false;
            options.Password.RequireUppercase = false;
            options.Password.RequireNonAlphanumeric = false;
            options.Lockout.MaxFailedAccessAttempts = 8;
            options.Lockout.DefaultLockoutTimeSpan = TimeSpan.FromMinutes(10);
            options.User.AllowedUserNameCharacters = "";
        }).AddUserStore<AccountStore>().AddSignInManager();
        services.AddSingleton<SessionStore>();
        services.AddAuthentication(IdentityConstants.ApplicationScheme).AddCookie(IdentityConstants.ApplicationScheme);
        services.AddOptions<CookieAuthenticationOptions>(IdentityConstants.ApplicationScheme).Configure<SessionStore>((options, store) =>
        {
            options.SessionStore = store;
            options.Cookie.Name = "__Host-bellator";
            options.Cookie.HttpOnly = true;
            options.Cookie.SecurePolicy = CookieSecurePolicy.Always;
            options.Cookie.SameSite = SameSiteMode.Strict;
            options.Cookie.Path = "/";
            options.ExpireTimeSpan = TimeSpan.FromHours(8);
            options.SlidingExpiration = true;
            options.LoginPath = "/sign-in";
            options.ReturnUrlParameter = "next";
        });
        services.AddAuthorizationBuilder().SetFallbackPolicy(new Microsoft.AspNetCore.Authorization.AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());
        return services;
    }

    public static Guid AccountId(this ClaimsPrincipal user) => Guid.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier)!);
}
