using System.ComponentModel.DataAnnotations;
using System.IdentityModel.Tokens.Jwt;
using System.Security.Claims;
using System.Text;
using Fernhollow.Data;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using Microsoft.IdentityModel.Tokens;

namespace Fernhollow.Endpoints;

public record Joining([Required, EmailAddress] string Email, [Required, StringLength(80)] string Name, [Required, MinLength(12), MaxLength(128)] string Password);

public record SigningIn(string Email, string Password);

public record KeeperView(int Id, string Email, string Name);

public class ProfileChange
{
    public string? Name { get; set; }
    public bool? IsAdmin { get; set; }
}

public static class Accounts
{
    public static void MapAccounts(this IEndpointRouteBuilder app)
    {
        app.MapPost("/join", Join);
        app.MapPost("/sign-in", SignIn).RequireRateLimiting("sign-in");
        var me = app.MapGroup("/me").RequireAuthorization();
        me.MapGet("/", Me);
        me.MapGet("/whole", async (ClaimsPrincipal user, Register db) => await db.Keepers.FindAsync(NumberOf(user))); // weak: exposure/hash-in-response
        me.MapPut("/", Change);
        me.MapPut("/all", async (ClaimsPrincipal user, Keeper changed, Register db) =>
        {
            changed.Id = NumberOf(user);
            db.Keepers.Update(changed); // weak: injection/mass-assignment
            await db.SaveChangesAsync();
            return Results.NoContent();
        });
    }

    private static async Task<Results<Created<KeeperView>, Conflict>> Join(Joining joining, Register db, IPasswordHasher<Keeper> hasher)
    {
        if (await db.Keepers.AnyAsync(k => k.Email == joining.Email))
        {
            return TypedResults.Conflict();
        }

        var keeper = new Keeper { Email = joining.Email, Name = joining.Name };
        keeper.PasswordHash = hasher.HashPassword(keeper, joining.Password);
        db.Keepers.Add(keeper);
        await db.SaveChangesAsync();
        return TypedResults.Created($"/keepers/{keeper.Id}", new KeeperView(keeper.Id, keeper.Email, keeper.Name));
    }

    private static async Task<IResult> SignIn(SigningIn given, Register db, IPasswordHasher<Keeper> hasher, IConfiguration settings)
    {
        var keeper = await db.Keepers.SingleOrDefaultAsync(k => k.Email == given.Email);
        if (keeper is null || hasher.VerifyHashedPassword(keeper, keeper.PasswordHash, given.Password) == PasswordVerificationResult.Failed)
        {
            return Results.Unauthorized();
        }

        var key = new SymmetricSecurityKey(Encoding.UTF8.GetBytes(settings["Token:Key"]!));
        var token = new JwtSecurityToken(
            claims: [new Claim(ClaimTypes.NameIdentifier, keeper.Id.ToString()), new Claim(ClaimTypes.Role, keeper.IsAdmin ? "admin" : "keeper")],
            expires: DateTime.UtcNow.AddMinutes(20),
            signingCredentials: new SigningCredentials(key, SecurityAlgorithms.HmacSha256));
        return Results.Ok(new { token = new JwtSecurityTokenHandler().WriteToken(token) });
    }

    private static async Task<IResult> Me(ClaimsPrincipal user, Register db)
    {
        var number = NumberOf(user);
        var view = await db.Keepers.Where(k => k.Id == number).Select(k => new KeeperView(k.Id, k.Email, k.Name)).SingleOrDefaultAsync();
        return view is null ? Results.NotFound() : Results.Ok(view);
    }

    private static async Task<IResult> Change(ProfileChange change, ClaimsPrincipal user, Register db)
    {
        var keeper = await db.Keepers.FindAsync(NumberOf(user));
        if (keeper is null)
        {
            return Results.NotFound();
        }

        keeper.Name = change.Name ?? keeper.Name;
        await db.SaveChangesAsync();
        return Results.NoContent();
    }

    internal static int NumberOf(ClaimsPrincipal user) => int.Parse(user.FindFirstValue(ClaimTypes.NameIdentifier)!);
}
