using System.Diagnostics;

namespace Bellator.Storage.Cluster;

/// <summary>PostgreSQL's programs, and the user that they run as: ourselves, or for root the service user of Debian's package.</summary>
public sealed class ClusterPrograms
{
    private const string ServiceUser = "postgres";
    private const UnixFileMode Own = UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute;
    private const UnixFileMode Passable = Own | UnixFileMode.GroupExecute | UnixFileMode.OtherExecute;
    private readonly string _folder;

    private ClusterPrograms(string folder, string version)
    {
        _folder = folder;
        Version = version;
    }

    /// <summary>The major version: <c>15</c>.</summary>
    public string Version { get; }

    private static bool IsRoot => Environment.UserName == "root";

    /// <exception cref="ClusterException">They are not installed.</exception>
    public static ClusterPrograms Find()
    {
        var version = Directory.Exists("/usr/lib/postgresql")
            ? Directory.GetDirectories("/usr/lib/postgresql").Where(d => File.Exists(Path.Combine(d, "bin", "initdb"))).OrderBy(d => int.TryParse(Path.GetFileName(d), out var number) ? number : 0).LastOrDefault()
            : null;
        return version is null ? throw new ClusterException("PostgreSQL is not installed (Debian package postgresql)") : new ClusterPrograms(Path.Combine(version, "bin"), Path.GetFileName(version));
    }

    /// <summary>Makes a folder and those above it that are not there yet, so that the service user can pass through, whatever the umask says.</summary>
    public void MakeReachable(string folder)
    {
        var missing = new Stack<DirectoryInfo>();
        for (var at = new DirectoryInfo(folder); at is { Exists: false }; at = at.Parent)
        {
            missing.Push(at);
        }

        foreach (var made in missing)
        {
            made.Create();
            made.UnixFileMode = IsRoot ? Passable : Own;
        }
    }

    /// <summary>True if the user whom PostgreSQL runs as can pass through a folder, or through the nearest one above it that is there.</summary>
    public static bool CanReach(string folder)
    {
        if (!IsRoot)
        {
            return true;
        }

        var at = new DirectoryInfo(folder);
        while (at is { Exists: false, Parent: not null })
        {
            at = at.Parent;
        }

        using var process = Process.Start(new ProcessStartInfo("runuser", ["-u", ServiceUser, "--", "test", "-x", at.FullName]) { WorkingDirectory = "/" });
        process?.WaitForExit();
        return process?.ExitCode == 0;
    }

    /// <exception cref="ClusterException">The service user cannot get there.</exception>
    public async Task RequireReachableAsync(string folder, CancellationToken cancel)
    {
        if (IsRoot && (await RunPlainAsync("runuser", ["-u", ServiceUser, "--", "test", "-x", folder], cancel)).ExitCode != 0)
        {
            throw new ClusterException($"PostgreSQL does not run as root, and the user {ServiceUser} may not enter {folder}; choose a folder with BELLATOR_DATA that everybody can pass through");
        }
    }

    /// <summary>Hands files over to the user whom PostgreSQL runs as.</summary>
    public async Task GiveAsync(string[] paths, CancellationToken cancel)
    {
        if (IsRoot && await RunPlainAsync("chown", [ServiceUser + ":" + ServiceUser, .. paths], cancel) is { ExitCode: not 0 } failed)
        {
            throw new ClusterException($"files cannot be handed to the user {ServiceUser}: {failed.Output}");
        }
    }

    public Task<(int ExitCode, string Output)> RunAsync(string program, string[] arguments, CancellationToken cancel)
    {
        var path = Path.Combine(_folder, program);
        return IsRoot ? RunPlainAsync("runuser", ["-u", ServiceUser, "--", path, .. arguments], cancel) : RunPlainAsync(path, arguments, cancel);
    }

    /// <exception cref="ClusterException">The program failed.</exception>
    public async Task RequireAsync(string program, string[] arguments, CancellationToken cancel)
    {
        var (code, output) = await RunAsync(program, arguments, cancel);
        if (code != 0)
        {
            throw new ClusterException($"{program} failed: {output}");
        }
    }

    /// <returns>What it said, on one line.</returns>
    private static async Task<(int ExitCode, string Output)> RunPlainAsync(string program, string[] arguments, CancellationToken cancel)
    {
        // The server inherits our output streams and would keep them open: its words go to its log, ours to a file.
        var output = Path.GetTempFileName();
        try
        {
            if (IsRoot)
            {
                File.SetUnixFileMode(output, (UnixFileMode)0b110_110_110);
            }

            var quoted = string.Join(' ', arguments.Prepend(program).Select(a => "'" + a.Replace("'", "'\\''", StringComparison.Ordinal) + "'"));
            var start = new ProcessStartInfo("/bin/sh", ["-c", $"exec {quoted} >'{output}' 2>&1 </dev/null"]) { WorkingDirectory = "/" };
            using var process = Process.Start(start) ?? throw new ClusterException($"{program} cannot be started");
            await process.WaitForExitAsync(cancel);
            var text = await File.ReadAllTextAsync(output, CancellationToken.None);
            return (process.ExitCode, string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)));
        }
        finally
        {
            File.Delete(output);
        }
    }
}
