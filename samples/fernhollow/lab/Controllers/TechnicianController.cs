using System.ComponentModel.DataAnnotations;
using System.Security.Claims;
using Fernhollow.Lab.Data;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Lab.Controllers;

public sealed class NewTechnician
{
    [Required, EmailAddress]
    public string Email { get; set; } = "";

    [Required, MinLength(12), MaxLength(72)]
    public string Password { get; set; } = "";
}

[ApiController, Route("lab/technicians")]
public sealed class TechnicianController(LabContext db) : ControllerBase
{
    // Only a lead may add to the staff.
    [HttpPost, Authorize(Roles = "lead")]
    public async Task<IActionResult> Add(NewTechnician wanted)
    {
        db.Technicians.Add(new Technician { Email = wanted.Email.ToLowerInvariant(), PasswordHash = BCrypt.Net.BCrypt.HashPassword(wanted.Password, 12) });
        await db.SaveChangesAsync();
        return NoContent();
    }

    [HttpPost("session")]
    public async Task<IActionResult> SignIn([FromForm] string email, [FromForm] string password)
    {
        var technician = await db.Technicians.FirstOrDefaultAsync(t => t.Email == email.ToLowerInvariant());
        if (technician == null || !technician.Active || !BCrypt.Net.BCrypt.Verify(password, technician.PasswordHash))
        {
            return Unauthorized();
        }

        var claims = new[] { new Claim("id", technician.Id.ToString()), new Claim(ClaimTypes.Role, technician.IsLead ? "lead" : "staff") };
        await HttpContext.SignInAsync(new ClaimsPrincipal(new ClaimsIdentity(claims, "lab")));
        return NoContent();
    }

    [HttpDelete("session"), Authorize]
    public async Task<IActionResult> Leave()
    {
        await HttpContext.SignOutAsync();
        return NoContent();
    }
}
