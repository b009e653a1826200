using System.Diagnostics;
using Microsoft.AspNetCore.Authorization;
using Microsoft.AspNetCore.Mvc;
using HiveApi.Data;

namespace HiveApi.Controllers;

[Authorize]
[ApiController]
[Route("api/office")]
public class OfficeController(HiveContext context) : ControllerBase
{
    [Authorize(Policy = "Office")]
    [HttpGet("keepers")]
    public IActionResult Keepers() => Ok(context.Keepers.Select(k => new { k.Id, k.Email }));

    [Authorize(Roles = "office")]
    [HttpPost("keepers/{id}/role")]
    public async Task<IActionResult> Role(int id, [FromBody] string role)
    {
        var keeper = await context.Keepers.FindAsync(id);
        keeper!.Role = role;
        await context.SaveChangesAsync();
        return NoContent();
    }

    [HttpDelete("keepers/{id}")]
    public async Task<IActionResult> Remove(int id)
    {
        var keeper = await context.Keepers.FindAsync(id);
        context.Keepers.Remove(keeper!); // weak: records/role-check-missing
        await context.SaveChangesAsync();
        return NoContent();
    }

    [HttpGet("files")]
    public IActionResult Files(string name) => PhysicalFile(Path.Combine("/srv/files", name), "application/pdf"); // weak: injection/path

    [HttpPost("print")]
    public IActionResult Print(string printer)
    {
        Process.Start("/bin/sh", "-c \"lp -d " + printer + " /srv/label.pdf\""); // weak: injection/command
        return NoContent();
    }

    [HttpGet("go")]
    public IActionResult Go(string to) => Redirect(to); // weak: injection/redirect
}
