using System.Diagnostics;
using Bellator.Storage;
using Bellator.Storage.Cluster;
using Bellator.Storage.Runs;
using Bellator.Web.Runs;
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
            .WriteTo.Console(standardErrorFromLevel: LogEventLevel.Verbose).CreateLogger();
        try
        {
            return await RunAsync(mode, LaunchSettings.Read());
        }
        catch (ClusterException e)
        {
            Console.Error.WriteLine("bellator: " + e.Message);
            return 2;
        }
        catch (IOException e) when (e.Message.Contains("address already in use", StringComparison.OrdinalIgnoreCase))
        {
            Console.Error.WriteLine("bellator: the port is taken by another program; nothing was lost. Choose another with BELLATOR_PORT.");
            return 2;
        }
        finally
        {
            await Log.CloseAndFlushAsync();
        }
    }

    private static async Task<int> RunAsync(string mode, LaunchSettings settings)
    {
        var watch = Stopwatch.StartNew();
        Say("database");
        await using var cluster = await LocalCluster.StartAsync(settings.DataFolder);
        Migrator.Migrate(cluster);
        if (mode == "worker")
        {
            return await WorkAsync(cluster);
        }

        var app = WebApp.Build(new WebSettings(
            cluster.ConnectionFor("bellator_web"),
            cluster.ConnectionFor("bellator_worker"),
            cluster.ConnectionFor("bellator_jobs"),
            cluster.ConnectionFor(LocalCluster.ScratchDatabase),
            settings.Url,
            Path.Combine(settings.DataFolder, "keys"),
            settings.Works));
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

    private static async Task<int> WorkAsync(LocalCluster cluster)
    {
        var builder = Host.CreateApplicationBuilder(new HostApplicationBuilderSettings { DisableDefaults = true });
        builder.Services.AddSingleton(new Database(cluster.ConnectionFor("bellator_web"), cluster.ConnectionFor("bellator_worker"), cluster.ConnectionFor(LocalCluster.ScratchDatabase)));
        builder.Services.AddAuditJobs(cluster.ConnectionFor("bellator_jobs"), works: true);
        using var host = builder.Build();
        Console.WriteLine("  waiting for audits; Ctrl-C stops");
        await host.RunAsync();
        return 0;
    }

    private static void Say(string step) => Console.WriteLine("bellator: " + step);
}

/// <summary>Where things are, from the environment; the launcher script sets what it knows.</summary>
public sealed record LaunchSettings(string DataFolder, string Url, string SamplesFolder, bool Works)
{
    public static LaunchSettings Read()
    {
        var home = Environment.GetEnvironmentVariable("BELLATOR_HOME") ?? Directory.GetCurrentDirectory();
        var data = Environment.GetEnvironmentVariable("BELLATOR_DATA") ?? Path.Combine(home, ".local", "data");
        var port = Environment.GetEnvironmentVariable("BELLATOR_PORT") ?? "5080";
        if (!ushort.TryParse(port, out var number) || number == 0)
        {
            throw new ClusterException("BELLATOR_PORT must be a port number");
        }

        return new LaunchSettings(data, $"http://127.0.0.1:{number}", Path.Combine(home, "samples", "fernhollow"), Environment.GetEnvironmentVariable("BELLATOR_NO_WORK") is null);
    }
}
