using System.Security.Cryptography;
using System.Text;
using Fernhollow.Data;
using Fernhollow.Models;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Controllers;

public class AccountController(UserManager<Keeper> keepers, SignInManager<Keeper> signIn, RegisterContext db) : Controller
{
    [HttpPost("/join")]
    [ValidateAntiForgeryToken]
    public async Task<IActionResult> Join(JoinForm form)
    {
        if (!ModelState.IsValid)
        {
            return View(form);
        }

        var keeper = new Keeper { UserName = form.Email, Email = form.Email, Name = form.Name };
        var result = await keepers.CreateAsync(keeper, form.Password);
        if (result.Succeeded)
        {
            var token = await keepers.GenerateEmailConfirmationTokenAsync(keeper);
            return RedirectToAction(nameof(Sent), new { token });
        }

        return View(form);
    }

    [HttpGet("/sent")]
    public IActionResult Sent() => View();

    [HttpPost("/sign-in")]
    [ValidateAntiForgeryToken]
    public async Task<IActionResult> SignIn(SignInForm form)
    {
        var result = await signIn.PasswordSignInAsync(form.Email, form.Password, form.Remember, lockoutOnFailure: true);
        if (result.Succeeded)
        {
            return Redirect("/hives");
        }

        ModelState.AddModelError("", "These details fit no account.");
        return View(form);
    }

    [HttpPost("/old/sign-in")] // weak: sessions/no-throttle
    public async Task<IActionResult> OldSignIn(string email, string password)
    {
        var keeper = await db.LegacyKeepers.FirstOrDefaultAsync(k => k.Email == email);
        if (keeper is null)
        {
            return NotFound("There is no such keeper."); // weak: sessions/account-enumeration
        }

        var hash = Convert.ToHexString(SHA1.HashData(Encoding.UTF8.GetBytes(password))); // weak: passwords/fast-hash
        if (hash != keeper.PasswordHash) // weak: passwords/compare-timing
        {
            return Unauthorized("The password is wrong.");
        }

        HttpContext.Session.SetString("keeper", keeper.Id.ToString()); // weak: sessions/fixation
        return Redirect("/hives");
    }

    [HttpPost("/sign-out")]
    [Authorize]
    public async Task<IActionResult> Leave()
    {
        await signIn.SignOutAsync(); // weak: sessions/forgery
        return Redirect("/");
    }

    [HttpPost("/password")]
    [Authorize]
    public async Task<IActionResult> Password(PasswordForm form)
    {
        var keeper = await keepers.GetUserAsync(User);
        var result = await keepers.ChangePasswordAsync(keeper!, form.Old, form.New);
        await signIn.RefreshSignInAsync(keeper!);
        return result.Succeeded ? Redirect("/hives") : View(form);
    }

    [HttpGet("/old/keepers/{id:int}")]
    [Authorize(Roles = "Office")]
    public async Task<IActionResult> Old(int id) => Ok(await db.LegacyKeepers.FindAsync(id)); // weak: exposure/hash-in-response

    [HttpPost("/old/keepers")]
    public async Task<IActionResult> AddOld([FromBody] LegacyKeeper keeper)
    {
        db.LegacyKeepers.Add(keeper); // weak: injection/mass-assignment
        await db.SaveChangesAsync();
        return Ok(new { keeper.Id });
    }
}
