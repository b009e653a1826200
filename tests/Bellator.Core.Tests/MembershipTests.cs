using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// What the request says about whose records are meant, where another address asks the person about it (CWE-639; OWASP ASVS 5.0, V8.4.1), and
/// look-ups of the person's own account on the way, which say nothing of other records. Both are common practice, no published list.
/// </summary>
public sealed class MembershipTests
{
    private const string Wrapped = """
        const { Pool } = require('pg'); const pool = new Pool(); const app = require('express')();
        async function many(text, values = []) { const { rows } = await pool.query(text, values); return rows; }
        async function one(text, values = []) { const rows = await many(text, values); return rows[0] || null; }
        const known = async (req, res, next) => { req.user = await one('SELECT id, role FROM members WHERE id = $1 AND active', [req.session.userId]); if (!req.user) { return res.sendStatus(401); } next(); };
        const belongs = async (who, district) => { const row = await one('SELECT 1 AS ok FROM duties WHERE member_id = $1 AND district_id = $2', [who, district]); if (!row) { throw new Error('not of this district'); } };
        app.post('/sign-in', async (req, res) => { const m = await one('SELECT id, password_hash FROM members WHERE email = $1', [req.body.email]); if (m && await require('bcrypt').compare(req.body.password, m.password_hash)) { req.session.userId = m.id; } res.end(); });
        app.get('/apiaries', known, async (req, res) => { await belongs(req.user.id, req.query.district); res.json(await many('SELECT name FROM apiaries WHERE district_id = $1', [req.query.district])); });

        """;

    [Theory]
    [InlineData("app.get('/treatments', known, async (req, res) => { res.json(await many('SELECT substance FROM treatments WHERE district_id = $1', [req.query.district])); });", "records/tenant-not-checked")]
    [InlineData("app.put('/members/:id/role', known, async (req, res) => { await many('UPDATE members SET role = $1 WHERE id = $2', ['inspector', req.params.id]); res.end(); });", "records/no-owner-condition")]
    [InlineData("app.get('/treatments', known, async (req, res) => { await belongs(req.user.id, req.query.district); res.json(await many('SELECT substance FROM treatments WHERE district_id = $1', [req.query.district])); });", null)]
    [InlineData("const inspector = (req, res, next) => { if (req.user.role !== 'inspector') { return res.sendStatus(403); } next(); }; app.put('/members/:id/role', known, inspector, async (req, res) => { await many('UPDATE members SET role = $1 WHERE id = $2', ['inspector', req.params.id]); res.end(); });", null)]
    [InlineData("app.put('/members/:id/role', known, async (req, res) => { const chief = await one('SELECT 1 FROM chiefs WHERE member_id = $1', [req.user.id]); if (!chief) { return res.sendStatus(403); } await many('UPDATE members SET role = $1 WHERE id = $2', ['inspector', req.params.id]); res.end(); });", null)]
    public void Behind_a_look_up_of_the_account(string route, string? check) => Assert.Equal(check is null ? [] : [check], Records(("app.js", Wrapped + route), ("schema.sql", "create table members (id int primary key, email text not null unique, password_hash text not null, role text not null, active boolean not null);\n")));

    private const string Claims = """
        using System.Security.Claims;
        using Npgsql;
        namespace Register;
        public static class Person { public static string District(this ClaimsPrincipal user) => user.FindFirst("district")!.Value; }
        public static class Routes {
          public static void Map(WebApplication app, NpgsqlDataSource source) {
            var group = app.MapGroup("/d/{district}/treatments").RequireAuthorization();
            group.MapDelete("/{id:int}", async (string district, int id, ClaimsPrincipal user) => {
              if (user.District() != district) return Results.Forbid();
              await using var cmd = source.CreateCommand("delete from treatments where id = @id and district_id = @d");
              cmd.Parameters.AddWithValue("id", id); cmd.Parameters.AddWithValue("d", district);
              await cmd.ExecuteNonQueryAsync(); return Results.NoContent();
            });
            group.MapGet("/", async (string district, ClaimsPrincipal user) => {
              CHECK
              await using var cmd = source.CreateCommand("select substance from treatments where district_id = @d");
              cmd.Parameters.AddWithValue("d", district);
              return Results.Ok(await cmd.ExecuteScalarAsync());
            });
          }
        }
        """;

    [Theory]
    [InlineData("", null, "records/tenant-not-checked")]
    [InlineData("if (user.District() != district) return Results.Forbid();", null, null)]
    [InlineData("if (district == \"\") return Results.NotFound();", null, "records/tenant-not-checked")]
    [InlineData("", "using (true)", "records/tenant-not-checked")]
    [InlineData("", "using (district_id = current_setting('app.district'))", null)]
    public void What_is_compared_elsewhere(string check, string? policy, string? expected)
    {
        var schema = "create table treatments (id int primary key, district_id text not null, substance text);\n" + (policy is null ? "" : $"alter table treatments enable row level security;\nalter table treatments force row level security;\ncreate policy p on treatments {policy};\n");
        Assert.Equal(expected is null ? [] : [expected], Records(("Routes.cs", Claims.Replace("CHECK", check, StringComparison.Ordinal)), ("schema.sql", schema)).Where(c => c != "records/open-rule"));
    }

    private static IEnumerable<string> Records(params (string, string)[] files) =>
        Auditor.Run(files).Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId).Distinct();
}
