using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using Npgsql;

namespace Bellator.Storage.Cluster;

/// <summary>The cluster cannot be made or started; the message says what to do.</summary>
public sealed class ClusterException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>
/// A PostgreSQL cluster of our own, in its own data directory, on loopback and a port of its own. The system's cluster is never
/// touched. PostgreSQL refuses to run as root, so for root it runs as a service user.
/// </summary>
public sealed class LocalCluster : IAsyncDisposable
{
    private const string ServiceUser = "postgres";
    private readonly string _root;
    private readonly string _bin;
    private bool _startedHere;

    private LocalCluster(string root, string bin)
    {
        _root = root;
        _bin = bin;
    }

    public int Port { get; private set; }

    private string Data => Path.Combine(_root, "data");

    private string OwnerFile => Path.Combine(_root, "owner");

    private string SecretFile => Path.Combine(_root, "secret");

    /// <summary>Starts the cluster in the folder, making it first if there is none.</summary>
    /// <exception cref="ClusterException">PostgreSQL is missing, the folder cannot be used, or the server does not come up.</exception>
    public static async Task<LocalCluster> StartAsync(string folder, CancellationToken cancel = default)
    {
        var cluster = new LocalCluster(Path.GetFullPath(folder), FindPrograms());
        await cluster.PrepareAsync(cancel);
        await cluster.StartServerAsync(cancel);
        return cluster;
    }

    /// <summary>The database in which statements of audited code are run: nothing is kept in it.</summary>
    public const string ScratchDatabase = "bellator_scratch";

    /// <summary>Connection text for a role: <c>bellator_owner</c>, <c>bellator_web</c>, <c>bellator_worker</c>, <c>bellator_jobs</c>, <c>bellator_scratch</c>.</summary>
    public string ConnectionFor(string role) => new NpgsqlConnectionStringBuilder
    {
        Host = "127.0.0.1",
        Port = Port,
        Database = role == ScratchDatabase ? ScratchDatabase : "bellator",
        Username = role,
        Password = PasswordOf(role),
        MaxPoolSize = 40,
        ApplicationName = "bellator",
    }.ConnectionString;

