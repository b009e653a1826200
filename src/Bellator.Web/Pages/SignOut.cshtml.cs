using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

public sealed class SignOutModel(SignInManager<Account> signIn, AccountTable accounts) : PageModel
{
    public async Task<IActionResult> OnPostAsync()
    {
        await accounts.LogAsync(User.AccountId(), "signed out", "", HttpContext.Connection.RemoteIpAddress?.ToString() ?? "");

        // Ends the session on the server too: the store removes its row.
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
