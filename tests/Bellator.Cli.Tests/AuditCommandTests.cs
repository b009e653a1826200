using System.Diagnostics;
using System.Text.Json.Nodes;

namespace Bellator.Cli.Tests;

/// <summary>The command as a person or a build server calls it: exit codes, outputs, clear errors.</summary>
public sealed class AuditCommandTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-cli").FullName;

    public AuditCommandTests() => File.WriteAllText(
        Path.Combine(_folder, "page.php"),
        "<?php\n$db = new mysqli('h', 'app', getenv('PW'));\n$db->query('SELECT * FROM t WHERE a = ' . $_GET['a']);\n");

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public async Task A_folder_is_audited_and_summed_up()
    {
        var (code, output, _) = await RunAsync("audit", _folder);
        Assert.Equal(0, code);
        Assert.Contains("Injection (1)", output, StringComparison.Ordinal);
        Assert.Contains("page.php:3  proved  injection/sql", output, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_single_file_and_reports_in_files()
    {
        var sarif = Path.Combine(_folder, "out.sarif");
        var json = Path.Combine(_folder, "out.json");
        var (code, output, errors) = await RunAsync("audit", Path.Combine(_folder, "page.php"), "--sarif", sarif, "--json", json, "--quiet");
        Assert.Equal((0, "", ""), (code, output, errors));
        Assert.Equal("2.1.0", JsonNode.Parse(await File.ReadAllTextAsync(sarif))!["version"]!.GetValue<string>());
        Assert.Single(JsonNode.Parse(await File.ReadAllTextAsync(json))!["findings"]!.AsArray());
    }

    [Theory]
    [InlineData("none", 0)]
    [InlineData("high", 1)]
    [InlineData("critical", 1)]
    public async Task The_threshold_decides_the_exit_code(string threshold, int expected) =>
        Assert.Equal(expected, (await RunAsync("audit", _folder, "--fail-on", threshold, "--quiet")).Code);

    [Fact]
    public async Task Only_the_areas_asked_for_are_checked() =>
        Assert.DoesNotContain("injection", (await RunAsync("audit", _folder, "--area", "passwords")).Output, StringComparison.Ordinal);

    [Fact]
    public async Task A_watched_folder_is_audited_again_when_a_file_changes()
    {
        var start = new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "bellator.dll"), "audit", _folder, "--watch"]) { RedirectStandardOutput = true };
        using var process = Process.Start(start)!;
        try
        {
            await UntilAsync(process, "Watching");
            await File.WriteAllTextAsync(Path.Combine(_folder, "page.php"), "<?php\n$db = new mysqli('h', 'app', getenv('PW'));\necho $_GET['a'];\n");
            var said = await UntilAsync(process, "1 new, 1 gone, 1 in all");
            Assert.Contains(said, l => l.StartsWith('-') && l.EndsWith("injection/sql", StringComparison.Ordinal));
            Assert.Contains(said, l => l.StartsWith('+') && l.EndsWith("injection/page-output", StringComparison.Ordinal));
        }
        finally
        {
            process.Kill();
        }
    }

    [Fact]
    public async Task A_watched_folder_that_is_replaced_is_watched_further()
    {
        var folder = Path.Combine(_folder, "watched");
        Directory.CreateDirectory(folder);
        File.Copy(Path.Combine(_folder, "page.php"), Path.Combine(folder, "page.php"));
        using var process = Process.Start(new ProcessStartInfo("dotnet", [Path.Combine(AppContext.BaseDirectory, "bellator.dll"), "audit", folder, "--watch"]) { RedirectStandardOutput = true })!;
        try
        {
            await UntilAsync(process, "Watching");
            Directory.Delete(folder, recursive: true);
            await UntilAsync(process, "is gone");
            Directory.CreateDirectory(folder);
            await File.WriteAllTextAsync(Path.Combine(folder, "page.php"), "<?php echo $_GET['a'];");
            await UntilAsync(process, "1 new, 1 gone, 1 in all");
            await File.WriteAllTextAsync(Path.Combine(folder, "page.php"), "<?php echo 1;");
            await UntilAsync(process, "0 new, 1 gone, 0 in all");
        }
        finally
        {
            process.Kill();
        }
    }

    [Fact]
    public async Task A_full_disk_leaves_the_report_that_was_there()
    {
        // A disk of 8 KiB, which only this process sees.
        var disk = Directory.CreateDirectory(Path.Combine(_folder, "disk")).FullName;
        var (code, output, errors) = await ShellAsync(
            $"as=$(unshare -m true 2>/dev/null && echo -m || echo -rm); unshare $as sh -c \"mount -t tmpfs -o size=8k t '{disk}' && echo the last one >'{disk}/out.sarif' && dotnet '{Dll}' audit '{_folder}' --quiet --sarif '{disk}/out.sarif'; code=\\$?; cat '{disk}/out.sarif'; ls '{disk}'; exit \\$code\"");
        Assert.Equal(2, code);
        Assert.Contains("cannot be written", errors, StringComparison.Ordinal);
        Assert.Equal("the last one\nout.sarif\n", output);
    }

    [Fact]
    public async Task A_report_may_go_to_a_pipe_or_through_a_link()
    {
        var (code, output, _) = await ShellAsync($"dotnet '{Dll}' audit '{_folder}' --quiet --json /dev/stdout | cat");
        Assert.Equal(0, code);
        Assert.Single(JsonNode.Parse(output)!["findings"]!.AsArray());
        var target = Path.Combine(_folder, "target.json");
        File.CreateSymbolicLink(Path.Combine(_folder, "link.json"), target);
        Assert.Equal(0, (await RunAsync("audit", _folder, "--quiet", "--json", Path.Combine(_folder, "link.json"))).Code);
        Assert.True(File.Exists(target));
        Assert.NotNull(new FileInfo(Path.Combine(_folder, "link.json")).LinkTarget);
    }

    [Theory]
    [InlineData("| head -c 10")]
    [InlineData(">&-")]
    [InlineData("2>&-")]
    [InlineData("> /dev/full")]
    public async Task Output_that_nobody_reads_ends_without_a_word(string where)
    {
        var (code, _, errors) = await ShellAsync($"set -o pipefail; dotnet '{Dll}' audit '{_folder}' {where}");
        Assert.Equal((0, ""), (code, errors));
    }

    [Fact]
    public async Task Pipes_and_names_that_are_no_text_are_left_out_and_counted()
    {
        Assert.Equal(0, (await ShellAsync($"mkfifo '{_folder}/pipe.php'; printf '<?php' > \"{_folder}/caf$(printf '\\351').php\"")).Code);
        var (code, output, _) = await RunAsync("audit", _folder);
        Assert.Equal(0, code);
        Assert.Contains("1 finding in 1 file, 3 lines; 2 files or folders left out", output, StringComparison.Ordinal);
        await ShellAsync($"rm -rf '{_folder}'/caf*");
    }

    private static string Dll => Path.Combine(AppContext.BaseDirectory, "bellator.dll");

    private static async Task<(int Code, string Output, string Errors)> ShellAsync(string script)
    {
        using var process = Process.Start(new ProcessStartInfo("bash", ["-c", script]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        await process.WaitForExitAsync(limit.Token);
        return (process.ExitCode, await output, await errors);
    }

    private static async Task<List<string>> UntilAsync(Process process, string wanted)
    {
        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(60));
        var lines = new List<string>();
        while (await process.StandardOutput.ReadLineAsync(limit.Token) is { } line)
        {
            lines.Add(line);
            if (line.Contains(wanted, StringComparison.Ordinal))
            {
                return lines;
            }
        }

        throw new InvalidOperationException($"“{wanted}” was never said: {string.Join('\n', lines)}");
    }

    [Theory]
    [InlineData("--watch takes a folder", "audit", "page.php", "--watch")]
    [InlineData("no such file or folder", "audit", "/nonexistent/x")]
    [InlineData("there is no area", "audit", ".", "--area", "gardening")]
    [InlineData("no such folder of facts", "audit", ".", "--facts", "/nonexistent")]
    [InlineData("--threads", "audit", ".", "--threads", "0")]
    [InlineData("audit --help", "audit")]
    [InlineData("audit --help", "audit", ".", "--fail-on", "sometimes")]
    [InlineData("cannot be written", "audit", ".", "--sarif", "/nonexistent/out.sarif", "--quiet")]
    public async Task Wrong_use_is_two_and_one_clear_sentence(string sentence, params string[] arguments)
    {
        var (code, _, errors) = await RunAsync(arguments);
        Assert.Equal(2, code);
        Assert.Contains(sentence, errors, StringComparison.Ordinal);
        Assert.DoesNotContain("   at ", errors, StringComparison.Ordinal);
    }

    private Task<(int Code, string Output, string Errors)> RunAsync(params string[] arguments) => CommandRun.RunAsync(_folder, null, arguments);
}
