using DbUp;
using DbUp.Engine.Output;
using Npgsql;

namespace Bellator.Storage.Cluster;

/// <summary>Brings the database up to date.</summary>
public static class Migrator
{
    /// <summary>The roles the program signs in with. None of them owns the tables, so row security binds them all.</summary>
    private static readonly string[] Roles = ["bellator_web", "bellator_worker", "bellator_jobs"];

    /// <exception cref="ClusterException">A script failed; what was applied before it stays.</exception>
    public static void Migrate(LocalCluster cluster)
    {
        CreateRoles(cluster);
        var result = DeployChanges.To
            .PostgresqlDatabase(cluster.ConnectionFor("bellator_owner"))
            .WithScriptsEmbeddedInAssembly(typeof(Migrator).Assembly, name => name.StartsWith("migrations/", StringComparison.Ordinal))
            .WithTransactionPerScript()
            .LogTo(new NoOpUpgradeLog())
            .Build()
            .PerformUpgrade();
        if (!result.Successful)
        {
            throw new ClusterException($"the database could not be brought up to date: {result.Error.Message}", result.Error);
        }
    }

    private static void CreateRoles(LocalCluster cluster)
    {
        using var connection = new NpgsqlConnection(cluster.ConnectionFor("bellator_owner"));
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
    }
}
