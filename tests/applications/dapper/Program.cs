using System.Data;
using Dapper;
using Microsoft.AspNetCore.Authentication.Cookies;
using Npgsql;

var builder = WebApplication.CreateBuilder(args);
builder.Services.AddScoped<IDbConnection>(_ => new NpgsqlConnection(builder.Configuration.GetConnectionString("Register")));
builder.Services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie();
builder.Services.AddAuthorization();
builder.Services.AddRazorPages();

var app = builder.Build();
app.UseAuthentication();
app.UseAuthorization();
app.MapRazorPages();

var hives = app.MapGroup("/hives").RequireAuthorization();
hives.MapGet("/", async (string? part, IDbConnection db) => await db.QueryAsync("SELECT id, name FROM hives WHERE name ILIKE @part", new { part = $"%{part}%" }));
hives.MapGet("/search", async (string part, IDbConnection db) => await db.QueryAsync($"SELECT id, name FROM hives WHERE name ILIKE '%{part}%'")); // weak: injection/sql
hives.MapGet("/sorted", async (string sort, IDbConnection db) =>
{
    var column = sort switch { "frames" => "frames", "name" => "name", _ => "id" };
    return await db.QueryAsync($"SELECT id, name FROM hives ORDER BY {column}");
});
hives.MapDelete("/{id:int}", async (int id, IDbConnection db) => await db.ExecuteAsync("DELETE FROM hives WHERE id = @id", new { id }));
hives.MapGet("/export", async (string table, IDbConnection db) => await db.QueryAsync("SELECT * FROM " + table)); // weak: injection/sql

app.Run();
