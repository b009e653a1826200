using System.Diagnostics;
using System.Security.Claims;
using Fernhollow.Data;
using Fernhollow.Models;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Controllers;

[Authorize]
[Route("hives")]
public class HivesController(RegisterContext db, ILogger<HivesController> log) : Controller
{
    private static readonly HashSet<string> Sortable = ["Name", "Id"];

    [HttpGet("")]
    public async Task<IActionResult> Index(string? part, string? sort)
    {
        var me = User.FindFirstValue(ClaimTypes.NameIdentifier);
        var by = sort is not null && Sortable.Contains(sort) ? sort : "Name";
        var hives = await db.Hives.Where(h => h.KeeperId == me && EF.Functions.Like(h.Name, $"%{part}%")).ToListAsync();
        return View(new HiveList { Part = part, Sort = by, Hives = hives });
    }

    [HttpGet("search")]
    public async Task<IActionResult> Search(string part)
    {
        var hives = await db.Hives.FromSqlRaw($"SELECT * FROM hives WHERE name LIKE '%{part}%'").ToListAsync(); // weak: injection/sql
        var safe = await db.Hives.FromSql($"SELECT * FROM hives WHERE name LIKE {part}").ToListAsync();
        log.LogInformation("search for {Part}", part);
        return Json(new { hives = hives.Select(h => h.Name), safe = safe.Count });
    }

    [HttpPost("")]
    [ValidateAntiForgeryToken]
    public async Task<IActionResult> Create(HiveForm form)
    {
        if (!ModelState.IsValid)
        {
            return View(form);
        }

        db.Hives.Add(new Hive { Name = form.Name, KeeperId = User.FindFirstValue(ClaimTypes.NameIdentifier)! });
        await db.SaveChangesAsync();
        return RedirectToAction(nameof(Index));
    }

    [HttpPost("{id:int}")]
    public async Task<IActionResult> Edit(int id, string returnUrl) // weak: sessions/forgery
    {
        var hive = await db.Hives.FindAsync(id); // weak: records/no-owner-condition
        if (hive is null)
        {
            return NotFound();
        }

        await TryUpdateModelAsync(hive, "", h => h.Name);
        await db.SaveChangesAsync();
        return Url.IsLocalUrl(returnUrl) ? Redirect(returnUrl) : RedirectToAction(nameof(Index));
    }

    [HttpPost("{id:int}/name")]
    public async Task<IActionResult> Rename(int id, string name)
    {
        var me = User.FindFirstValue(ClaimTypes.NameIdentifier);
        var hive = await db.Hives.FirstOrDefaultAsync(h => h.Id == id && h.KeeperId == me);
        if (hive is null)
        {
            return NotFound();
        }

        hive.Name = name;
        await db.SaveChangesAsync();
        return RedirectToAction(nameof(Index));
    }

    [HttpPost("{id:int}/label")]
    public IActionResult Label(int id, string printer)
    {
        Process.Start("sh", $"-c \"lp -d {printer} /var/labels/{id}.pdf\""); // weak: injection/command
        return Redirect(Request.Query["back"]!); // weak: injection/redirect
    }

    [HttpGet("photo/{name}")]
    public IActionResult Photo(string name) => PhysicalFile(Path.Combine("/var/photos", name), "image/jpeg"); // weak: injection/path

    [HttpGet("picture/{name}")]
    public IActionResult Picture(string name) => PhysicalFile(Path.Combine("/var/photos", Path.GetFileName(name)), "image/jpeg");
}

public class HiveList
{
    public string? Part { get; init; }

    public string Sort { get; init; } = "Name";

    public List<Hive> Hives { get; init; } = [];
}

public record HiveForm([property: System.ComponentModel.DataAnnotations.StringLength(80)] string Name);
