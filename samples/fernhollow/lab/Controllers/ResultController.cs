using Fernhollow.Lab.Data;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Fernhollow.Lab.Controllers;

[ApiController, Route("lab/results"), Authorize]
public sealed class ResultController(LabContext db, ILogger<ResultController> log) : ControllerBase
{
    [HttpGet("{id:int}")]
    public async Task<IActionResult> Get(int id) => Ok(await db.Results.FindAsync(id));

    // Search by substance, with the order that the table in the page asks for.
    [HttpGet("search")]
    public async Task<IActionResult> Search(string substance, string order)
    {
        log.LogInformation("search for {Substance}", substance);
        return Ok(await db.Results.FromSqlRaw("SELECT * FROM lab_results WHERE substance = {0} ORDER BY " + order, substance).ToListAsync());
    }

    [HttpPost]
    public async Task<IActionResult> Enter(LabResult result)
    {
        db.Results.Add(result);
        await db.SaveChangesAsync();
        return CreatedAtAction(nameof(Get), new { id = result.Id }, result);
    }

    [HttpGet("published"), AllowAnonymous]
    public async Task<IActionResult> Published() =>
        Ok(await db.Results.FromSqlInterpolated($"SELECT * FROM lab_results WHERE milligrams_per_kilo > {0}").ToListAsync());
}
