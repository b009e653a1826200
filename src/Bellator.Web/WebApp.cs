using System.Threading.RateLimiting;
using Bellator.Storage;
using Bellator.Web.Accounts;
using Bellator.Web.Runs;
using Bellator.Web.Security;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.CookiePolicy;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Serilog;

namespace Bellator.Web;

/// <param name="DataFolder">Where keys and temporary files are.</param>
/// <param name="Works">True if this process also sees to audits.</param>
public sealed record WebSettings(string WebConnection, string WorkerConnection, string JobConnection, string ScratchConnection, string Url, string DataFolder, bool Works)
{
    public string KeyFolder => Path.Combine(DataFolder, "keys");

    /// <summary>Uploads while they come in, and what helpers say of themselves. It is emptied at every start.</summary>
    public string TemporaryFolder => Path.Combine(DataFolder, "tmp");

    /// <summary>Forms with a password that one source may send in a minute.</summary>
    public int SignInsPerMinute { get; init; } = 60;

    /// <summary>Names under which the program answers, besides those of this machine; a proxy hands on the name that visitors use.</summary>
    public IReadOnlyList<string> Hosts { get; init; } = [];

    public SupervisorSettings Supervision { get; init; } = SupervisorSettings.Read(Path.Combine(DataFolder, "tmp"));
}

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

            // Pages that take files say so themselves.
            kestrel.Limits.MaxRequestBodySize = RequestRules.MaxFormBytes;
            kestrel.Limits.MaxConcurrentConnections = 2000;
        });
        Directory.CreateDirectory(settings.TemporaryFolder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        Environment.SetEnvironmentVariable("ASPNETCORE_TEMP", settings.TemporaryFolder);
        builder.Services.AddHostFiltering(hosts =>
        {
            hosts.AllowedHosts = ["localhost", "127.0.0.1", "[::1]", .. settings.Hosts];
            hosts.AllowEmptyHosts = false;
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
        builder.Services.AddAuditJobs(settings);
        builder.Services.AddSingleton(settings);
        builder.Services.AddSingleton<ApplicationCache>();
        builder.Services.AddSingleton<BenchQueue>();
        builder.Services.AddSingleton<IntakeDesk>();
        builder.Services.AddSingleton<ChangeListener>();
        builder.Services.AddHostedService(s => s.GetRequiredService<ChangeListener>());
        builder.Services.AddSingleton<ProgressEvents.Services>();
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
                    _ => new FixedWindowRateLimiterOptions { PermitLimit = settings.SignInsPerMinute, Window = TimeSpan.FromMinutes(1) })
                : RateLimitPartition.GetNoLimiter(""));
            limiter.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, string>(context => IsStream(context.Request.Path)
                ? RateLimitPartition.GetConcurrencyLimiter("streams", _ => new ConcurrencyLimiterOptions { PermitLimit = 1000 })
                : RateLimitPartition.GetConcurrencyLimiter("pages", _ => new ConcurrencyLimiterOptions { PermitLimit = RequestRules.AtOnce, QueueLimit = RequestRules.MostWaiting, QueueProcessingOrder = QueueProcessingOrder.OldestFirst }));
            limiter.OnRejected = (context, _) =>
            {
                context.HttpContext.Response.Headers.RetryAfter = context.Lease.TryGetMetadata(MetadataName.RetryAfter, out var wait) ? ((int)wait.TotalSeconds + 1).ToString(System.Globalization.CultureInfo.InvariantCulture) : "3";

                // A limit on tries is the visitor's own; without one it is the machine that has too much to do.
                context.HttpContext.Response.StatusCode = context.Lease.TryGetMetadata(MetadataName.RetryAfter, out TimeSpan _) ? StatusCodes.Status429TooManyRequests : StatusCodes.Status503ServiceUnavailable;
                return ValueTask.CompletedTask;
            };
        });
        var app = builder.Build();
        app.UseSecurityHeaders();
        app.UseHostFiltering();
        app.UseExceptionHandler("/problem/500");
        app.UseStatusCodePagesWithReExecute("/problem/{0}");
        app.UseBackInAMoment();
        app.UseRequestRules();

        // All cookies are for secure channels only; browsers treat loopback as one.
        app.UseCookiePolicy(new CookiePolicyOptions { Secure = CookieSecurePolicy.Always, HttpOnly = HttpOnlyPolicy.Always });
        app.UseStaticFiles();
        app.UseRouting();
        app.UseRateLimiter();
        app.UseAuthentication();
        app.UseKnownVisitor();
        app.UseAuthorization();
        app.MapRazorPages();
        app.MapProgressEvents();
        return app;
    }

    private static bool IsStream(PathString path) => path.Value?.EndsWith("/events", StringComparison.Ordinal) == true;

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
