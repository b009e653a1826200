using Bellator.Analysis.Libraries;
using Bellator.Audit.RowSecurity;
using Bellator.Audit.Sql;

namespace Bellator.Core.Tests;

/// <summary>
/// Row-level security as SQL sets it up: each mistake beside the correct ways of writing the same. That PostgreSQL itself behaves as these
/// findings say is checked against a running one in PolicyOracleTests. The rules are those of its manual, from memory.
/// </summary>
public sealed class PolicyTests
{
    /// <summary>Keepers, the districts in which they have a duty, and records of theirs.</summary>
    internal const string Register = """
        CREATE TABLE keepers (id int PRIMARY KEY, login text NOT NULL UNIQUE, password_hash text NOT NULL, phone text);
        CREATE TABLE duties (keeper_id int PRIMARY KEY REFERENCES keepers, district_id int NOT NULL, role text NOT NULL DEFAULT 'keeper');
        CREATE TABLE hives (id int PRIMARY KEY, keeper_id int NOT NULL REFERENCES keepers, district_id int NOT NULL, name text, public boolean NOT NULL DEFAULT false);
        CREATE FUNCTION me() RETURNS int LANGUAGE sql STABLE AS $$ SELECT nullif(current_setting('register.keeper', true), '')::int $$;
        CREATE FUNCTION my_district() RETURNS int LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$ SELECT district_id FROM duties WHERE keeper_id = me() $$;
        CREATE FUNCTION is_inspector() RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$ SELECT EXISTS (SELECT 1 FROM duties WHERE keeper_id = me() AND role = 'inspector') $$;
        ALTER TABLE hives ENABLE ROW LEVEL SECURITY;
        CREATE ROLE register_app LOGIN;

        """;

    private const string Own = "CREATE POLICY own ON hives USING (keeper_id = me());\n";

