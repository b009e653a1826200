// The laboratory's service: results of samples, and the staff who enter them.
using Fernhollow.Lab.Data;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.EntityFrameworkCore;

var builder = WebApplication.CreateBuilder(args);
builder.Services.AddControllers();
builder.Services.AddDbContext<LabContext>(options => options.UseNpgsql(builder.Configuration.GetConnectionString("Lab")));
builder.Services.AddAuthentication(CookieAuthenticationDefaults.AuthenticationScheme).AddCookie();
builder.Services.AddAuthorization();

var app = builder.Build();
app.UseAuthentication();
app.UseAuthorization();
app.MapControllers();

app.MapGet("/lab/about", () => "Results of the Fernhollow laboratory.");
var own = app.MapGroup("/lab/hives").RequireAuthorization();
own.MapGet("/{hive:int}/results", async (int hive, LabContext db) => await db.Results.Where(r => r.HiveId == hive).ToListAsync());
app.Run();
