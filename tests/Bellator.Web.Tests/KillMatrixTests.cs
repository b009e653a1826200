using System.Diagnostics;
using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Bellator.Storage.Runs;
using Bellator.Testing;
using Bellator.Text;

namespace Bellator.Web.Tests;

/// <summary>
/// kill -9 of the web process, of the helper that audits, and of the database's server, in the middle of what they do. Afterwards nothing
/// that was acknowledged is lost, nothing half done is shown, every run comes to an end, and nothing is left lying or running. They mostly
/// wait, each for processes of its own, so they run beside the other tests.
/// </summary>
public sealed partial class KillMatrixTests : IDisposable
{
    private readonly string _folder = Path.Combine(Path.GetTempPath(), "bellator-kill-" + Guid.NewGuid().ToString("N")[..8]);

    public void Dispose()
    {
        if (Directory.Exists(_folder))
        {
            Directory.Delete(_folder, recursive: true);
        }
    }

    [Theory]
    [InlineData("web", 100)]
    [InlineData("web", 700)]
    [InlineData("helper", 300)]
    [InlineData("database", 300)]
    public async Task During_an_audit(string who, int after)
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync());
        using var client = await served.VisitorAsync();
        var review = await UploadAsync(client, 400);
        await UntilAsync(client, review, h => !h.Contains("id=\"intake\"", StringComparison.Ordinal) && h.Contains("id=\"run\"", StringComparison.Ordinal));
        await Task.Delay(after);
        served = await KillAsync(served, who);
        using var again = await served.VisitorAsync();
        var html = await UntilAsync(again, review, h => RunState().Match(h).Groups[1].Value is "done" or "failed" or "cancelled" or "interrupted");
        Assert.Equal("done", RunState().Match(html).Groups[1].Value);
        Assert.Contains("0 of 400 judged", await again.GetStringAsync(new Uri(review + "/findings", UriKind.Relative)), StringComparison.Ordinal);
        await EndAsync(served);
    }

    /// <summary>All is written, and nothing of it holds yet: the moment at which half a result would show.</summary>
    [Theory]
    [InlineData("web")]
    [InlineData("helper")]
    [InlineData("database")]
    public async Task While_the_result_is_saved(string who)
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync(), ("BELLATOR_TEST_FAULTS", "1"));
        using var client = await served.VisitorAsync();
        var review = await UploadAsync(client, 30);
        await UntilAsync(client, review, h => RunState().Match(h).Groups[1].Value == "running");
        await UntilSavingAsync();
        Assert.DoesNotContain("0 of 30 judged", await client.GetStringAsync(new Uri(review + "/findings", UriKind.Relative)), StringComparison.Ordinal);
        served = await KillAsync(served, who);
        using var again = await served.VisitorAsync();
        await UntilAsync(again, review, h => RunState().Match(h).Groups[1].Value == "done");
        Assert.Contains("0 of 30 judged", await again.GetStringAsync(new Uri(review + "/findings", UriKind.Relative)), StringComparison.Ordinal);
        await EndAsync(served);
    }

    /// <summary>Pages are served by one process, audits carried out by another beside it, which dies and is started again.</summary>
    [Fact]
    public async Task A_worker_of_its_own()
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync(), ("BELLATOR_NO_WORK", "1"));
        var worker = ServedProcess.Start(_folder, "worker");
        await worker.UntilReadyAsync();
        using var client = await served.VisitorAsync();
        var review = await UploadAsync(client, 400);
        await UntilAsync(client, review, h => RunState().Match(h).Groups[1].Value == "running");
        await worker.KillAsync();
        await worker.DisposeAsync();
        await using (var next = ServedProcess.Start(_folder, "worker"))
        {
            await UntilAsync(client, review, h => RunState().Match(h).Groups[1].Value == "done");
        }

        Assert.Contains("0 of 400 judged", await client.GetStringAsync(new Uri(review + "/findings", UriKind.Relative)), StringComparison.Ordinal);
        await EndAsync(served);
    }

    private async Task UntilSavingAsync()
    {
        for (var watch = Stopwatch.StartNew(); watch.Elapsed < TimeSpan.FromSeconds(30); await Task.Delay(20))
        {
            if (Directory.GetFiles(Path.Combine(_folder, "tmp"), "audit-*").Any(f => AuditActivity.Read(f) is { } now && now.Open.Contains(RunExecutor.Commit)))
            {
                return;
            }
        }

        throw new TimeoutException("nothing is saved");
    }

    [Theory]
    [InlineData("web", 30)]
    [InlineData("web", 400)]
    [InlineData("database", 100)]
    public async Task During_an_upload(string who, int after)
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync());
        using var client = await served.VisitorAsync();
        var uploading = UploadAsync(client, 15_000);
        await Task.Delay(after);
        served = await KillAsync(served, who);
        try
        {
            await uploading;
        }
        catch (Exception e) when (e is HttpRequestException or InvalidOperationException or OperationCanceledException)
        {
            // It was not acknowledged.
        }

        using var again = await served.VisitorAsync();
        foreach (Match link in ReviewLink().Matches(await again.GetStringAsync(new Uri("/", UriKind.Relative))))
        {
            // All of it is there, or nothing and a word about it.
            var html = await UntilAsync(again, link.Value, h => !h.Contains("data-state=\"reading\"", StringComparison.Ordinal) && !h.Contains("data-state=\"queued\"", StringComparison.Ordinal) && !h.Contains("data-state=\"running\"", StringComparison.Ordinal));
            Assert.True(html.Contains("15,000 files", StringComparison.Ordinal) || html.Contains("interrupted", StringComparison.Ordinal) || html.Contains("Nothing was handed in yet", StringComparison.Ordinal), html);
        }

        Assert.Empty(Directory.GetFiles(Path.Combine(_folder, "tmp"), "upload-*"));
        await EndAsync(served);
    }

    [Theory]
    [InlineData("web")]
    [InlineData("database")]
    public async Task During_verdicts(string who)
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync());
        var client = await served.VisitorAsync();
        var review = await UploadAsync(client, 20);
        await UntilAsync(client, review, h => RunState().Match(h).Groups[1].Value == "done");
        var ids = FindingId().Matches(await client.GetStringAsync(new Uri(review + "/findings", UriKind.Relative))).Select(m => m.Groups[1].Value).Distinct().ToList();
        var acknowledged = new List<string>();
        using var stop = new CancellationTokenSource();
        var judging = Task.Run(async () =>
        {
            foreach (var id in ids)
            {
                try
                {
                    using var response = await TestApp.PostAsync(client, $"{review}/findings/{id}", $"{review}/findings/{id}", new() { ["verdict"] = "confirmed", ["reason"] = "seen " + id });
                    if (response.StatusCode == HttpStatusCode.Redirect)
                    {
                        acknowledged.Add(id);
                    }
                }
                catch (HttpRequestException)
                {
                    // Nothing was promised.
                }
            }
        });
        await Task.Delay(150);
        served = await KillAsync(served, who);
        await judging;
        client.Dispose();
        using var again = await served.VisitorAsync();
        foreach (var id in acknowledged)
        {
            Assert.Contains("seen " + id, await again.GetStringAsync(new Uri($"{review}/findings/{id}", UriKind.Relative)), StringComparison.Ordinal);
        }

        var list = await again.GetStringAsync(new Uri(review + "/findings", UriKind.Relative));
        var open = Regex.Count(list, "class=\"verdict to-judge\"");
        Assert.Contains(open == 0 ? "all judged" : $"{ids.Count - open} of {ids.Count} judged", list, StringComparison.Ordinal);
        await EndAsync(served);
    }

    [Theory]
    [InlineData(300)]
    [InlineData(900)]
    [InlineData(1600)]
    public async Task During_the_first_start_and_the_migrations(int after)
    {
        await using (var first = ServedProcess.Start(_folder))
        {
            await Task.Delay(after);
            await first.KillAsync();
        }

        var served = await ServedProcess.ReadyAsync(_folder);
        Assert.False(File.Exists(Path.Combine(_folder, "initial")));
        using var client = await served.VisitorAsync();
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(new Uri("/", UriKind.Relative))).StatusCode);
        await EndAsync(served);
    }

    [Fact]
    public async Task A_refused_start_is_one_sentence_and_exit_code_two()
    {
        await FolderAsync();
        await File.WriteAllTextAsync(Path.Combine(_folder, "secret"), "damaged");
        await using var refused = ServedProcess.Start(_folder);
        Assert.Equal(2, await refused.ExitAsync());
        await Task.Delay(200);
        var said = refused.Said.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        Assert.Equal(2, said.Length);
        Assert.Contains("missing or damaged", said[1], StringComparison.Ordinal);
        Assert.False(File.Exists(Path.Combine(_folder, "data", "postmaster.pid")));
    }

    [Fact]
    public async Task Nothing_is_said_below_the_welcome_lines()
    {
        var served = await ServedProcess.ReadyAsync(await FolderAsync());
        using (var client = await served.VisitorAsync())
        {
            await client.GetStringAsync(new Uri("/account", UriKind.Relative));
        }

        Assert.EndsWith("Ctrl-C stops everything", served.Said.Trim(), StringComparison.Ordinal);
        await EndAsync(served);
    }

    /// <summary>A folder that was started once: making a database is not what most of these tests are about.</summary>
    private async Task<string> FolderAsync()
    {
        var started = await Started.Value;
        using var copy = Process.Start("cp", ["-a", started, _folder]);
        await copy.WaitForExitAsync();
        return _folder;
    }

    private static readonly Lazy<Task<string>> Started = new(async () =>
    {
        var folder = Path.Combine(Path.GetTempPath(), "bellator-kill-started-" + Guid.NewGuid().ToString("N")[..8]);
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, recursive: true);
        await (await ServedProcess.ReadyAsync(folder)).DisposeAsync();
        return folder;
    });

    /// <summary>Kills one of them; a web process is started again, as its owner would.</summary>
    private async Task<ServedProcess> KillAsync(ServedProcess served, string who)
    {
        switch (who)
        {
            case "helper":
                await served.KillHelpersAsync();
                return served;
            case "database":
                await served.KillDatabaseAsync();
                await UntilUpAsync(served);
                return served;
            default:
                await served.KillAsync();
                await served.DisposeAsync();
                return await ServedProcess.ReadyAsync(_folder);
        }
    }

    /// <summary>What the dead server had started may answer for a moment, so a page alone does not show that the new one is there.</summary>
    private static async Task UntilUpAsync(ServedProcess served)
    {
        using var client = CookieHandler.Client(served.Url);
        for (var watch = Stopwatch.StartNew(); ; await Task.Delay(200))
        {
            using var response = await client.GetAsync(new Uri("/sign-in", UriKind.Relative));
            if (response.StatusCode == HttpStatusCode.OK && served.Said.Contains(Launcher.ServerIsBack, StringComparison.Ordinal))
            {
                return;
            }

            Assert.Contains(response.StatusCode, new[] { HttpStatusCode.OK, HttpStatusCode.ServiceUnavailable });
            Assert.True(watch.Elapsed < TimeSpan.FromSeconds(10), "the database is not back: " + served.Said);
        }
    }

    /// <summary>Ends it, and looks whether anything is left running or lying.</summary>
    private async Task EndAsync(ServedProcess served)
    {
        await served.DisposeAsync();
        Assert.False(File.Exists(Path.Combine(_folder, "data", "postmaster.pid")));
        using var find = Process.Start(new ProcessStartInfo("pgrep", ["-f", _folder]) { RedirectStandardOutput = true })!;
        var left = await find.StandardOutput.ReadToEndAsync();
        Assert.Equal("", left);
    }

    private static async Task<string> UploadAsync(HttpClient client, int files)
    {
        using var created = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = "Killed" });
        var review = created.Headers.Location?.ToString() ?? throw new InvalidOperationException("the review was answered with " + created.StatusCode);
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            for (var i = 0; i < files; i++)
            {
                using var entry = zip.CreateEntry($"f{i}.php", CompressionLevel.Fastest).Open();
                entry.Write(Encoding.UTF8.GetBytes(files > 1000 ? $"<?php g({i});" : $"<?php\nfunction f{i}($x) {{ return $x . '{i}'; }}\necho f{i}($_GET['x{i}']);\n"));
            }
        }

        using var content = new MultipartFormDataContent
        {
            { new StringContent(await TestApp.TokenAsync(client, review)), "__RequestVerificationToken" },
            { new ByteArrayContent(stream.ToArray()), "files", "code.zip" },
        };
        using var sent = await client.PostAsync(new Uri(review + "?handler=Upload", UriKind.Relative), content);
        return sent.StatusCode == HttpStatusCode.Redirect ? review : throw new InvalidOperationException("the upload was answered with " + sent.StatusCode);
    }

    private static async Task<string> UntilAsync(HttpClient client, string path, Func<string, bool> wanted)
    {
        var html = "";
        for (var watch = Stopwatch.StartNew(); watch.Elapsed < TimeSpan.FromSeconds(90); await Task.Delay(150))
        {
            using var response = await client.GetAsync(new Uri(path, UriKind.Relative));
            html = await response.Content.ReadAsStringAsync();
            if (response.StatusCode == HttpStatusCode.OK && wanted(html))
            {
                return html;
            }
        }

        throw new TimeoutException(html);
    }

    [GeneratedRegex("id=\"run\" data-run=\"[^\"]+\" data-state=\"([a-z]+)\"")]
    private static partial Regex RunState();

    [GeneratedRegex("/reviews/[0-9a-f-]{36}")]
    private static partial Regex ReviewLink();

    [GeneratedRegex("/findings/([0-9]+)")]
    private static partial Regex FindingId();
}
