using Fernhollow.Data;
using Fernhollow.Models;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.EntityFrameworkCore;

var builder = WebApplication.CreateBuilder(args);
builder.Services.AddDbContext<RegisterContext>(o => o.UseNpgsql(builder.Configuration.GetConnectionString("Register")));
builder.Services.AddIdentity<Keeper, IdentityRole>(o =>
{
    o.Password.RequiredLength = 12;
    o.SignIn.RequireConfirmedEmail = true;
    o.Lockout.MaxFailedAccessAttempts = 5;
}).AddEntityFrameworkStores<RegisterContext>();
builder.Services.AddControllersWithViews();

var app = builder.Build();
if (app.Environment.IsDevelopment())
{
    app.UseDeveloperExceptionPage();
}

app.UseAuthentication();
app.UseAuthorization();
app.MapControllers();

var api = app.MapGroup("/api").RequireAuthorization();
api.MapGet("/hives/{id:int}", async (int id, RegisterContext db) => await db.Hives.FindAsync(id) is { } hive ? Results.Ok(new { hive.Id, hive.Name }) : Results.NotFound()); // weak: records/no-owner-condition
api.MapGet("/swarms", async (string place, RegisterContext db) => await db.Swarms.FromSqlRaw("SELECT * FROM swarms WHERE place = '" + place + "'").ToListAsync()); // weak: injection/sql
app.MapGet("/open/swarms", async (string place, RegisterContext db) => await db.Swarms.FromSqlInterpolated($"SELECT * FROM swarms WHERE place = {place}").ToListAsync());
app.MapPost("/open/go", (string to) => Results.Redirect(to)); // weak: injection/redirect
app.Run();
