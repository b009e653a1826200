using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Testing;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Tests;

/// <summary>
/// What findings say of rules on rows, against PostgreSQL itself: the same statements are run, and the application's role asks for the rows
/// of somebody else. Where the audit says that they can be had, they are had; where it is silent, they are not.
/// </summary>
public sealed class PolicyOracleTests(TestCluster cluster) : IClassFixture<TestCluster>
{
    private const string Register = """
        CREATE TABLE keepers (id int PRIMARY KEY, login text NOT NULL UNIQUE, password_hash text NOT NULL);
        CREATE TABLE duties (keeper_id int PRIMARY KEY REFERENCES keepers, district_id int NOT NULL, role text NOT NULL DEFAULT 'keeper');
        CREATE TABLE hives (id int PRIMARY KEY, keeper_id int NOT NULL REFERENCES keepers, district_id int NOT NULL, name text);
        CREATE FUNCTION me() RETURNS int LANGUAGE sql STABLE AS $$ SELECT nullif(current_setting('register.keeper', true), '')::int $$;
        CREATE FUNCTION my_district() RETURNS int LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$ SELECT district_id FROM duties WHERE keeper_id = me() $$;
        ALTER TABLE hives ENABLE ROW LEVEL SECURITY;

        """;

    private const string Rows = """
        INSERT INTO keepers VALUES (1, 'ash', 'x'), (2, 'birch', 'x'), (3, 'cedar', 'x');
        INSERT INTO duties VALUES (1, 10), (2, 10), (3, 30);
        INSERT INTO hives VALUES (101, 1, 10, 'one'), (102, 2, 10, 'two'), (103, 3, 30, 'three');
        """;

    private const string Own = "CREATE POLICY own ON hives USING (keeper_id = me());\n";
    private const string Others = "SELECT count(*) FROM hives WHERE keeper_id <> 1";

