using System.Diagnostics;
using System.Globalization;
using System.Runtime.Versioning;

namespace Bellator.Cli.Tests;

/// <summary>A command that is busy ends when it is told to, as whoever runs it from a script or a terminal expects.</summary>
[SupportedOSPlatform("linux")]
public sealed class SignalTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-signal").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Theory]
    [InlineData("-TERM")]
    [InlineData("-INT")]
    public async Task A_busy_audit_ends_on_a_signal(string signal)
    {
        // Enough for some seconds, so that it is busy when the signal comes.
        for (var i = 0; i < 1500; i++)
        {
            await File.WriteAllTextAsync(Path.Combine(_folder, $"page{i}.php"), "<?php\n" + string.Concat(Enumerable.Range(0, 60).Select(n => $"function f{i}_{n}($a) {{ return g($a . '{n}', f{(i + 1) % 1500}_{n}($a)); }}\necho f{i}_{n}($_GET['x{n}']);\n")));
        }

        var start = new ProcessStartInfo("env", ["--default-signal=INT", "dotnet", Path.Combine(AppContext.BaseDirectory, "bellator.dll"), "audit", "."]) { RedirectStandardOutput = true, RedirectStandardError = true, WorkingDirectory = _folder };
        using var process = Process.Start(start)!;
        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        await Task.Delay(1500);
        Assert.False(process.HasExited, "it is over too soon to show anything");
        using (var kill = Process.Start("kill", [signal, process.Id.ToString(CultureInfo.InvariantCulture)]))
        {
            await kill.WaitForExitAsync();
        }

        using var limit = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        await process.WaitForExitAsync(limit.Token);
        Assert.NotEqual(0, process.ExitCode);
        await Task.WhenAll(output, errors);
    }
}
