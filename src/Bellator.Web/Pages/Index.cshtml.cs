using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

public sealed class IndexModel(Database database) : PageModel
{
    public IReadOnlyList<ReviewRow> Reviews { get; private set; } = [];

    [BindProperty]
    public string? Name { get; set; }

    public string? Message { get; private set; }

    public async Task OnGetAsync()
    {
        await using var scope = await database.OpenAsAsync(User.AccountId(), HttpContext.RequestAborted);
        Reviews = await new ReviewTable(scope).ListAsync(HttpContext.RequestAborted);
    }

    public async Task<IActionResult> OnPostAsync()
    {
        if (string.IsNullOrWhiteSpace(Name) || Name.Length > 120)
        {
            Message = "Please give a name of at most 120 characters.";
            await OnGetAsync();
            return Page();
        }

        await using var scope = await database.OpenAsAsync(User.AccountId());
        var id = await new ReviewTable(scope).CreateAsync(Name.Trim());
        await scope.CommitAsync();
        return Redirect($"/reviews/{id}");
    }
}
