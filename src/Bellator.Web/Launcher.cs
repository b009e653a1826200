using System.Diagnostics;
using Bellator.Storage;
using Bellator.Storage.Cluster;
using Bellator.Web.Runs;
using Bellator.Web.Supervision;
using Serilog;
using Serilog.Events;

namespace Bellator.Web;

/// <summary><c>bellator demo</c>, <c>serve</c> and <c>worker</c>: starts what they need and stops it again.</summary>
public static class Launcher
{
    public static async Task<int> RunAsync(string[] args)
    {
        var mode = args.FirstOrDefault() ?? "serve";
        if (mode is not ("demo" or "serve" or "worker"))
        {
            Console.Error.WriteLine("bellator: there are the commands demo, serve and worker");
            return 2;
        }

        Log.Logger = new LoggerConfiguration().MinimumLevel.Warning()
            .MinimumLevel.Override("Hangfire", LogEventLevel.Error)
            .MinimumLevel.Override("Microsoft.Extensions.Hosting", LogEventLevel.Fatal)
            .MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)

            // It warns that it sets the header which keeps answers out of caches, as every answer of ours has it anyway.
            .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Error)
            .WriteTo.Console(standardErrorFromLevel: LogEventLevel.Verbose).CreateLogger();
        try
        {
            return await RunAsync(mode, LaunchSettings.Read());
        }
        catch (ClusterException e)
        {
            return Refused(e.Message);
        }
        catch (IOException e) when (e.Message.Contains("address already in use", StringComparison.OrdinalIgnoreCase))
        {
            return Refused("the port is taken by another program; nothing was lost. Choose another with BELLATOR_PORT");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or Npgsql.NpgsqlException)
        {
            return Refused(e.Message);
        }
        finally
        {
            await Log.CloseAndFlushAsync();
        }
    }

    private static int Refused(string reason)
    {
        Console.Error.WriteLine("bellator: " + reason.TrimEnd('.').ReplaceLineEndings(" ") + ".");
        return 2;
    }

    private static async Task<int> RunAsync(string mode, LaunchSettings settings)
    {
        var watch = Stopwatch.StartNew();
        Say("database");
        await using var cluster = await LocalCluster.StartAsync(settings.DataFolder);
        Migrator.Migrate(cluster);
        var web = new WebSettings(
            cluster.ConnectionFor("bellator_web"),
            cluster.ConnectionFor("bellator_worker"),
            cluster.ConnectionFor("bellator_jobs"),
            cluster.ConnectionFor(LocalCluster.ScratchDatabase),
            settings.Url,
            settings.DataFolder,
            settings.Works)
        { Hosts = settings.Hosts };
        if (mode == "worker")
        {
            return await WorkAsync(cluster, web);
        }

        EmptyTemporary(web.TemporaryFolder);
        var app = WebApp.Build(web);
        app.Lifetime.ApplicationStarted.Register(() => _ = KeepServerAsync(cluster, app.Services.GetRequiredService<Database>(), app.Lifetime.ApplicationStopping));
        await using (app)
        {
            if (mode == "demo")
            {
                Say("demo");
                await DemoData.LoadAsync(app.Services, settings.SamplesFolder);
            }

            await app.StartAsync();
            Say($"ready after {watch.Elapsed.TotalSeconds:0.0} s");
            Console.WriteLine();
            Console.WriteLine("  " + settings.Url.Replace("127.0.0.1", "localhost", StringComparison.Ordinal));
            if (mode == "demo")
            {
                Console.WriteLine($"  sign in as {DemoData.Email} with {DemoData.Password}");
            }

            Console.WriteLine("  Ctrl-C stops everything");
            await app.WaitForShutdownAsync();
        }

        return 0;
    }

    private static async Task<int> WorkAsync(LocalCluster cluster, WebSettings settings)
    {
        // Its own folder: the one of the web application is emptied when that starts.
        var folder = Directory.CreateTempSubdirectory("bellator-worker-").FullName;
        try
        {
            var work = settings with { Works = true, Supervision = SupervisorSettings.Read(folder) };
            var builder = Host.CreateApplicationBuilder(new HostApplicationBuilderSettings { DisableDefaults = true });
            builder.Services.AddSingleton(new Database(work.WebConnection, work.WorkerConnection, work.ScratchConnection));
            builder.Services.AddAuditJobs(work);
            using var host = builder.Build();
            _ = KeepServerAsync(cluster, host.Services.GetRequiredService<Database>(), host.Services.GetRequiredService<IHostApplicationLifetime>().ApplicationStopping);
            Console.WriteLine("  waiting for audits; Ctrl-C stops");
            await host.RunAsync();
            return 0;
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    /// <summary>What a process that was killed left of uploads and of its helpers.</summary>
    private static void EmptyTemporary(string folder)
    {
        if (Directory.Exists(folder))
        {
            Directory.Delete(folder, recursive: true);
        }
    }

    /// <summary>What the log says once requests meet the new server only.</summary>
    public const string ServerIsBack = "the database's server is back";

    /// <summary>Starts the database's server again when it has died.</summary>
    private static async Task KeepServerAsync(LocalCluster cluster, Database database, CancellationToken stop)
    {
        var wasAway = false;
        while (!stop.IsCancellationRequested)
        {
            if (!wasAway && !cluster.IsRunning)
            {
                wasAway = true;
                Log.Warning("the database's server is away and is started again");
            }

            var isThere = await cluster.RestoreAsync(CancellationToken.None);

            if (isThere && wasAway)
            {
                database.Clear();
                Log.Warning(ServerIsBack);
            }

            wasAway = !isThere;
            await Task.Delay(TimeSpan.FromMilliseconds(500), stop).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }

    private static void Say(string step) => Console.WriteLine("bellator: " + step);
}

/// <summary>Where things are, from the environment; the launcher script sets what it knows.</summary>
/// <param name="Hosts">Further names under which visitors reach the program, <c>BELLATOR_HOSTS</c>.</param>
public sealed record LaunchSettings(string DataFolder, string Url, string SamplesFolder, bool Works, IReadOnlyList<string> Hosts)
{
    public static LaunchSettings Read()
    {
        var home = Environment.GetEnvironmentVariable("BELLATOR_HOME") ?? Directory.GetCurrentDirectory();
        var port = Environment.GetEnvironmentVariable("BELLATOR_PORT") ?? "5080";
        if (!ushort.TryParse(port, out var number) || number == 0)
        {
            throw new ClusterException("BELLATOR_PORT must be a port number");
        }

        return new LaunchSettings(
            Environment.GetEnvironmentVariable("BELLATOR_DATA") is { Length: > 0 } data ? Path.GetFullPath(data) : DefaultFolder(home),
            $"http://127.0.0.1:{number}",
            Path.Combine(home, "samples", "fernhollow"),
            Environment.GetEnvironmentVariable("BELLATOR_NO_WORK") is null,
            (Environment.GetEnvironmentVariable("BELLATOR_HOSTS") ?? "").Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries));
    }

    /// <summary>
    /// Below the program's own folder. Root's PostgreSQL runs as another user, who may not enter root's home: then it is a folder of the
    /// system's, named after the program's.
    /// </summary>
    private static string DefaultFolder(string home)
    {
        var folder = Path.Combine(home, ".local", "data");
        if (Directory.Exists(Path.Combine(folder, "data")) || ClusterPrograms.CanReach(folder))
        {
            return folder;
        }

        var name = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(home)).AsSpan(0, 6));
        return Path.Combine("/var/lib/bellator", name);
    }
}
