using DbUp;
using DbUp.Engine.Output;
using Npgsql;

namespace Bellator.Storage.Cluster;

/// <summary>Brings the database up to date.</summary>
public static class Migrator
{
    /// <summary>The roles the program signs in with. None of them owns the tables, so row security binds them all.</summary>
    private static readonly string[] Roles = ["bellator_web", "bellator_worker", "bellator_jobs", LocalCluster.ScratchDatabase];

    /// <exception cref="ClusterException">A script failed; what was applied before it stays.</exception>
    /// <param name="last">The name of the script to stop after, as an older version did; all of them if it is null.</param>
    public static void Migrate(LocalCluster cluster, string? last = null)
    {
        // Processes that start at the same time take turns.
        using var turn = new NpgsqlConnection(OwnConnection(cluster));
        turn.Open();
        using var wait = new NpgsqlCommand("SELECT pg_advisory_lock(7340921)", turn) { CommandTimeout = 0 };
        wait.ExecuteNonQuery();
        RefuseNewer(turn);
        CreateRoles(cluster);
        var result = DeployChanges.To
            .PostgresqlDatabase(OwnConnection(cluster))
            .WithScriptsEmbeddedInAssembly(typeof(Migrator).Assembly, name => IsScript(name) && (last is null || string.CompareOrdinal(name, last) <= 0))
            .WithExecutionTimeout(TimeSpan.FromHours(1))
            .WithTransactionPerScript()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
        {
            throw new ClusterException($"the database could not be brought up to date: {result.Error.Message}", result.Error);
        }
    }

    /// <summary>The names of all scripts, the oldest first.</summary>
    public static IReadOnlyList<string> Scripts => [.. typeof(Migrator).Assembly.GetManifestResourceNames().Where(IsScript).Order(StringComparer.Ordinal)];

    private static bool IsScript(string name) => name.StartsWith("migrations/", StringComparison.Ordinal);

    /// <summary>A database that a newer version has changed is left alone: this one would not know what it reads and writes.</summary>
    private static void RefuseNewer(NpgsqlConnection connection)
    {
        using var table = new NpgsqlCommand("SELECT to_regclass('public.schemaversions') IS NOT NULL", connection);
        if (table.ExecuteScalar() is not true)
        {
            return;
        }

        var known = Scripts.ToHashSet(StringComparer.Ordinal);
        using var applied = new NpgsqlCommand("SELECT scriptname FROM schemaversions ORDER BY scriptname", connection);
        using var reader = applied.ExecuteReader();
        while (reader.Read())
        {
            if (!known.Contains(reader.GetString(0)))
            {
                throw new ClusterException($"the database was changed by a newer version of Bellator ({reader.GetString(0)}), and nothing was touched; start that version, or choose another folder with BELLATOR_DATA");
            }
        }
    }

    /// <summary>
    /// A pooled connection would keep the lock, and its owner's rights, after it is given back; and one that the server had ended since,
    /// as when a migration was killed, would be handed out again and fail the next one.
    /// </summary>
    private static string OwnConnection(LocalCluster cluster, string? database = null)
    {
        var settings = new NpgsqlConnectionStringBuilder(cluster.ConnectionFor("bellator_owner")) { Pooling = false };
        if (database is not null)
        {
            settings.Database = database;
        }

        return settings.ConnectionString;
    }

    private static void CreateRoles(LocalCluster cluster)
    {
        using var connection = new NpgsqlConnection(OwnConnection(cluster));
        connection.Open();
        foreach (var role in Roles)
        {
            using var find = new NpgsqlCommand("SELECT 1 FROM pg_roles WHERE rolname = $1", connection) { Parameters = { new() { Value = role } } };
            if (find.ExecuteScalar() is not null)
            {
                continue;
            }

            // Names and passwords of roles cannot be bound; PostgreSQL's own format() quotes them.
            using var text = new NpgsqlCommand("SELECT format('CREATE ROLE %I LOGIN PASSWORD %L', $1::text, $2::text)", connection)
            {
                Parameters = { new() { Value = role }, new() { Value = cluster.PasswordOf(role) } },
            };
            using var create = new NpgsqlCommand((string)text.ExecuteScalar()!, connection);
            create.ExecuteNonQuery();
        }

        using var schema = new NpgsqlCommand("CREATE SCHEMA IF NOT EXISTS hangfire AUTHORIZATION bellator_jobs; REVOKE ALL ON SCHEMA public FROM PUBLIC; GRANT USAGE ON SCHEMA public TO bellator_web, bellator_worker;", connection);
        schema.ExecuteNonQuery();
        PrepareScratch(cluster, connection);
    }

    /// <summary>
    /// The role that runs statements of audited code may make temporary tables in an empty database, and nothing else: it has no rights
    /// on ours, owns nothing, and has limits of time and space of its own.
    /// </summary>
    private static void PrepareScratch(LocalCluster cluster, NpgsqlConnection connection)
    {
        using var limits = new NpgsqlCommand(
            """
            REVOKE ALL ON DATABASE bellator FROM PUBLIC; GRANT CONNECT ON DATABASE bellator TO bellator_web, bellator_worker, bellator_jobs;
            REVOKE ALL ON DATABASE bellator_scratch FROM PUBLIC; GRANT CONNECT, TEMPORARY ON DATABASE bellator_scratch TO bellator_scratch;
            REVOKE CONNECT ON DATABASE postgres FROM PUBLIC; REVOKE CONNECT ON DATABASE template1 FROM PUBLIC;
            ALTER ROLE bellator_scratch SET statement_timeout = '2s'; ALTER ROLE bellator_scratch SET temp_file_limit = '16MB';
            ALTER ROLE bellator_scratch SET lock_timeout = '1s'; ALTER ROLE bellator_scratch CONNECTION LIMIT 4
            """,
            connection);
        limits.ExecuteNonQuery();
        using var scratch = new NpgsqlConnection(OwnConnection(cluster, LocalCluster.ScratchDatabase));
        scratch.Open();
        using var close = new NpgsqlCommand("REVOKE ALL ON SCHEMA public FROM PUBLIC; REVOKE EXECUTE ON ALL FUNCTIONS IN SCHEMA public FROM PUBLIC", scratch);
        close.ExecuteNonQuery();
    }
}
