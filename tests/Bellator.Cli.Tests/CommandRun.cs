using System.Diagnostics;

namespace Bellator.Cli.Tests;

/// <summary>Calls the command as a process of its own.</summary>
internal static class CommandRun
{
    private const int InternalError = 3;

    public static async Task<(int Code, string Output, string Errors)> RunAsync(string folder, string? input, params string[] arguments)
    {
        var dll = Path.Combine(AppContext.BaseDirectory, "bellator.dll");
        var start = new ProcessStartInfo("dotnet", [dll, .. arguments]) { RedirectStandardInput = input is not null, RedirectStandardOutput = true, RedirectStandardError = true, WorkingDirectory = folder };
        using var process = Process.Start(start)!;
        if (input is not null)
        {
            await process.StandardInput.WriteAsync(input);
            process.StandardInput.Close();
        }

        var output = process.StandardOutput.ReadToEndAsync();
        var errors = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();

        // What broke would be lost behind an exit code that a test did not expect.
        Assert.False(process.ExitCode == InternalError, await errors);
        return (process.ExitCode, await output, await errors);
    }
}