    public string PasswordOf(string role)
    {
        // One secret, from which each role's password is derived, so that roles cannot tell each other's.
        var secret = Convert.FromHexString(File.ReadAllText(SecretFile).Trim());
        return Convert.ToHexStringLower(HMACSHA256.HashData(secret, System.Text.Encoding.UTF8.GetBytes(role)));
    }

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        if (_startedHere)
        {
            _startedHere = false;
            await RunAsync("pg_ctl", ["stop", "-D", Data, "-m", "fast", "-w", "-t", "20"], CancellationToken.None, mayFail: true);
        }
    }

    private static string FindPrograms()
    {
        var folder = Directory.Exists("/usr/lib/postgresql")
            ? Directory.GetDirectories("/usr/lib/postgresql").Select(d => Path.Combine(d, "bin")).Where(d => File.Exists(Path.Combine(d, "initdb"))).Order(StringComparer.Ordinal).LastOrDefault()
            : null;
        return folder ?? throw new ClusterException("PostgreSQL is not installed (Debian package postgresql)");
    }

    private static bool IsRoot => Environment.UserName == "root";

    private async Task PrepareAsync(CancellationToken cancel)
    {
        try
        {
            Directory.CreateDirectory(_root);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new ClusterException($"{_root}: cannot be used for the database: {e.Message}", e);
        }

        if (File.Exists(Path.Combine(Data, "PG_VERSION")))
        {
            return;
        }

        if (Directory.Exists(Data) && Directory.EnumerateFileSystemEntries(Data).Any())
        {
            throw new ClusterException($"{Data}: is not empty and no database; nothing was changed there. Choose another folder with BELLATOR_DATA.");
        }

        var secret = Convert.ToHexString(RandomNumberGenerator.GetBytes(32));
        await File.WriteAllTextAsync(SecretFile, secret, cancel);
        File.SetUnixFileMode(SecretFile, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        var passwordFile = Path.Combine(_root, "initial");
        await File.WriteAllTextAsync(passwordFile, PasswordOf("bellator_owner"), cancel);
        File.SetUnixFileMode(passwordFile, UnixFileMode.UserRead | UnixFileMode.UserWrite);
        Directory.CreateDirectory(Data);
        if (IsRoot)
        {
            await RunPlainAsync("chown", [ServiceUser + ":" + ServiceUser, _root, Data, passwordFile], cancel);
        }

        File.SetUnixFileMode(Data, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        await RunAsync("initdb", ["-D", Data, "-U", "bellator_owner", "--auth=scram-sha-256", "--pwfile", passwordFile, "-E", "UTF8", "--locale=C", "--no-instructions"], cancel);
        File.Delete(passwordFile);
    }

    private async Task StartServerAsync(CancellationToken cancel)
    {
        var pidFile = Path.Combine(Data, "postmaster.pid");
        if (File.Exists(pidFile))
        {
            // Another of our processes runs it, or it was killed and left the file behind.
            var lines = await File.ReadAllLinesAsync(pidFile, cancel);
            if (lines.Length > 3 && int.TryParse(lines[0], out var pid) && Directory.Exists($"/proc/{pid}") && int.TryParse(lines[3], out var port))
            {
                Port = port;
                if (!OwnerLives())
                {
                    // Whoever started it was killed: it is ours to stop now.
                    await OwnAsync();
                }

                await EnsureDatabaseAsync(cancel);
                return;
            }
        }

        Port = FreePort();
        var log = Path.Combine(_root, "postgresql.log");
        var options = $"-p {Port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=120 -c log_statement=none";
        await RunAsync("pg_ctl", ["start", "-D", Data, "-l", log, "-w", "-t", "30", "-o", options], cancel);
        await OwnAsync();
        await EnsureDatabaseAsync(cancel);
    }

    /// <summary>Notes which process is to stop the server.</summary>
    private async Task OwnAsync()
    {
        _startedHere = true;
        await File.WriteAllTextAsync(OwnerFile, Environment.ProcessId.ToString(System.Globalization.CultureInfo.InvariantCulture), CancellationToken.None);
    }

    private bool OwnerLives()
    {
        try
        {
            return int.TryParse(File.ReadAllText(OwnerFile), out var pid) && Directory.Exists($"/proc/{pid}");
        }
        catch (FileNotFoundException)
        {
            // A server from before owners were noted.
            return true;
        }
    }

    private async Task EnsureDatabaseAsync(CancellationToken cancel)
    {
        var builder = new NpgsqlConnectionStringBuilder(ConnectionFor("bellator_owner")) { Database = "postgres", Pooling = false };
        await using var connection = new NpgsqlConnection(builder.ConnectionString);
        await connection.OpenAsync(cancel);
        foreach (var (name, create) in new[] { ("bellator", "CREATE DATABASE bellator"), (ScratchDatabase, "CREATE DATABASE bellator_scratch") })
        {
            await using var find = new NpgsqlCommand("SELECT 1 FROM pg_database WHERE datname = $1", connection) { Parameters = { new() { Value = name } } };
            if (await find.ExecuteScalarAsync(cancel) is null)
            {
                await using var make = new NpgsqlCommand(create, connection);
                await make.ExecuteNonQueryAsync(cancel);
            }
        }
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    private Task RunAsync(string program, string[] arguments, CancellationToken cancel, bool mayFail = false)
    {
        var path = Path.Combine(_bin, program);
        return IsRoot
            ? RunPlainAsync("runuser", ["-u", ServiceUser, "--", path, .. arguments], cancel, mayFail)
            : RunPlainAsync(path, arguments, cancel, mayFail);
    }

    private static async Task RunPlainAsync(string program, string[] arguments, CancellationToken cancel, bool mayFail = false)
    {
        // The server inherits our output streams and would keep them open: its words go to its log, ours to a file.
        var output = Path.GetTempFileName();
        if (IsRoot)
        {
            File.SetUnixFileMode(output, (UnixFileMode)0b110_110_110);
        }

        var quoted = string.Join(' ', arguments.Prepend(program).Select(a => "'" + a.Replace("'", "'\\''", StringComparison.Ordinal) + "'"));
        var start = new ProcessStartInfo("/bin/sh", ["-c", $"exec {quoted} >'{output}' 2>&1 </dev/null"]) { WorkingDirectory = "/" };
        using var process = Process.Start(start) ?? throw new ClusterException($"{program} cannot be started");
        await process.WaitForExitAsync(cancel);
        var text = await File.ReadAllTextAsync(output, CancellationToken.None);
        File.Delete(output);
        if (process.ExitCode != 0 && !mayFail)
        {
            throw new ClusterException($"{Path.GetFileName(program)} failed: {text.Trim()}");
        }
    }
}
