using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Security.Cryptography;
using Npgsql;

namespace Bellator.Storage.Cluster;

/// <summary>The cluster cannot be made or started; the message says why and what to do, in one sentence.</summary>
public sealed class ClusterException(string message, Exception? inner = null) : Exception(message, inner);

/// <summary>
/// A PostgreSQL cluster of our own, in its own data directory, on loopback and a port of its own. The system's cluster is never
/// touched. PostgreSQL refuses to run as root, so for root it runs as a service user. A first start that was killed leaves nothing that
/// a second one would stumble over: the cluster is made beside its place and moved there when it is whole.
/// </summary>
public sealed class LocalCluster : IAsyncDisposable
{
    /// <summary>The database in which statements of audited code are run: nothing is kept in it.</summary>
    public const string ScratchDatabase = "bellator_scratch";

    private const int StartTries = 3;
    private static readonly string[] Grave = ["FATAL:", "PANIC:"];
    private readonly string _root;
    private readonly ClusterPrograms _programs;
    private bool _startedHere;

    private LocalCluster(string root, ClusterPrograms programs)
    {
        _root = root;
        _programs = programs;
        _unfinished = Path.Combine(root, $"{UnfinishedName}-{Guid.NewGuid():n}");
    }

    public int Port { get; private set; }

    private string Data => Path.Combine(_root, "data");

    /// <summary>Where a cluster is made. Each try has a place of its own: what a killed one started may still write to the last.</summary>
    private readonly string _unfinished;

    private const string UnfinishedName = "data.new";

    private string OwnerFile => Path.Combine(_root, "owner");

    private string SecretFile => Path.Combine(_root, "secret");

    private string PasswordFile => Path.Combine(_root, "initial");

    private string LogFile => Path.Combine(Data, "server.log");

    /// <summary>Starts the cluster in the folder, making it first if there is none.</summary>
    /// <exception cref="ClusterException">PostgreSQL is missing, the folder cannot be used, or the server does not come up. No server is left running.</exception>
    public static async Task<LocalCluster> StartAsync(string folder, CancellationToken cancel = default)
    {
        var cluster = new LocalCluster(Path.GetFullPath(folder), ClusterPrograms.Find());
        try
        {
            await cluster.PrepareAsync(cancel);
            await cluster.StartServerAsync(cancel);
            await cluster.EnsureDatabasesAsync(cancel);
            return cluster;
        }
        catch
        {
            await cluster.DisposeAsync();
            throw;
        }
    }

    /// <summary>Connection text for a role: <c>bellator_owner</c>, <c>bellator_web</c>, <c>bellator_worker</c>, <c>bellator_jobs</c>, <c>bellator_scratch</c>.</summary>
    public string ConnectionFor(string role) => new NpgsqlConnectionStringBuilder
    {
        Host = "127.0.0.1",
        Port = Port,
        Database = role == ScratchDatabase ? ScratchDatabase : "bellator",
        Username = role,
        Password = PasswordOf(role),
        MaxPoolSize = role == "bellator_web" ? 12 : 15,
        Timeout = 5,
        CommandTimeout = 60,

        // The pages ask the same few statements again and again, and planning one under row security costs more than answering it.
        MaxAutoPrepare = role == "bellator_web" ? 60 : 0,
        AutoPrepareMinUsages = 2,

        // Whose rows are seen is said for one transaction at a time, and pages set nothing else on a connection.
        NoResetOnClose = role == "bellator_web",
        ApplicationName = "bellator",
    }.ConnectionString;

    public string PasswordOf(string role)
    {
        // One secret, from which each role's password is derived, so that roles cannot tell each other's.
        var secret = Convert.FromHexString(File.ReadAllText(SecretFile).Trim());
        return Convert.ToHexStringLower(HMACSHA256.HashData(secret, System.Text.Encoding.UTF8.GetBytes(role)));
    }

    /// <summary>True while the server that was started or found is there.</summary>
    public bool IsRunning => Running() is not null;

