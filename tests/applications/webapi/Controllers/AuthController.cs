using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using HiveApi.Data;
using HiveApi.Services;

namespace HiveApi.Controllers;

public record RegisterRequest(string Email, string Password, string? Phone);
public record LoginRequest(string Email, string Password);
public record RefreshRequest(string Token);

[ApiController]
[Route("api/[controller]")]
public class AuthController(HiveContext context, TokenService tokens) : ControllerBase
{
    [HttpPost("register")]
    public async Task<IActionResult> Register(RegisterRequest request)
    {
        if (await context.Keepers.AnyAsync(k => k.Email == request.Email)) return BadRequest("This address is taken");
        var keeper = new Keeper { Email = request.Email, PasswordHash = tokens.Hash(request.Password), Phone = request.Phone };
        context.Keepers.Add(keeper);
        await context.SaveChangesAsync();
        return Ok(keeper); // weak: exposure/hash-in-response
    }

    [HttpPost("login")] // weak: sessions/no-throttle
    public async Task<IActionResult> Login([FromBody] LoginRequest request)
    {
        var keeper = await context.Keepers.SingleOrDefaultAsync(k => k.Email == request.Email);
        if (keeper == null) return NotFound("No such keeper"); // weak: sessions/account-enumeration
        if (keeper.PasswordHash != tokens.Hash(request.Password)) return Unauthorized("Wrong password"); // weak: passwords/compare-timing
        var refresh = tokens.Refresh();
        context.RefreshTokens.Add(new RefreshToken { KeeperId = keeper.Id, Token = refresh, Expires = DateTime.UtcNow.AddDays(30) });
        await context.SaveChangesAsync();
        return Ok(new { accessToken = tokens.Access(keeper), refreshToken = refresh });
    }

    [HttpPost("refresh")]
    public async Task<IActionResult> Refresh(RefreshRequest request)
    {
        var kept = await context.RefreshTokens.FirstOrDefaultAsync(t => t.Token == request.Token);
        if (kept == null) return Unauthorized();
        var keeper = await context.Keepers.FindAsync(kept.KeeperId);
        return Ok(new { accessToken = tokens.Access(keeper!) });
    }
}
