using System.Text;
using Fernhollow.Data;
using Fernhollow.Endpoints;
using Microsoft.AspNetCore.Authentication.JwtBearer;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;
using Microsoft.IdentityModel.Tokens;

var builder = WebApplication.CreateBuilder(args);
builder.Services.AddDbContext<Register>(o => o.UseNpgsql(builder.Configuration.GetConnectionString("Register")));
builder.Services.AddSingleton<IPasswordHasher<Keeper>, PasswordHasher<Keeper>>();
builder.Services.AddAuthentication(JwtBearerDefaults.AuthenticationScheme).AddJwtBearer(o =>
    o.TokenValidationParameters = new TokenValidationParameters
    {
        ValidateIssuer = false,
        ValidateAudience = false,
        IssuerSigningKey = new SymmetricSecurityKey(Encoding.UTF8.GetBytes(builder.Configuration["Token:Key"]!)),
    });
builder.Services.AddAuthorization();
builder.Services.AddRateLimiter(o => o.AddFixedWindowLimiter("sign-in", l => { l.PermitLimit = 5; l.Window = TimeSpan.FromMinutes(1); }));

var app = builder.Build();
app.UseRateLimiter();
app.UseAuthentication();
app.UseAuthorization();
app.MapAccounts();
app.MapHives();
app.MapGet("/health", () => Results.Ok());
app.Run();