    /// <summary>Starts the server again at the same port, should it have died and be ours to start.</summary>
    /// <returns>True if it runs.</returns>
    public async Task<bool> RestoreAsync(CancellationToken cancel)
    {
        if (IsRunning)
        {
            return true;
        }

        if (!_startedHere && OwnerLives())
        {
            return false;
        }

        try
        {
            await LaunchAsync(Port, cancel);
            Own();
            NpgsqlConnection.ClearAllPools();
            return true;
        }
        catch (ClusterException)
        {
            // What the dead server started takes a moment to notice and to end; the next try comes soon.
            return false;
        }
    }

    public async ValueTask DisposeAsync()
    {
        NpgsqlConnection.ClearAllPools();
        if (_startedHere)
        {
            _startedHere = false;
            await _programs.RunAsync("pg_ctl", ["stop", "-D", Data, "-m", "fast", "-w", "-t", "20"], CancellationToken.None);
        }
    }

    private async Task PrepareAsync(CancellationToken cancel)
    {
        try
        {
            _programs.MakeReachable(_root);
            File.Delete(PasswordFile);
            foreach (var left in Directory.GetDirectories(_root, UnfinishedName + "*"))
            {
                TryDelete(left);
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new ClusterException($"{_root} cannot be used for the database: {e.Message}", e);
        }

        await _programs.RequireReachableAsync(_root, cancel);
        if (File.Exists(Path.Combine(Data, "PG_VERSION")))
        {
            RequireSecret();
            RequireVersion();
            return;
        }

        if (Directory.Exists(Data) && Directory.EnumerateFileSystemEntries(Data).Any())
        {
            throw new ClusterException($"{Data} is not empty and holds no database; nothing was changed there. Choose another folder with BELLATOR_DATA.");
        }

        await MakeAsync(cancel);
    }

    /// <summary>Deletes a folder that a program may still write to, which then fails; what that leaves is for the next start.</summary>
    private static void TryDelete(string folder)
    {
        try
        {
            Directory.Delete(folder, recursive: true);
        }
        catch (IOException)
        {
            // Something was made or deleted in it meanwhile.
        }
    }

    private async Task MakeAsync(CancellationToken cancel)
    {
        try
        {
            WritePrivately(SecretFile, Convert.ToHexString(RandomNumberGenerator.GetBytes(32)));
            WritePrivately(PasswordFile, PasswordOf("bellator_owner"));
            Directory.CreateDirectory(_unfinished, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
            await _programs.GiveAsync([_unfinished, PasswordFile], cancel);
            await _programs.RequireAsync("initdb", ["-D", _unfinished, "-U", "bellator_owner", "--auth=scram-sha-256", "--pwfile", PasswordFile, "-E", "UTF8", "--locale=C", "--no-instructions"], cancel);
            if (Directory.Exists(Data))
            {
                Directory.Delete(Data);
            }

            Directory.Move(_unfinished, Data);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new ClusterException($"{_root} cannot be used for the database: {e.Message}", e);
        }
        finally
        {
            File.Delete(PasswordFile);
        }
    }

    /// <summary>Writes a file that only we read, whole or not at all.</summary>
    private static void WritePrivately(string path, string text)
    {
        var beside = path + ".new";
        File.Delete(beside);
        using (var stream = new FileStream(beside, new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite }))
        using (var writer = new StreamWriter(stream))
        {
            writer.Write(text);
        }

        File.Move(beside, path, overwrite: true);
    }

    private void RequireSecret()
    {
        string? text = null;
        try
        {
            text = File.ReadAllText(SecretFile).Trim();
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            // Said below, like a damaged one.
        }

        if (text is not { Length: 64 } || text.Any(c => !char.IsAsciiHexDigit(c)))
        {
            throw new ClusterException($"{SecretFile} is missing or damaged, and without it nobody can sign in to the database; bring it back from a copy, or choose another folder with BELLATOR_DATA");
        }
    }

    private void RequireVersion()
    {
        var version = File.ReadAllText(Path.Combine(Data, "PG_VERSION")).Trim();
        if (version != _programs.Version)
        {
            throw new ClusterException($"the database in {Data} is one of PostgreSQL {version}, and PostgreSQL {_programs.Version} is installed; install version {version}, or choose another folder with BELLATOR_DATA");
        }
    }

    private async Task StartServerAsync(CancellationToken cancel)
    {
        if (Running() is { } port)
        {
            Port = port;
            if (!OwnerLives())
            {
                // Whoever started it was killed: it is ours to stop now.
                Own();
            }

            return;
        }

        for (var tries = 1; ; tries++)
        {
            Port = FreePort();
            try
            {
                await LaunchAsync(Port, cancel);
                Own();
                return;
            }
            catch (ClusterException) when (tries < StartTries && !IsRunning)
            {
                // Somebody may have taken the port in between, or the last server has not quite ended.
                await Task.Delay(TimeSpan.FromSeconds(tries), cancel);
            }
        }
    }

    private async Task LaunchAsync(int port, CancellationToken cancel)
    {
        var options = string.Create(CultureInfo.InvariantCulture, $"-p {port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' -c max_connections=140 -c log_statement=none -c jit=off");
        var start = await _programs.RunAsync("pg_ctl", ["start", "-D", Data, "-l", LogFile, "-w", "-t", "60", "-o", options], cancel);
        if (start.ExitCode != 0)
        {
            throw new ClusterException($"PostgreSQL does not start in {Data}: {LastWord() ?? start.Output}");
        }
    }

    /// <summary>The reason that the server's log gives.</summary>
    private string? LastWord()
    {
        try
        {
            return File.ReadLines(LogFile).TakeLast(40).Select(l => Grave.Select(g => l.IndexOf(g, StringComparison.Ordinal) is >= 0 and var at ? l[(at + g.Length)..].Trim() : null).FirstOrDefault(r => r is not null)).LastOrDefault(r => r is not null);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>The port of the server that runs here; null if none does, whatever a file says that one left behind.</summary>
    private int? Running()
    {
        try
        {
            var lines = File.ReadAllLines(Path.Combine(Data, "postmaster.pid"));

            // The number may belong to something else by now; the server has its data directory as its own.
            return lines.Length > 3 && int.TryParse(lines[0], out var pid) && int.TryParse(lines[3], out var port)
                && File.ReadAllText($"/proc/{pid}/comm").Trim() == "postgres" && new FileInfo($"/proc/{pid}/cwd").LinkTarget == Resolved(Data) ? port : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>A path as the system names it, links followed.</summary>
    private static string Resolved(string path)
    {
        var parts = path.Split('/', StringSplitOptions.RemoveEmptyEntries);
        var at = "/";
        foreach (var part in parts)
        {
            var next = new DirectoryInfo(Path.Combine(at, part));
            at = next.LinkTarget is null ? next.FullName : next.ResolveLinkTarget(returnFinalTarget: true)!.FullName;
        }

        return at;
    }

    /// <summary>Notes which process is to stop the server.</summary>
    private void Own()
    {
        _startedHere = true;
        File.WriteAllText(OwnerFile, Environment.ProcessId.ToString(CultureInfo.InvariantCulture));
    }

    private bool OwnerLives()
    {
        try
        {
            return int.TryParse(File.ReadAllText(OwnerFile), out var pid) && Directory.Exists($"/proc/{pid}");
        }
        catch (IOException)
        {
            return false;
        }
    }

    private async Task EnsureDatabasesAsync(CancellationToken cancel)
    {
        var builder = new NpgsqlConnectionStringBuilder(ConnectionFor("bellator_owner")) { Database = "postgres", Pooling = false };
        try
        {
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
        catch (PostgresException e) when (e.SqlState == PostgresErrorCodes.InvalidPassword)
        {
            throw new ClusterException($"{SecretFile} does not belong to the database in {Data}; bring the right one back from a copy, or choose another folder with BELLATOR_DATA", e);
        }
        catch (NpgsqlException e)
        {
            throw new ClusterException($"the database in {Data} cannot be used: {e.Message}", e);
        }
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}