    [Theory]
    [InlineData("CREATE POLICY all_rows ON hives USING (true);", "records/open-rule")]
    [InlineData("CREATE POLICY all_rows ON hives FOR UPDATE USING (1 = 1);", "records/open-rule")]
    [InlineData("CREATE POLICY all_rows ON hives FOR DELETE USING (hives.id = hives.id);", "records/open-rule")]
    [InlineData("CREATE POLICY all_rows ON hives AS RESTRICTIVE USING (true);" + Own, null)]
    [InlineData("CREATE POLICY jobs ON hives TO register_jobs USING (true);" + Own, null)]
    [InlineData("CREATE TABLE swarms (id int, place text); ALTER TABLE swarms ENABLE ROW LEVEL SECURITY; CREATE POLICY everyone ON swarms FOR SELECT USING (true);", null)]
    [InlineData("CREATE TABLE swarms (id int, place text, email text); ALTER TABLE swarms ENABLE ROW LEVEL SECURITY; CREATE POLICY everyone ON swarms FOR SELECT USING (true);", "records/open-rule")]
    [InlineData("CREATE POLICY district ON hives FOR SELECT USING (EXISTS (SELECT 1 FROM duties d WHERE d.keeper_id = me() AND d.district_id = district_id));", "records/open-rule")]
    [InlineData("CREATE POLICY district ON hives FOR SELECT USING (EXISTS (SELECT 1 FROM duties d WHERE d.keeper_id = me() AND d.district_id = hives.district_id));", null)]
    [InlineData("CREATE POLICY district ON hives FOR SELECT USING (district_id IN (SELECT d.district_id FROM duties d WHERE d.keeper_id = me()));", null)]
    [InlineData(Own + "CREATE POLICY district ON hives FOR ALL USING (district_id = my_district());", "records/open-rule")]
    [InlineData(Own + "CREATE POLICY district ON hives FOR DELETE USING (district_id IN (SELECT district_id FROM duties WHERE keeper_id = me()));", "records/open-rule")]
    [InlineData(Own + "CREATE POLICY district ON hives FOR SELECT USING (district_id = my_district());", null)]
    [InlineData(Own + "CREATE POLICY district ON hives AS RESTRICTIVE FOR ALL USING (district_id = my_district());", null)]
    [InlineData(Own + "CREATE POLICY inspectors ON hives FOR ALL USING (district_id = my_district() AND is_inspector());", null)]
    [InlineData("CREATE POLICY own ON hives USING (me() IS NULL OR keeper_id = me());", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (coalesce(keeper_id = me(), true));", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (NOT (me() IS NOT NULL) OR keeper_id = me());", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (keeper_id = current_setting('register.keeper', true)::int OR current_setting('register.keeper', true) IS NULL);", "records/open-when-anonymous")]
    [InlineData("CREATE POLICY own ON hives USING (me() IS NOT NULL AND keeper_id = me());", null)]
    [InlineData("CREATE POLICY own ON hives USING (public OR keeper_id = me());", null)]
    [InlineData("CREATE FUNCTION who() RETURNS int LANGUAGE sql AS $$ SELECT coalesce(nullif(current_setting('register.keeper', true), ''), '7')::int $$; CREATE POLICY own ON hives USING (keeper_id = who());", "records/open-when-anonymous")]
    [InlineData("CREATE FUNCTION who() RETURNS int LANGUAGE sql AS $$ SELECT coalesce(nullif(current_setting('register.keeper', true), ''), '0')::int $$; CREATE POLICY own ON hives USING (keeper_id = who());", null)]
    [InlineData("CREATE POLICY own ON hives FOR UPDATE USING (keeper_id = me()) WITH CHECK (true);", "records/owner-can-be-set")]
    [InlineData("CREATE POLICY own ON hives FOR UPDATE USING (keeper_id = me());", null)]
    [InlineData("CREATE POLICY own ON hives FOR UPDATE USING (keeper_id = me()) WITH CHECK (keeper_id = me());", null)]
    [InlineData("CREATE POLICY own ON hives FOR SELECT USING (keeper_id = me()); CREATE POLICY add ON hives FOR INSERT WITH CHECK (district_id = my_district());", "records/owner-can-be-set")]
    [InlineData("CREATE POLICY own ON hives FOR SELECT USING (keeper_id = me()); CREATE POLICY add ON hives FOR INSERT WITH CHECK (keeper_id = me() AND district_id = my_district());", null)]
    [InlineData("CREATE POLICY own ON hives FOR SELECT USING (keeper_id = me()); CREATE POLICY add ON hives FOR INSERT WITH CHECK (district_id = my_district() AND is_inspector());", null)]
    [InlineData("ALTER TABLE duties ENABLE ROW LEVEL SECURITY; CREATE POLICY own_duty ON duties FOR UPDATE USING (keeper_id = me()); GRANT UPDATE ON duties TO register_app;", "records/owner-can-be-set")]
    [InlineData("ALTER TABLE duties ENABLE ROW LEVEL SECURITY; CREATE POLICY own_duty ON duties FOR UPDATE USING (keeper_id = me()); GRANT UPDATE (district_id) ON duties TO register_app;", null)]
    [InlineData("CREATE POLICY own_duty ON duties USING (keeper_id = me());" + Own, "records/row-security-not-enforced")]
    [InlineData("ALTER TABLE duties ENABLE ROW LEVEL SECURITY; CREATE POLICY own_duty ON duties USING (keeper_id = me());" + Own, null)]
    [InlineData("DO $$ BEGIN EXECUTE 'ALTER TABLE duties ENABLE ROW LEVEL SECURITY'; END $$; CREATE POLICY own_duty ON duties USING (keeper_id = me());" + Own, null)]
    [InlineData(Own + "ALTER TABLE hives OWNER TO register_app;", "records/row-security-not-enforced")]
    [InlineData(Own + "ALTER TABLE hives OWNER TO register_app; ALTER TABLE hives FORCE ROW LEVEL SECURITY;", null)]
    [InlineData(Own + "CREATE ROLE register_print LOGIN BYPASSRLS; GRANT SELECT ON hives TO register_print;", "records/row-security-not-enforced")]
    [InlineData(Own + "CREATE ROLE register_backup LOGIN BYPASSRLS; GRANT pg_read_all_data TO register_backup;", null)]
    [InlineData(Own + "CREATE VIEW board AS SELECT name FROM hives WHERE name <> ''; GRANT SELECT ON board TO register_app;", "records/filter-bypassed")]
    [InlineData(Own + "CREATE VIEW board WITH (security_invoker = true) AS SELECT name FROM hives WHERE name <> ''; GRANT SELECT ON board TO register_app;", null)]
    [InlineData(Own + "CREATE VIEW board AS SELECT name FROM hives; ALTER VIEW board SET (security_invoker = on); GRANT SELECT ON board TO register_app;", null)]
    [InlineData(Own + "CREATE VIEW mine AS SELECT name FROM hives WHERE keeper_id = me(); GRANT SELECT ON mine TO register_app;", null)]
    [InlineData("CREATE POLICY own ON hives USING (public OR keeper_id = me()); CREATE VIEW shown AS SELECT name FROM hives WHERE public; GRANT SELECT ON shown TO register_app;", null)]
    [InlineData(Own + "CREATE VIEW totals AS SELECT district_id, count(*) FROM duties GROUP BY district_id; GRANT SELECT ON totals TO register_app;", null)]
    [InlineData(Own + "CREATE MATERIALIZED VIEW counts AS SELECT keeper_id, count(*) FROM hives GROUP BY keeper_id; GRANT SELECT ON counts TO register_app;", "records/filter-bypassed")]
    [InlineData(Own + "CREATE MATERIALIZED VIEW counts AS SELECT count(h.id) FROM hives h; GRANT SELECT ON counts TO register_app;", null)]
    [InlineData(Own + "CREATE FUNCTION hive_name(wanted int) RETURNS text LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$ SELECT h.name FROM hives h WHERE h.id = wanted $$;", "records/filter-bypassed")]
    [InlineData(Own + "CREATE FUNCTION hive_name(wanted int) RETURNS text LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$ SELECT h.name FROM hives h WHERE h.id = wanted AND h.keeper_id = me() $$;", null)]
    [InlineData(Own + "CREATE FUNCTION hive_name(wanted int) RETURNS text LANGUAGE sql AS $$ SELECT h.name FROM hives h WHERE h.id = wanted $$;", null)]
    [InlineData(Own + "CREATE FUNCTION hive_count() RETURNS bigint LANGUAGE sql SECURITY DEFINER AS $$ SELECT count(*) FROM hives $$;", "records/search-path-open")]
    [InlineData(Own, null)]
    public void Rules_on_rows(string sql, string? expected)
    {
        var found = Auditor.Run(("schema.sql", Register + sql)).Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId).Distinct().ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
    }

    [Theory]
    [InlineData("me() IS NULL", Truth.True)]
    [InlineData("keeper_id = me()", Truth.Null)]
    [InlineData("keeper_id = me() OR true", Truth.True)]
    [InlineData("keeper_id = me() AND public", Truth.Unknown)]
    [InlineData("NOT (me() IS NULL)", Truth.False)]
    [InlineData("EXISTS (SELECT 1 FROM duties WHERE keeper_id = me())", Truth.False)]
    [InlineData("district_id = (SELECT district_id FROM duties WHERE keeper_id = me())", Truth.Null)]
    [InlineData("my_district() IS NULL", Truth.True)]
    [InlineData("coalesce(me(), 0) = keeper_id", Truth.Unknown)]
    [InlineData("current_user = 'register_app'", Truth.Unknown)]
    [InlineData("me() IN (1, 2)", Truth.Null)]
    [InlineData("CASE WHEN me() IS NULL THEN true ELSE false END", Truth.Unknown)]
    public void Conditions_where_nobody_is_signed_in(string condition, Truth expected)
    {
        var model = new RowSecurityModel();
        RowSecurityReader.Read(model, Register, span => new Bellator.Text.Location(0, span.Start, span.End));
        Assert.Equal(expected, new PolicyTerms(model, new IdentifierClassifier(LibraryModels.Shipped)).WithoutPerson(SqlExpressionReader.Condition([.. SqlTokens.Of(condition)])));
    }

    /// <summary>Broken and endless input is read to its end.</summary>
    [Theory]
    [InlineData("CREATE POLICY p ON t USING (((((")]
    [InlineData("CREATE POLICY p ON t USING (a = (SELECT")]
    [InlineData("CREATE POLICY p ON t USING (CASE WHEN")]
    [InlineData("CREATE POLICY p ON t FOR TO USING WITH CHECK")]
    [InlineData("CREATE FUNCTION f( AS $$")]
    [InlineData("CREATE VIEW v AS SELECT a FROM (SELECT b FROM c WHERE")]
    [InlineData("GRANT SELECT ( ON")]
    [InlineData("ALTER TABLE t OWNER TO")]
    [InlineData("ALTER ROLE")]
    [InlineData("CREATE POLICY p ON t USING (a[1] ->> 'x' = ANY (ARRAY[1, 2]) AND b::text[] @> '{}' AND c BETWEEN 1 AND 2 IS NOT TRUE)")]
    public void Broken_statements_are_read_to_their_end(string sql) =>
        RowSecurityReader.Read(new RowSecurityModel(), sql + "; CREATE POLICY q ON u USING (true)", span => new Bellator.Text.Location(0, span.Start, span.End));

    [Fact]
    public void Deep_conditions_are_read_to_their_end() =>
        Assert.NotNull(SqlExpressionReader.Condition([.. SqlTokens.Of(new string('(', 50_000) + "a" + new string(')', 50_000))]));
}
