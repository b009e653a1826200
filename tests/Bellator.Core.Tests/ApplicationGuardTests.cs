namespace Bellator.Core.Tests;

/// <summary>
/// Guards that stand before a whole application, and what opens addresses behind them. That anonymous access wins over a sign-in rule
/// closer to the handler is from the documentation of ASP.NET Core's authorization, the guards of a module from that of NestJS; both
/// from memory.
/// </summary>
public sealed class ApplicationGuardTests
{
    [Theory]
    [InlineData("builder.Services.AddAuthorization(o => { o.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build(); });", "", "needed notNeeded")]
    [InlineData("builder.Services.AddAuthorization(o => o.FallbackPolicy = o.DefaultPolicy);", "", "needed notNeeded")]
    [InlineData("builder.Services.AddAuthorizationBuilder().SetFallbackPolicy(new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());", "", "needed notNeeded")]
    [InlineData("builder.Services.AddAuthorization(o => o.FallbackPolicy = null);", "", "notNeeded notNeeded")]
    [InlineData("builder.Services.AddAuthorization(o => o.DefaultPolicy = new AuthorizationPolicyBuilder().RequireAuthenticatedUser().Build());", "", "notNeeded notNeeded")]
    [InlineData("", ".RequireAuthorization()", "needed notNeeded")]
    [InlineData("builder.Services.AddControllers(o => o.Filters.Add(new AuthorizeFilter()));", "", "needed notNeeded")]
    public void Controllers_of_AspNet(string services, string mapped, string expected) => Assert.Equal(expected, SignIns(
        ["/hives", "/about"],
        ("Program.cs", "var builder = WebApplication.CreateBuilder(args);\n" + services + "\nvar app = builder.Build();\napp.MapControllers()" + mapped + ";\napp.Run();\n"),
        ("Hives.cs", """
            [ApiController] [Route("hives")] public class HivesController : ControllerBase { [HttpGet] public IActionResult List() => Ok(1); }
            [ApiController] [Route("about")] [AllowAnonymous] public class AboutController : ControllerBase { [HttpGet] public IActionResult Show() => Ok(1); }
            """)));

    [Theory]
    [InlineData("o.Conventions.AuthorizeFolder(\"/Keepers\");", "needed needed notNeeded")]
    [InlineData("o.Conventions.AuthorizePage(\"/Keepers/Hives\");", "needed notNeeded notNeeded")]
    [InlineData("o.Conventions.AuthorizeFolder(\"/\"); o.Conventions.AllowAnonymousToPage(\"/About\");", "needed needed notNeeded")]
    [InlineData("o.Conventions.AuthorizeFolder(\"/\"); o.Conventions.AllowAnonymousToFolder(\"/Keepers\");", "notNeeded notNeeded needed")]
    public void Folders_of_pages(string conventions, string expected) => Assert.Equal(expected, SignIns(
        ["/Keepers/Hives", "/Keepers/Notes", "/About"],
        ("Program.cs", "var builder = WebApplication.CreateBuilder(args);\nbuilder.Services.AddRazorPages(o => { " + conventions + " });\nvar app = builder.Build();\napp.MapRazorPages();\n"),
        ("Pages/Keepers/Hives.cshtml.cs", "public class HivesModel : PageModel { public void OnGet() { } }\n"),
        ("Pages/Keepers/Notes.cshtml.cs", "public class NotesModel : PageModel { public void OnGet() { } }\n"),
        ("Pages/About.cshtml.cs", "public class AboutModel : PageModel { public void OnGet() { } }\n")));

    [Fact]
    public void Anonymous_access_for_a_class_wins_over_a_rule_at_the_action() => Assert.Equal("notNeeded", SignIns(
        ["/hives"], ("Hives.cs", "[ApiController] [Route(\"hives\")] [AllowAnonymous] public class HivesController : ControllerBase { [HttpDelete] [Authorize] public IActionResult Remove() => Ok(1); }\n")));

