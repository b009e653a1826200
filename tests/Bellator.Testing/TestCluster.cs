using Bellator.Storage;
using Bellator.Storage.Cluster;
using Xunit;

namespace Bellator.Testing;

/// <summary>A real PostgreSQL cluster in a folder of its own, made for the tests of one collection and removed with them.</summary>
public sealed class TestCluster : IAsyncLifetime
{
    private readonly string _folder = Path.Combine(Path.GetTempPath(), "bellator-test-" + Guid.NewGuid().ToString("N")[..8]);

    public LocalCluster Cluster { get; private set; } = null!;

    public Database Database { get; private set; } = null!;

    public string Folder => _folder;

    public async Task InitializeAsync()
    {
        Cluster = await LocalCluster.StartAsync(_folder);
        Migrator.Migrate(Cluster);
        Database = new Database(Cluster.ConnectionFor("bellator_web"), Cluster.ConnectionFor("bellator_worker"), Cluster.ConnectionFor(LocalCluster.ScratchDatabase));
    }

    public async Task DisposeAsync()
    {
        await Database.DisposeAsync();
        await Cluster.DisposeAsync();
        Directory.Delete(_folder, recursive: true);
    }

    /// <summary>The project's own folder, found from where the tests run.</summary>
    public static string ProjectFolder()
    {
        for (var folder = new DirectoryInfo(AppContext.BaseDirectory); folder is not null; folder = folder.Parent)
        {
            if (File.Exists(Path.Combine(folder.FullName, "Bellator.slnx")))
            {
                return folder.FullName;
            }
        }

        throw new InvalidOperationException("the tests do not run inside the project");
    }
}
