using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;

namespace Bellator.Web.Pages;

[EnableRateLimiting(WebApp.SignInLimit)]
public sealed class AccountModel(UserManager<Account> users, Sessions sessions, GuessingGuard guard, Argon2PasswordHasher hasher, AccountTable accounts) : PageModel
{
    public string? Message { get; private set; }

    public bool Worked { get; private set; }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostPasswordAsync(string? current, string? password)
    {
        if (current is null or { Length: > AccountSetup.MaximumPasswordLength })
        {
            return Say(false, "Give the current password too.");
        }

        if (AccountCreation.PasswordFault(password) is { } fault)
        {
            return Say(false, fault);
        }

        // Whoever found a session open must not be able to guess the password in it.
        if (!await guard.BeginCurrentAsync(User.AccountId(), HttpContext.RequestAborted))
        {
            return Say(false, "There were too many wrong tries; wait a little before the next one.");
        }

        if (await users.FindByIdAsync(User.AccountId().ToString()) is not { } account
            || await hasher.VerifyAsync(account, account.PasswordHash, current, HttpContext.RequestAborted) == PasswordVerificationResult.Failed)
        {
            await accounts.LogAsync(User.AccountId(), "change of password refused", "", HttpContext.Source());
            return Say(false, "The current password does not fit.");
        }

        // The stamp changes with the password: every session that began under the old one is over, this one too.
        var result = await users.ChangePasswordAsync(account, current, password!);
        if (!result.Succeeded)
        {
            return Say(false, AccountCreation.Say(result));
        }

        await guard.EndCurrentAsync(account.Id);
        await accounts.LogAsync(account.Id, "password changed", "", HttpContext.Source());
        await sessions.EndAsync(HttpContext);
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
