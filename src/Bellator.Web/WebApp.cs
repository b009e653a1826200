using System.Threading.RateLimiting;
using Bellator.Storage;
using Bellator.Storage.Runs;
using Bellator.Web.Accounts;
using Bellator.Web.Runs;
using Bellator.Web.Security;
using Microsoft.AspNetCore.CookiePolicy;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Serilog;

namespace Bellator.Web;

/// <param name="Works">True if audits run in this process too.</param>
public sealed record WebSettings(string WebConnection, string WorkerConnection, string JobConnection, string ScratchConnection, string Url, string KeyFolder, bool Works);

/// <summary>Puts the web application together.</summary>
public static class WebApp
{
    /// <summary>Uploads up to this many bytes are taken.</summary>
    public const long MaxUploadBytes = 200L * 1024 * 1024;

    public const string SignInLimit = "sign-in";

    public static WebApplication Build(WebSettings settings)
    {
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions
        {
            ContentRootPath = FindContentRoot(),
            ApplicationName = typeof(WebApp).Assembly.GetName().Name,
            EnvironmentName = Environments.Production,
        });
        builder.WebHost.UseUrls(settings.Url).ConfigureKestrel(kestrel =>
        {
            kestrel.AddServerHeader = false;
            kestrel.Limits.MaxRequestBodySize = MaxUploadBytes;
        });
        builder.Services.AddSerilog();
        builder.Services.Configure<FormOptions>(form =>
        {
            form.MultipartBodyLengthLimit = MaxUploadBytes;
            form.ValueCountLimit = 4096;
        });
        builder.Services.AddDataProtection().PersistKeysToFileSystem(new DirectoryInfo(settings.KeyFolder)).SetApplicationName("bellator");
        builder.Services.AddSingleton(new Database(settings.WebConnection, settings.WorkerConnection, settings.ScratchConnection));
        builder.Services.AddAccounts();
        builder.Services.AddAuditJobs(settings.JobConnection, settings.Works);
        builder.Services.AddAntiforgery(options =>
        {
            options.Cookie.Name = "__Host-bellator-form";
            options.Cookie.SameSite = SameSiteMode.Strict;
            options.Cookie.Path = "/";
        });
        builder.Services.AddRazorPages(options =>
        {
            options.Conventions.AllowAnonymousToPage("/SignIn");
            options.Conventions.AllowAnonymousToPage("/FirstAccount");
            options.Conventions.AllowAnonymousToPage("/Problem");
        });
        builder.Services.AddRateLimiter(limiter =>
        {
            limiter.RejectionStatusCode = StatusCodes.Status429TooManyRequests;
            limiter.AddPolicy(SignInLimit, context => HttpMethods.IsPost(context.Request.Method)
                ? RateLimitPartition.GetFixedWindowLimiter(
                    context.Connection.RemoteIpAddress?.ToString() ?? "",
                    _ => new FixedWindowRateLimiterOptions { PermitLimit = 20, Window = TimeSpan.FromMinutes(1) })
                : RateLimitPartition.GetNoLimiter(""));
        });
        var app = builder.Build();
        app.UseSecurityHeaders();
        app.UseExceptionHandler("/problem/500");
        app.UseStatusCodePagesWithReExecute("/problem/{0}");

        // All cookies are for secure channels only; browsers treat loopback as one.
        app.UseCookiePolicy(new CookiePolicyOptions { Secure = CookieSecurePolicy.Always, HttpOnly = HttpOnlyPolicy.Always });
        app.UseStaticFiles();
        app.UseRouting();
        app.UseRateLimiter();
        app.UseAuthentication();
        app.UseAuthorization();
        app.MapRazorPages();
        app.MapRunEvents();
        app.Lifetime.ApplicationStarted.Register(() => _ = app.Services.GetRequiredService<RunWorker>().MarkInterruptedAsync(TimeSpan.FromMinutes(2)));
        return app;
    }

    /// <summary>The project's folder while developing, the program's own folder otherwise.</summary>
    private static string FindContentRoot()
    {
        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            var candidate = Path.Combine(folder.FullName, "src", "Bellator.Web");
            if (Directory.Exists(Path.Combine(candidate, "wwwroot")))
            {
                return candidate;
            }
        }

        return AppContext.BaseDirectory;
    }
}
