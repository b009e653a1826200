using System.IdentityModel.Tokens.Jwt;
using System.Security.Claims;
using System.Security.Cryptography;
using System.Text;
using Microsoft.IdentityModel.Tokens;
using HiveApi.Data;

namespace HiveApi.Services;

public class TokenService(IConfiguration configuration)
{
    public string Access(Keeper keeper)
    {
        var claims = new List<Claim> { new(ClaimTypes.NameIdentifier, keeper.Id.ToString()), new(ClaimTypes.Role, keeper.Role) };
        var key = new SymmetricSecurityKey(Encoding.UTF8.GetBytes(configuration["Jwt:Key"]!));
        var token = new JwtSecurityToken(configuration["Jwt:Issuer"], null, claims, expires: DateTime.UtcNow.AddMinutes(30), signingCredentials: new SigningCredentials(key, SecurityAlgorithms.HmacSha256));
        return new JwtSecurityTokenHandler().WriteToken(token);
    }

    public string Refresh()
    {
        return new Random().Next(100000000).ToString(); // weak: sessions/predictable-token
    }

    public string Hash(string password)
    {
        using var sha = SHA256.Create();
        return Convert.ToBase64String(sha.ComputeHash(Encoding.UTF8.GetBytes(password))); // weak: passwords/fast-hash
    }
}
