using System.Security.Claims;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using HiveApi.Data;
using HiveApi.Services;

namespace HiveApi.Controllers;

[Authorize]
[ApiController]
[Route("api/hives")]
public class HivesController(IHiveService hives) : ControllerBase
{
    private int KeeperId => int.Parse(User.FindFirstValue(ClaimTypes.NameIdentifier)!);

    [HttpGet]
    public async Task<ActionResult<List<Hive>>> List() => await hives.ListAsync(KeeperId);

    [HttpGet("search")]
    public async Task<IActionResult> Search([FromQuery] string q) => Ok(await hives.SearchAsync(KeeperId, q));

    [HttpGet("{id:int}")]
    public async Task<ActionResult<Hive>> Show(int id)
    {
        var hive = await hives.FindAsync(id);
        return hive is null ? NotFound() : hive;
    }

    [HttpPut("{id:int}")]
    public async Task<IActionResult> Update(int id, [FromBody] Hive posted)
    {
        var hive = await hives.FindAsync(id);
        if (hive is null || hive.KeeperId != KeeperId) return NotFound();
        hive.Name = posted.Name;
        hive.Notes = posted.Notes;
        await hives.SaveAsync(hive);
        return NoContent();
    }

    [HttpPut("{id:int}/all")]
    public async Task<IActionResult> UpdateAll(int id, [FromBody] Hive posted)
    {
        posted.Id = id;
        await hives.SaveAsync(posted);
        return NoContent();
    }

    [HttpDelete("{id:int}")]
    public async Task<IActionResult> Delete(int id) => await hives.DeleteAsync(id, KeeperId) ? NoContent() : NotFound();

    [AllowAnonymous]
    [HttpGet("export")]
    public async Task<IActionResult> Export([FromServices] HiveContext context) => Ok(context.Hives.ToList()); // weak: records/no-sign-in
}