    /// <param name="asked">How many rows of others come back to keeper 1, or to nobody where the statement says so.</param>
    [Theory]
    [InlineData("CREATE POLICY all_rows ON hives USING (true);", Others, "1", "records/open-rule")]
    [InlineData(Own, Others, "1", null)]
    [InlineData("CREATE POLICY d ON hives FOR SELECT USING (EXISTS (SELECT 1 FROM duties d WHERE d.keeper_id = me() AND d.district_id = district_id));", "SELECT count(*) FROM hives WHERE district_id = 30", "1", "records/open-rule")]
    [InlineData("CREATE POLICY d ON hives FOR SELECT USING (EXISTS (SELECT 1 FROM duties d WHERE d.keeper_id = me() AND d.district_id = hives.district_id));", "SELECT count(*) FROM hives WHERE district_id = 30", "1", null)]
    [InlineData(Own + "CREATE POLICY d ON hives FOR ALL USING (district_id = my_district());", "WITH gone AS (DELETE FROM hives WHERE keeper_id = 2 RETURNING 1) SELECT count(*) FROM gone", "1", "records/open-rule")]
    [InlineData(Own + "CREATE POLICY d ON hives FOR SELECT USING (district_id = my_district());", "WITH gone AS (DELETE FROM hives WHERE keeper_id = 2 RETURNING 1) SELECT count(*) FROM gone", "1", null)]
    [InlineData(Own + "CREATE POLICY d ON hives AS RESTRICTIVE FOR ALL USING (district_id = my_district());", Others, "1", null)]
    [InlineData("CREATE POLICY own ON hives USING (me() IS NULL OR keeper_id = me());", Others, "", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (keeper_id = me());", Others, "", null)]
    [InlineData("CREATE FUNCTION who() RETURNS int LANGUAGE sql AS $$ SELECT coalesce(nullif(current_setting('register.keeper', true), ''), '2')::int $$; CREATE POLICY own ON hives USING (keeper_id = who());", Others, "", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (keeper_id = me()) WITH CHECK (true);", "WITH made AS (INSERT INTO hives VALUES (9, 2, 10, 'x')) SELECT 1", "1", "records/owner-can-be-set")]
    [InlineData("CREATE POLICY own ON hives FOR UPDATE USING (keeper_id = me()) WITH CHECK (true);", "WITH given AS (UPDATE hives SET keeper_id = 3) SELECT 1", "1", "records/owner-can-be-set")]
    [InlineData("CREATE POLICY own ON hives FOR UPDATE USING (keeper_id = me());", "WITH given AS (UPDATE hives SET keeper_id = 3) SELECT 1", "1", null)]
    [InlineData("CREATE POLICY own ON hives FOR SELECT USING (keeper_id = me()); CREATE POLICY add ON hives FOR INSERT WITH CHECK (district_id = my_district());", "WITH made AS (INSERT INTO hives VALUES (9, 2, 10, 'x')) SELECT 1", "1", "records/owner-can-be-set")]
    [InlineData("CREATE POLICY own_duty ON duties USING (keeper_id = me());" + Own, "SELECT count(*) FROM duties WHERE keeper_id <> 1", "1", "records/row-security-not-enforced")]
    [InlineData(Own + "ALTER TABLE hives OWNER TO register_app;", Others, "1", "records/row-security-not-enforced")]
    [InlineData(Own + "ALTER TABLE hives OWNER TO register_app; ALTER TABLE hives FORCE ROW LEVEL SECURITY;", Others, "1", null)]
    [InlineData(Own + "CREATE VIEW board AS SELECT keeper_id, name FROM hives; GRANT SELECT ON board TO register_app;", "SELECT count(*) FROM board WHERE keeper_id <> 1", "1", "records/filter-bypassed")]
    [InlineData(Own + "CREATE VIEW board WITH (security_invoker = true) AS SELECT keeper_id, name FROM hives; GRANT SELECT ON board TO register_app;", "SELECT count(*) FROM board WHERE keeper_id <> 1", "1", null)]
    [InlineData(Own + "CREATE FUNCTION hive_name(wanted int) RETURNS text LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$ SELECT h.name FROM hives h WHERE h.id = wanted $$;", "SELECT count(hive_name(103))", "1", "records/filter-bypassed")]
    [InlineData(Own + "CREATE FUNCTION hive_name(wanted int) RETURNS text LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$ SELECT h.name FROM hives h WHERE h.id = wanted AND h.keeper_id = me() $$;", "SELECT count(hive_name(103))", "1", null)]
    public async Task The_database_does_what_the_finding_says(string rules, string asked, string keeper, string? expected)
    {
        var file = new SourceFile("schema.sql", Encoding.UTF8.GetBytes(Register + "CREATE ROLE register_app LOGIN; GRANT SELECT ON keepers TO register_app;\n" + rules), Language.Sql);
        var found = AuditPipeline.Run(new SourceTree("rules", [file], []), new AuditOptions { Threads = 1 }).Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId).Distinct().ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
        Assert.Equal(expected is not null, await CanBeHadAsync(rules, asked, keeper));
    }

    /// <summary>The role of the application asks in a database of its own; what it changes is never kept.</summary>
    private async Task<bool> CanBeHadAsync(string rules, string asked, string keeper)
    {
        var name = "rules_" + Guid.NewGuid().ToString("N")[..8];
        var owner = new NpgsqlConnectionStringBuilder(cluster.Cluster.ConnectionFor("bellator_owner")) { Pooling = false };
        await RunAsync(owner.ConnectionString, $"CREATE DATABASE {name}");
        owner.Database = name;
        await using var connection = new NpgsqlConnection(owner.ConnectionString);
        await connection.OpenAsync();
        await ExecuteAsync(connection, "DO $$ BEGIN CREATE ROLE register_app LOGIN; EXCEPTION WHEN duplicate_object THEN NULL; END $$");
        await ExecuteAsync(connection, Register + Rows + "GRANT ALL ON ALL TABLES IN SCHEMA public TO register_app;" + rules);
        await ExecuteAsync(connection, $"SET ROLE register_app; SET register.keeper = '{keeper}'");
        await using var question = new NpgsqlCommand(asked, connection);
        try
        {
            return Convert.ToInt64(await question.ExecuteScalarAsync(), System.Globalization.CultureInfo.InvariantCulture) > 0;
        }
        catch (PostgresException refused) when (refused.SqlState == PostgresErrorCodes.InsufficientPrivilege)
        {
            return false;
        }
    }

    private static async Task RunAsync(string to, string statement)
    {
        await using var connection = new NpgsqlConnection(to);
        await connection.OpenAsync();
        await ExecuteAsync(connection, statement);
    }

    private static async Task ExecuteAsync(NpgsqlConnection connection, string statements)
    {
        await using var command = new NpgsqlCommand(statements, connection);
        await command.ExecuteNonQueryAsync();
    }
}
