namespace Bellator.Core.Tests;

/// <summary>Pages that a library answers with are addresses of the application too. Their paths are those of the libraries' documentation, from memory.</summary>
public sealed class ProvidedRouteTests
{
    private const string Program = """
        var builder = WebApplication.CreateBuilder(args);
        builder.Services.AddDefaultIdentity<IdentityUser>().AddEntityFrameworkStores<Register>();
        builder.Services.AddRazorPages();
        var app = builder.Build();
        app.MapRazorPages();
        app.Run();
        """;

    [Fact]
    public void Pages_of_Identity_are_addresses()
    {
        var entries = Addresses(("Program.cs", Program));
        Assert.Contains("POST /Identity/Account/Login notNeeded", entries);
        Assert.Contains("POST /Identity/Account/ForgotPassword notNeeded", entries);
        Assert.Contains("POST /Identity/Account/ResetPassword notNeeded", entries);
        Assert.Contains("POST /Identity/Account/Manage/ChangePassword needed", entries);
    }

    [Fact]
    public void A_page_of_the_program_takes_the_place_of_the_librarys()
    {
        var entries = Addresses(
            ("Program.cs", Program),
            ("Areas/Identity/Pages/Account/Login.cshtml", "@page\n@model LoginModel\n<form method=\"post\"></form>\n"),
            ("Areas/Identity/Pages/Account/Login.cshtml.cs", "using Microsoft.AspNetCore.Mvc;\nusing Microsoft.AspNetCore.Mvc.RazorPages;\npublic class LoginModel : PageModel { public void OnGet() { } public IActionResult OnPost(string email) => Page(); }\n"));
        Assert.Equal(["GET /Identity/Account/Login notNeeded", "POST /Identity/Account/Login notNeeded"], entries.Where(e => e.Contains("/Login", StringComparison.Ordinal)));
        Assert.Contains("POST /Identity/Account/Register notNeeded", entries);
    }

    private static List<string> Addresses(params (string Path, string Code)[] files) =>
        [.. Auditor.Run(files).Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}")];
}
