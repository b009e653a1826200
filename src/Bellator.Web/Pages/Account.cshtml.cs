using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;

namespace Bellator.Web.Pages;

[EnableRateLimiting(WebApp.SignInLimit)]
public sealed class AccountModel(UserManager<Account> users, SignInManager<Account> signIn, AccountTable accounts) : PageModel
{
    public string? Message { get; private set; }

    public bool Worked { get; private set; }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostPasswordAsync(string? current, string? password)
    {
        var account = await users.FindByIdAsync(User.AccountId().ToString());
        if (account is null || current is null or { Length: > AccountSetup.MaximumPasswordLength }
            || password is null or { Length: < AccountSetup.MinimumPasswordLength or > AccountSetup.MaximumPasswordLength })
        {
            return Say(false, $"The new password needs {AccountSetup.MinimumPasswordLength} to {AccountSetup.MaximumPasswordLength} characters.");
        }

        var result = await users.ChangePasswordAsync(account, current, password);
        if (!result.Succeeded)
        {
            return Say(false, "The current password does not fit.");
        }

        await accounts.LogAsync(account.Id, "password changed", "", HttpContext.Connection.RemoteIpAddress?.ToString() ?? "");
        await accounts.EndSessionsAsync(account.Id);
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }

    public async Task<IActionResult> OnPostColleagueAsync(string? name, string? email, string? initial)
    {
        var problem = await AccountCreation.CreateAsync(users, name, email, initial);
        return Say(problem is null, problem ?? "The account is made.");
    }

    private PageResult Say(bool worked, string message)
    {
        Worked = worked;
        Message = message;
        return Page();
    }
}
