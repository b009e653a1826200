namespace Bellator.Core.Tests;

/// <summary>Pairs of actions of one name, as ASP.NET Core's documentation has them: one shows the form, the other takes it. And rules that are written as patterns (C# 8 and later).</summary>
public sealed class ActionPairTests
{
    private static string Controller(string rule) => $$"""
        using Microsoft.AspNetCore.Authorization;
        using Microsoft.AspNetCore.Mvc;
        using Npgsql;
        [Route("account"), Authorize]
        public class AccountController(NpgsqlDataSource source) : Controller {
          private readonly Microsoft.AspNetCore.Identity.PasswordHasher<object> hasher = new();
          [AllowAnonymous, HttpGet("join")] public IActionResult Join() => View();
          [AllowAnonymous, HttpPost("join")] public async Task<IActionResult> Join(string email, string password) {
            {{rule}}
            await using var command = source.CreateCommand("insert into accounts (email, password_hash) values ($1, $2)");
            command.Parameters.AddWithValue(email);
            command.Parameters.AddWithValue(hasher.HashPassword(new object(), password));
            await command.ExecuteNonQueryAsync();
            return Redirect("/");
          }
          [HttpPost("close")] public IActionResult Close() => Redirect("/");
          private IActionResult Join(int nothing) => View();
        }
        """;

    [Fact]
    public void Both_are_addresses() => Assert.Equal(
        ["GET /account/join notNeeded", "POST /account/close needed", "POST /account/join notNeeded"],
        Auditor.Run(("AccountController.cs", Controller(""))).Surface.Entries.Select(e => $"{e.Method} {e.Path} {e.SignIn}").Order(StringComparer.Ordinal));

    [Theory]
    [InlineData("if (password is not { Length: >= 12 and <= 128 }) return BadRequest();", false)]
    [InlineData("if (password is null or { Length: < 12 }) return BadRequest();", false)]
    [InlineData("if (password is not { } given) return BadRequest();", true)]
    [InlineData("if (email is not { Length: >= 12 }) return BadRequest();", true)]
    public void A_length_that_a_pattern_asks_for(string rule, bool isWeak) =>
        Assert.Equal(isWeak, Auditor.Run(("AccountController.cs", Controller(rule))).Findings.Any(f => f.CheckId == "passwords/weak-policy"));
}
