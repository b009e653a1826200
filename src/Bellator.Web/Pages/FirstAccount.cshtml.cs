using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;

namespace Bellator.Web.Pages;

[EnableRateLimiting(WebApp.SignInLimit)]
public sealed class FirstAccountModel(UserManager<Account> users, AccountTable accounts) : PageModel
{
    private static readonly SemaphoreSlim OneAtATime = new(1, 1);

    [BindProperty]
    public string? Name { get; set; }

    [BindProperty]
    public string? Email { get; set; }

    [BindProperty]
    public string? Password { get; set; }

    public string? Message { get; private set; }

    public async Task<IActionResult> OnGetAsync() => await accounts.AnyAsync() ? NotFound() : Page();

    public async Task<IActionResult> OnPostAsync()
    {
        await OneAtATime.WaitAsync();
        try
        {
            if (await accounts.AnyAsync())
            {
                return NotFound();
            }

            Message = await AccountCreation.CreateAsync(users, Name, Email, Password);
            return Message is null ? Redirect("/sign-in") : Page();
        }
        finally
        {
            OneAtATime.Release();
        }
    }
}

/// <summary>Makes an account from what a form sent; only these fields can be set.</summary>
internal static class AccountCreation
{
    /// <returns>Null, or what is wrong.</returns>
    public static async Task<string?> CreateAsync(UserManager<Account> users, string? name, string? email, string? password)
    {
        if (string.IsNullOrWhiteSpace(name) || name.Length > 80)
        {
            return "Please give a name of at most 80 characters.";
        }

        if (string.IsNullOrWhiteSpace(email) || email.Length > 200 || !email.Contains('@', StringComparison.Ordinal))
        {
            return "Please give an e-mail address.";
        }

        if (password is null or { Length: < AccountSetup.MinimumPasswordLength or > AccountSetup.MaximumPasswordLength })
        {
            return $"The password needs {AccountSetup.MinimumPasswordLength} to {AccountSetup.MaximumPasswordLength} characters.";
        }

        var result = await users.CreateAsync(new Account { Name = name.Trim(), Email = email.Trim() }, password);
        return result.Succeeded ? null : string.Join(" ", result.Errors.Select(e => e.Description));
    }
}
