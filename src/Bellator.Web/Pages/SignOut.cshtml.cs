using Bellator.Storage.Accounts;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

public sealed class SignOutModel(Sessions sessions, AccountTable accounts) : PageModel
{
    public async Task<IActionResult> OnPostAsync()
    {
        await accounts.LogAsync(User.AccountId(), "signed out", "", HttpContext.Source());
        await sessions.EndAsync(HttpContext);
        return Redirect("/sign-in");
    }
}