    [Fact]
    public void An_endpoint_filter_stands_before_its_group() => Assert.Equal("needed", SignIns(
        ["/api/hives/{id}"],
        ("Api.cs", """
            using Microsoft.EntityFrameworkCore;
            public class Hive { public int Id { get; set; } public string KeeperId { get; set; } = ""; }
            public class RegisterDb : DbContext { public DbSet<Hive> Hives => Set<Hive>(); }
            public class OwnHiveFilter(RegisterDb db) : IEndpointFilter
            {
                public async ValueTask<object?> InvokeAsync(EndpointFilterInvocationContext context, EndpointFilterDelegate next)
                {
                    var id = context.GetArgument<int>(0);
                    var who = context.HttpContext.User.FindFirstValue("sub");
                    return await db.Hives.AnyAsync(h => h.Id == id && h.KeeperId == who) ? await next(context) : Results.NotFound();
                }
            }
            public static class Api
            {
                public static void Map(WebApplication app)
                {
                    var hives = app.MapGroup("/api/hives").RequireAuthorization();
                    hives.MapGroup("/{id:int}").AddEndpointFilter<OwnHiveFilter>().MapGet("", (int id, RegisterDb db) => db.Hives.SingleAsync(h => h.Id == id));
                }
            }
            """)));

    private const string SessionGuard = """
        import { CanActivate, ExecutionContext, Injectable, SetMetadata, UnauthorizedException } from '@nestjs/common';
        import { Reflector } from '@nestjs/core';
        export const Public = () => SetMetadata('isPublic', true);
        @Injectable()
        export class SessionGuard implements CanActivate {
          constructor(private readonly reflector: Reflector, private readonly sessions: any) {}
          async canActivate(ctx: ExecutionContext): Promise<boolean> {
            const open = this.reflector.getAllAndOverride<boolean>('isPublic', [ctx.getHandler(), ctx.getClass()]);
            if (open) return true;
            const req = ctx.switchToHttp().getRequest();
            req.user = await this.sessions.resolve(req.cookies.sid);
            if (!req.user) throw new UnauthorizedException();
            return true;
          }
        }
        """;

    private const string Controller = """
        import { Controller, Get } from '@nestjs/common';
        import { Public } from './session.guard';
        @Controller('hives') export class HivesController {
          @Get() list() { return []; }
          @Public() @Get('swarms') swarms() { return []; }
        }
        """;

    [Theory]
    [InlineData("app.module.ts", "import { Module } from '@nestjs/common'; import { APP_GUARD } from '@nestjs/core'; import { SessionGuard } from './session.guard';\n@Module({ controllers: [], providers: [{ provide: APP_GUARD, useClass: SessionGuard }] }) export class AppModule {}\n", "needed notNeeded")]
    [InlineData("main.ts", "import { NestFactory } from '@nestjs/core'; import { SessionGuard } from './session.guard';\nasync function start() { const app = await NestFactory.create({}); app.useGlobalGuards(new SessionGuard(null, null)); }\n", "needed notNeeded")]
    [InlineData("app.module.ts", "import { Module } from '@nestjs/common'; import { SessionGuard } from './session.guard';\n@Module({ controllers: [], providers: [SessionGuard] }) export class AppModule {}\n", "notNeeded notNeeded")]
    public void Guards_of_a_whole_Nest_application(string path, string code, string expected) =>
        Assert.Equal(expected, SignIns(["/hives", "/hives/swarms"], ("session.guard.ts", SessionGuard), ("hives.controller.ts", Controller), (path, code)));

    private static string SignIns(string[] paths, params (string Path, string Code)[] files)
    {
        var entries = Auditor.Run(files).Surface.Entries;
        return string.Join(' ', paths.Select(p => entries.FirstOrDefault(e => e.Path == p)?.SignIn ?? $"{p} is missing among {string.Join(", ", entries.Select(e => e.Path))}"));
    }
}
