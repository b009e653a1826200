using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;
using Microsoft.AspNetCore.RateLimiting;

namespace Bellator.Web.Pages;

[EnableRateLimiting(WebApp.SignInLimit)]
public sealed class SignInModel(SignInDesk desk, AccountTable accounts) : PageModel
{
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
        if (Password is { Length: > 0 and <= AccountSetup.MaximumPasswordLength } && !string.IsNullOrWhiteSpace(Email) && await desk.SignInAsync(HttpContext, Email.Trim(), Password))
        {
            return LocalRedirect(Url.IsLocalUrl(Next) ? Next : "/");
        }

        Message = "The address and password do not fit, or too many tries came before this one. After some wrong ones the next has to wait, a few seconds first and then longer; a browser that has signed in before waits for its own tries only.";
        return Page();
    }
}
