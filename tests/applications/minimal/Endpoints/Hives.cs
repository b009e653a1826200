using System.Security.Claims;
using Fernhollow.Data;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Endpoints;

public record HiveInput(string Name, string? Note);

public record HiveView(int Id, string Name);

public static class Hives
{
    private static readonly HashSet<string> Columns = ["Name", "Id"];

    public static void MapHives(this IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/hives").RequireAuthorization();

        group.MapGet("/", async (string? part, string? sort, ClaimsPrincipal user, Register db) =>
        {
            var column = sort is not null && Columns.Contains(sort) ? sort : "Name";
            var number = Accounts.NumberOf(user);
            return await db.Hives.FromSqlRaw($"SELECT * FROM Hives WHERE KeeperId = {{0}} ORDER BY {column}", number).Select(h => new HiveView(h.Id, h.Name)).ToListAsync();
        });

        group.MapGet("/like", async ([FromQuery] string part, Register db) =>
            await db.Hives.FromSqlRaw($"SELECT * FROM Hives WHERE Name LIKE '%{part}%'").Select(h => new HiveView(h.Id, h.Name)).ToListAsync()); // weak: injection/sql

        group.MapGet("/exactly", async (string name, Register db) =>
            await db.Hives.FromSql($"SELECT * FROM Hives WHERE Name = {name}").Select(h => new HiveView(h.Id, h.Name)).ToListAsync());

        group.MapPost("/", async (HiveInput input, ClaimsPrincipal user, Register db) =>
        {
            var hive = new Hive { Name = input.Name, Note = input.Note, KeeperId = Accounts.NumberOf(user) };
            db.Hives.Add(hive);
            await db.SaveChangesAsync();
            return Results.Created($"/hives/{hive.Id}", new HiveView(hive.Id, hive.Name));
        });

        group.MapDelete("/{id:int}", async (int id, ClaimsPrincipal user, Register db) =>
        {
            var number = Accounts.NumberOf(user);
            var gone = await db.Hives.Where(h => h.Id == id && h.KeeperId == number).ExecuteDeleteAsync();
            return gone == 0 ? Results.NotFound() : Results.NoContent();
        });

        group.MapGet("/{id:int}/picture", (int id, string file) => Results.File(Path.Combine("/srv/pictures", file))); // weak: injection/path

        app.MapGet("/all-hives", async (Register db) => await db.Hives.OrderBy(h => h.Name).Select(h => new HiveView(h.Id, h.Name)).ToListAsync()).RequireAuthorization(p => p.RequireRole("admin"));
        app.MapGet("/leave", (string to) => Results.Redirect(to)); // weak: injection/redirect
        app.MapGet("/leave-safely", (string to) => Results.LocalRedirect(to));
    }
}
