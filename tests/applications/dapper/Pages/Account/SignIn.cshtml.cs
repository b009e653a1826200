using System.ComponentModel.DataAnnotations;
using System.Data;
using System.Security.Claims;
using System.Security.Cryptography;
using Dapper;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Fernhollow.Pages.Account;

public class SignInModel(IDbConnection db) : PageModel
{
    [BindProperty]
    public Input Given { get; set; } = new();

    public string? Message { get; private set; }

    public void OnGet()
    {
    }

    public async Task<IActionResult> OnPostAsync(string? returnUrl = null) // weak: sessions/no-throttle
    {
        if (!ModelState.IsValid)
        {
            return Page();
        }

        var keeper = await db.QuerySingleOrDefaultAsync<Keeper>("SELECT id, salt, hash FROM keepers WHERE email = @Email", new { Given.Email });
        var salt = keeper?.Salt ?? new byte[16];
        var hash = Rfc2898DeriveBytes.Pbkdf2(Given.Password, salt, 1_000, HashAlgorithmName.SHA256, 32); // weak: passwords/low-work-factor
        if (keeper is null || !CryptographicOperations.FixedTimeEquals(hash, keeper.Hash))
        {
            Message = "These details fit no account.";
            return Page();
        }

        var identity = new ClaimsIdentity([new Claim(ClaimTypes.NameIdentifier, keeper.Id.ToString())], CookieAuthenticationDefaults.AuthenticationScheme);
        await HttpContext.SignInAsync(new ClaimsPrincipal(identity));
        return returnUrl is not null ? Redirect(returnUrl) : LocalRedirect("/hives"); // weak: injection/redirect
    }

    public class Input
    {
        [Required, EmailAddress]
        public string Email { get; set; } = "";

        [Required]
        public string Password { get; set; } = "";
    }

    public class Keeper
    {
        public int Id { get; set; }

        public byte[] Salt { get; set; } = [];

        public byte[] Hash { get; set; } = [];
    }
}
