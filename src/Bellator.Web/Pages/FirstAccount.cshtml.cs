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
