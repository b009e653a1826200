using System.Security.Claims;
using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;

namespace Bellator.Web.Pages;

[EnableRateLimiting(WebApp.SignInLimit)]
public sealed class SignInModel(SignInManager<Account> signIn, UserManager<Account> users, AccountTable accounts, IPasswordHasher<Account> hasher) : PageModel
{
    private static readonly Account Nobody = new();
    private static string? _nobodysHash;

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? Password { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Next { get; set; }

    public string? Message { get; private set; }

    public async Task<IActionResult> OnGetAsync() =>
        User.Identity?.IsAuthenticated == true ? Redirect("/") : await accounts.AnyAsync() ? Page() : Redirect("/first-account");

    public async Task<IActionResult> OnPostAsync()
    {
        var address = HttpContext.Connection.RemoteIpAddress?.ToString() ?? "";
        if (Password is null or { Length: > AccountSetup.MaximumPasswordLength } || string.IsNullOrWhiteSpace(Email))
        {
            return Refused();
        }

        var account = await users.FindByEmailAsync(Email.Trim());
        if (account is null)
        {
            // The same work as for a known address, so that the time does not tell them apart.
            _nobodysHash ??= hasher.HashPassword(Nobody, "nobody's password");
            hasher.VerifyHashedPassword(Nobody, _nobodysHash, Password);
            await accounts.LogAsync(null, "sign-in refused", "", address);
            return Refused();
        }

        var result = await signIn.CheckPasswordSignInAsync(account, Password, lockoutOnFailure: true);
        await accounts.LogAsync(account.Id, result.Succeeded ? "signed in" : result.IsLockedOut ? "sign-in locked" : "sign-in refused", "", address);
        if (!result.Succeeded)
        {
            return Refused();
        }

        await signIn.SignInWithClaimsAsync(account, isPersistent: false, [new Claim("name", account.Name)]);
        return LocalRedirect(Url.IsLocalUrl(Next) ? Next : "/");
    }

    private PageResult Refused()
    {
        Message = "The address and password do not fit, or there were too many attempts. After eight wrong ones an account rests for ten minutes.";
        return Page();
    }
}
