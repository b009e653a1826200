using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Text;

namespace Bellator.Testing;

/// <summary><c>bellator serve</c> as a process of its own, to be killed.</summary>
public sealed class ServedProcess : IAsyncDisposable
{
    private readonly Process _process;
    private readonly StringBuilder _said = new();

    private ServedProcess(Process process, string folder, string url)
    {
        _process = process;
        Folder = folder;
        Url = url;
        process.OutputDataReceived += (_, e) => Note(e.Data);
        process.ErrorDataReceived += (_, e) => Note(e.Data);
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
    }

    public string Folder { get; }

    public string Url { get; }

    public int Id => _process.Id;

    public string Said
    {
        get
        {
            lock (_said)
            {
                return _said.ToString();
            }
        }
    }

    /// <param name="mode">serve, demo or worker.</param>
    /// <param name="set">Further variables of the environment.</param>
    public static ServedProcess Start(string folder, string mode = "serve", params (string Name, string Value)[] set)
    {
        var port = TestApp.FreePort();
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "bellator-web.dll"), mode]) { RedirectStandardOutput = true, RedirectStandardError = true };
        start.Environment["BELLATOR_SILENCE_SECONDS"] = "5";
        start.Environment["BELLATOR_DATA"] = folder;
        start.Environment["BELLATOR_HOME"] = TestCluster.ProjectFolder();
        start.Environment["BELLATOR_PORT"] = port.ToString(CultureInfo.InvariantCulture);
        foreach (var (name, value) in set)
        {
            start.Environment[name] = value;
        }

        return new ServedProcess(Process.Start(start)!, folder, $"http://localhost:{port}");
    }

    /// <summary>Starts it and waits until it answers.</summary>
    public static async Task<ServedProcess> ReadyAsync(string folder, params (string Name, string Value)[] set)
    {
        var served = Start(folder, "serve", set);
        await served.UntilReadyAsync();
        return served;
    }

    public async Task UntilReadyAsync()
    {
        for (var watch = Stopwatch.StartNew(); !Said.Contains("Ctrl-C stops", StringComparison.Ordinal); await Task.Delay(50))
        {
            if (_process.HasExited || watch.Elapsed > TimeSpan.FromSeconds(60))
            {
                throw new InvalidOperationException("it is not ready: " + Said);
            }
        }
    }

    /// <summary>Waits until it ended by itself.</summary>
    public async Task<int> ExitAsync()
    {
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        await _process.WaitForExitAsync(limit.Token);
        return _process.ExitCode;
    }

    /// <summary>kill -9, of this process alone: what it started is left to itself.</summary>
    public async Task KillAsync()
    {
        using (var kill = Process.Start("kill", ["-9", _process.Id.ToString(CultureInfo.InvariantCulture)]))
        {
            await kill.WaitForExitAsync();
        }

        await _process.WaitForExitAsync();
    }

    /// <summary>kill -9 of the database's server.</summary>
    public async Task KillDatabaseAsync()
    {
        using var kill = Process.Start("kill", ["-9", (await File.ReadAllLinesAsync(Path.Combine(Folder, "data", "postmaster.pid")))[0]]);
        await kill.WaitForExitAsync();
    }

    /// <summary>kill -9 of the helpers that audit.</summary>
    public async Task KillHelpersAsync()
    {
        using var kill = Process.Start("pkill", ["-9", "-P", _process.Id.ToString(CultureInfo.InvariantCulture)]);
        await kill.WaitForExitAsync();
    }

    /// <summary>Ends it as Ctrl-C does.</summary>
    public async ValueTask DisposeAsync()
    {
        if (!_process.HasExited)
        {
            using (var end = Process.Start("kill", ["-INT", _process.Id.ToString(CultureInfo.InvariantCulture)]))
            {
                await end.WaitForExitAsync();
            }

            using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(30));
            await _process.WaitForExitAsync(limit.Token);
        }

        _process.Dispose();
    }

    /// <summary>A visitor who is signed in; the first one makes the first account.</summary>
    public async Task<HttpClient> VisitorAsync()
    {
        const string Email = "i.marsh@fernhollow.example";
        const string Password = "smoke before opening";
        var client = CookieHandler.Client(Url);
        using (var first = await client.GetAsync(new Uri("/sign-in", UriKind.Relative)))
        {
            if (first.StatusCode == HttpStatusCode.Redirect)
            {
                using var made = await TestApp.PostAsync(client, "/first-account", "/first-account", new() { ["Name"] = "I. Marsh", ["Email"] = Email, ["Password"] = Password });
            }
        }

        using var signedIn = await TestApp.PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = Email, ["password"] = Password });
        return signedIn.StatusCode == HttpStatusCode.Redirect ? client : throw new InvalidOperationException("sign-in failed: " + Said);
    }

    private void Note(string? line)
    {
        lock (_said)
        {
            _said.AppendLine(line);
        }
    }
}
