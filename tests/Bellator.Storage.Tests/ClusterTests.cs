using System.Diagnostics;
using Bellator.Storage.Cluster;
using Npgsql;

namespace Bellator.Storage.Tests;

/// <summary>The database's server when something is wrong with it or its folder: one sentence, nothing left running, and it comes back.</summary>
public sealed class ClusterTests : IDisposable
{
    private readonly string _folder = Path.Combine(Path.GetTempPath(), "bellator-cluster-" + Guid.NewGuid().ToString("N")[..8]);

    public void Dispose()
    {
        if (Directory.Exists(_folder))
        {
            Directory.Delete(_folder, recursive: true);
        }
    }

    [Fact]
    public async Task A_first_start_that_was_killed_is_begun_anew()
    {
        // What a process killed in the middle of it leaves: a password, half a cluster.
        Directory.CreateDirectory(Path.Combine(_folder, "data.new", "base"));
        await File.WriteAllTextAsync(Path.Combine(_folder, "data.new", "PG_VERSION"), "15");
        await File.WriteAllTextAsync(Path.Combine(_folder, "initial"), "the owner's password");
        await File.WriteAllTextAsync(Path.Combine(_folder, "secret.new"), "half");
        await using var cluster = await LocalCluster.StartAsync(_folder);
        Assert.False(File.Exists(Path.Combine(_folder, "initial")));
        Assert.Empty(Directory.GetDirectories(_folder, "data.new*"));
        Migrator.Migrate(cluster);
    }

    [Fact]
    public async Task A_server_that_is_killed_is_back_within_ten_seconds_at_the_same_port()
    {
        await using var cluster = await LocalCluster.StartAsync(_folder);
        var port = cluster.Port;
        Kill(ServerId());
        var watch = Stopwatch.StartNew();
        while (!await cluster.RestoreAsync(default) || !await AnswersAsync(cluster))
        {
            Assert.True(watch.Elapsed < TimeSpan.FromSeconds(10), "the server did not come back");
            await Task.Delay(200);
        }

        Assert.Equal(port, cluster.Port);
    }

    [Theory]
    [InlineData(null)]
    [InlineData("")]
    [InlineData("abc")]
    [InlineData("zz00000000000000000000000000000000000000000000000000000000000000")]
    public async Task A_damaged_secret_is_one_sentence_and_starts_no_server(string? secret)
    {
        await (await LocalCluster.StartAsync(_folder)).DisposeAsync();
        File.Delete(Path.Combine(_folder, "secret"));
        if (secret is not null)
        {
            await File.WriteAllTextAsync(Path.Combine(_folder, "secret"), secret);
        }

        var refused = await Assert.ThrowsAsync<ClusterException>(() => LocalCluster.StartAsync(_folder));
        Assert.Contains("missing or damaged", refused.Message, StringComparison.Ordinal);
        Assert.False(File.Exists(Path.Combine(_folder, "data", "postmaster.pid")));
    }

    [Fact]
    public async Task A_secret_of_another_database_leaves_no_server_behind()
    {
        await (await LocalCluster.StartAsync(_folder)).DisposeAsync();
        await File.WriteAllTextAsync(Path.Combine(_folder, "secret"), new string('0', 64));
        var refused = await Assert.ThrowsAsync<ClusterException>(() => LocalCluster.StartAsync(_folder));
        Assert.Contains("does not belong to the database", refused.Message, StringComparison.Ordinal);
        Assert.False(File.Exists(Path.Combine(_folder, "data", "postmaster.pid")));
    }

    [Fact]
    public async Task A_server_that_does_not_start_says_what_its_log_says()
    {
        await (await LocalCluster.StartAsync(_folder)).DisposeAsync();
        await File.AppendAllTextAsync(Path.Combine(_folder, "data", "postgresql.conf"), "\nno_such_setting = 1\n");
        var refused = await Assert.ThrowsAsync<ClusterException>(() => LocalCluster.StartAsync(_folder));
        Assert.Contains("does not start", refused.Message, StringComparison.Ordinal);
        Assert.Contains("configuration file", refused.Message, StringComparison.Ordinal);
        Assert.DoesNotContain('\n', refused.Message);
    }

    [Fact]
    public async Task A_pid_file_that_names_another_process_is_no_server()
    {
        await (await LocalCluster.StartAsync(_folder)).DisposeAsync();
        await File.WriteAllTextAsync(Path.Combine(_folder, "data", "postmaster.pid"), $"{Environment.ProcessId}\n{_folder}/data\n0\n5432\n");
        await using var cluster = await LocalCluster.StartAsync(_folder);
        Assert.NotEqual(5432, cluster.Port);
        Assert.True(await AnswersAsync(cluster));
    }

    [Fact]
    public async Task A_folder_that_holds_something_else_is_left_alone()
    {
        Directory.CreateDirectory(Path.Combine(_folder, "data"));
        await File.WriteAllTextAsync(Path.Combine(_folder, "data", "photo.txt"), "mine");
        var refused = await Assert.ThrowsAsync<ClusterException>(() => LocalCluster.StartAsync(_folder));
        Assert.Contains("nothing was changed there", refused.Message, StringComparison.Ordinal);
        Assert.Equal("mine", await File.ReadAllTextAsync(Path.Combine(_folder, "data", "photo.txt")));
    }

    [Fact]
    public async Task A_database_of_a_newer_version_is_refused_untouched()
    {
        await using var cluster = await LocalCluster.StartAsync(_folder);
        Migrator.Migrate(cluster);
        await using var connection = new NpgsqlConnection(cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        await Sql.Command(connection, "INSERT INTO schemaversions (scriptname, applied) VALUES ('migrations/9999_later.sql', now())").RunAsync();
        Assert.Contains("9999_later", Assert.Throws<ClusterException>(() => Migrator.Migrate(cluster)).Message, StringComparison.Ordinal);
    }

    private async Task<bool> AnswersAsync(LocalCluster cluster)
    {
        try
        {
            await using var connection = new NpgsqlConnection(new NpgsqlConnectionStringBuilder(cluster.ConnectionFor("bellator_owner")) { Pooling = false, Database = "postgres" }.ConnectionString);
            await connection.OpenAsync();
            return true;
        }
        catch (NpgsqlException)
        {
            return false;
        }
    }

    private int ServerId() => int.Parse(File.ReadLines(Path.Combine(_folder, "data", "postmaster.pid")).First(), System.Globalization.CultureInfo.InvariantCulture);

    private static void Kill(int id) => Process.Start("kill", ["-9", id.ToString(System.Globalization.CultureInfo.InvariantCulture)]).WaitForExit();
}
