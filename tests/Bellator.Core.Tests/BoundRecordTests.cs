namespace Bellator.Core.Tests;

/// <summary>Records that a request fills as a whole (CWE-915), in C# and behind a pipe that drops what is not declared. From memory of the frameworks' documentation.</summary>
public sealed class BoundRecordTests
{
    private const string Pages = """
        using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore;
        public class Hive { public int Id { get; set; } public int OwnerId { get; set; } public string Name { get; set; } = ""; }
        public class HiveForm { public string Name { get; set; } = ""; }
        public class RegisterDb : DbContext { public DbSet<Hive> Hives => Set<Hive>(); }
        [ApiController] [Route("hives")] public class HivesController(RegisterDb db) : ControllerBase {

        """;

    [Theory]
    [InlineData("[HttpPut(\"{id}\")] public async Task<IActionResult> Put(int id, Hive body) { var hive = await db.Hives.FindAsync(id); db.Entry(hive).CurrentValues.SetValues(body); await db.SaveChangesAsync(); return Ok(); }", true)]
    [InlineData("[HttpPut] public async Task<IActionResult> Put(Hive body) { db.Attach(body).State = EntityState.Modified; await db.SaveChangesAsync(); return Ok(); }", true)]
    [InlineData("[HttpPut] public async Task<IActionResult> Put(Hive body) { db.Hives.Update(body); await db.SaveChangesAsync(); return Ok(); }", true)]
    [InlineData("[HttpPut(\"{id}\")] public async Task<IActionResult> Put(int id, HiveForm body) { var hive = await db.Hives.FindAsync(id); db.Entry(hive).CurrentValues.SetValues(body); await db.SaveChangesAsync(); return Ok(); }", false)]
    [InlineData("[HttpPut(\"{id}\")] public async Task<IActionResult> Put(int id, HiveForm body) { var hive = await db.Hives.FindAsync(id); hive.Name = body.Name; await db.SaveChangesAsync(); return Ok(); }", false)]
    public void Controllers(string action, bool isWeak) => Check(isWeak, ("Hives.cs", Pages + action + "\n}\n"));

    [Theory]
    [InlineData("hive, \"\"", true)]
    [InlineData("hive, \"\", h => h.Name", false)]
    public void Models_updated_by_the_framework(string arguments, bool isWeak) => Check(isWeak, ("Pages/Edit.cshtml.cs", Pages[..Pages.IndexOf("[ApiController]", StringComparison.Ordinal)] + """
        public class EditModel(RegisterDb db) : PageModel
        {
            public async Task<IActionResult> OnPostAsync(int id)
            {
                var hive = await db.Hives.SingleAsync(h => h.Id == id);
                if (await TryUpdateModelAsync(ARGUMENTS)) await db.SaveChangesAsync();
                return Page();
            }
        }
        """.Replace("ARGUMENTS", arguments, StringComparison.Ordinal)));

    private const string Nest = """
        import { Body, Controller, Post } from '@nestjs/common'; import { IsString } from 'class-validator'; import { Prisma, PrismaClient } from '@prisma/client';
        const prisma = new PrismaClient();
        class HiveDto { @IsString() name!: string; }
        @Controller('hives') export class HivesController { @Post() create(@Body() body: TYPE) { return prisma.hive.create({ data: { ...body } }); } }
        """;

    [Theory]
    [InlineData("HiveDto", "new ValidationPipe({ whitelist: true })", false)]
    [InlineData("HiveDto", "new ValidationPipe()", true)]
    [InlineData("Prisma.HiveCreateInput", "new ValidationPipe({ whitelist: true })", true)]
    public void Types_that_are_gone_when_the_program_runs(string type, string pipe, bool isWeak) => Check(isWeak,
        ("hives.controller.ts", Nest.Replace("TYPE", type, StringComparison.Ordinal)),
        ("main.ts", "import { NestFactory } from '@nestjs/core'; import { ValidationPipe } from '@nestjs/common';\nasync function start() { const app = await NestFactory.create({}); app.useGlobalPipes(" + pipe + "); }\n"));

    private static void Check(bool isWeak, params (string Path, string Code)[] files) =>
        Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == "injection/mass-assignment"));
}
