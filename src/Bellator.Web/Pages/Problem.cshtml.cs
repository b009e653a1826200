using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

[IgnoreAntiforgeryToken]
[ResponseCache(NoStore = true)]
public sealed class ProblemModel : PageModel
{
    public string Heading { get; private set; } = "";

    public string Advice { get; private set; } = "";

    public void OnGet(int code) => Describe(code);

    public void OnPost(int code) => Describe(code);

    private void Describe(int code)
    {
        (Heading, Advice) = code switch
        {
            400 => ("That form could not be taken", "It was too old or incomplete. Go back, load the page again and send it once more."),
            405 => ("This address does not take that", "Use the page's own links and forms."),
            404 => ("There is nothing here", "The address is wrong, or what is there belongs to a review you are not a member of."),
            413 => ("That was too much", "Uploads may have at most 200 MiB, other forms far less. Leave out libraries and build results."),
            429 => ("Too many attempts", "Wait a minute and try again."),
            503 => ("Back in a moment", "The database is away, or there is too much to do. Nothing you saved is lost; load the page again in a few seconds."),
            _ => ("Something went wrong", "It was our fault, not yours, and it is in the log. Nothing you saved is lost."),
        };
    }
}
