namespace Bellator.Core.Tests;

/// <summary>
/// Tenants by a column of the accounts, records below records, and conditions that a mapper puts on queries by itself (CWE-639). What the
/// mappers do is their documentation, from memory: Prisma's client extensions, EF Core's query filters and IgnoreQueryFilters, Laravel's global scopes.
/// </summary>
public sealed class TenantTests
{
    private const string Schema = """
        CREATE TABLE districts (id int PRIMARY KEY, name text NOT NULL);
        CREATE TABLE members (id int PRIMARY KEY, email text NOT NULL, password_hash text NOT NULL, role text NOT NULL, district_id int NOT NULL REFERENCES districts);
        CREATE TABLE apiaries (id int PRIMARY KEY, name text NOT NULL, district_id int NOT NULL REFERENCES districts, keeper_id int NOT NULL REFERENCES members);
        CREATE TABLE hives (id int PRIMARY KEY, apiary_id int NOT NULL REFERENCES apiaries, note text);
        CREATE TABLE treatments (id int PRIMARY KEY, district_id int NOT NULL REFERENCES districts, substance text);
        """;

    private const string App = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
        const known = async (req, res, next) => { const { rows } = await pool.query('SELECT id, role, district_id FROM members WHERE id = $1', [req.session.userId]); if (!rows[0]) { return res.sendStatus(401); } req.user = rows[0]; next(); };
        const inspector = (req, res, next) => { if (req.user.role !== 'inspector') { return res.sendStatus(403); } next(); };
        app.get('/apiaries', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM apiaries WHERE district_id = $1', [req.user.district_id])).rows); });
        app.get('/treatments/mine', known, inspector, async (req, res) => { res.json((await pool.query('SELECT id, substance FROM treatments WHERE district_id = $1', [req.user.district_id])).rows); });

        """;

    [Theory]
    [InlineData("app.get('/export', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM apiaries ORDER BY name')).rows); });", true)]
    [InlineData("app.get('/export', known, inspector, async (req, res) => { res.json((await pool.query('SELECT id, substance FROM treatments')).rows); });", true)]
    [InlineData("app.post('/treatments/:id/stop', known, inspector, async (req, res) => { await pool.query('UPDATE treatments SET substance = NULL WHERE id = $1', [req.params.id]); res.end(); });", true)]
    [InlineData("app.get('/export', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM apiaries WHERE district_id = $1 ORDER BY name', [req.user.district_id])).rows); });", false)]
    [InlineData("app.get('/export', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM apiaries WHERE keeper_id = $1', [req.user.id])).rows); });", false)]
    [InlineData("app.get('/districts', known, async (req, res) => { res.json((await pool.query('SELECT id, name FROM districts')).rows); });", false)]
    [InlineData("app.get('/hives', known, async (req, res) => { res.json((await pool.query('SELECT id, note FROM hives')).rows); });", false)]
    public void Records_of_all_tenants(string route, bool isWeak) => Check("records/tenant-not-limited", isWeak, ("schema.sql", Schema), ("app.js", App + route));

    [Theory]
    [InlineData("app.get('/apiaries/:apiary/hives/:id', known, async (req, res) => { const { rows } = await pool.query('SELECT id FROM apiaries WHERE id = $1 AND keeper_id = $2', [req.params.apiary, req.user.id]); if (!rows[0]) { return res.sendStatus(404); } res.json((await pool.query('SELECT note FROM hives WHERE id = $1', [req.params.id])).rows); });", true)]
    [InlineData("app.delete('/apiaries/:apiary/hives/:id', known, async (req, res) => { const { rows } = await pool.query('SELECT id FROM apiaries WHERE id = $1 AND keeper_id = $2', [req.params.apiary, req.user.id]); if (!rows[0]) { return res.sendStatus(404); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end(); });", true)]
    [InlineData("app.get('/apiaries/:apiary/hives/:id', known, async (req, res) => { const { rows } = await pool.query('SELECT id FROM apiaries WHERE id = $1 AND keeper_id = $2', [req.params.apiary, req.user.id]); if (!rows[0]) { return res.sendStatus(404); } res.json((await pool.query('SELECT note FROM hives WHERE id = $1 AND apiary_id = $2', [req.params.id, req.params.apiary])).rows); });", false)]
    [InlineData("app.get('/apiaries/:apiary/hives/:id', known, async (req, res) => { const { rows } = await pool.query('SELECT id FROM apiaries WHERE id = $1 AND keeper_id = $2', [req.params.apiary, req.user.id]); const hive = (await pool.query('SELECT note, apiary_id FROM hives WHERE id = $1', [req.params.id])).rows[0]; if (!rows[0] || hive.apiary_id !== rows[0].id) { return res.sendStatus(404); } res.json(hive.note); });", false)]
    [InlineData("app.get('/apiaries/:apiary/hives', known, async (req, res) => { const { rows } = await pool.query('SELECT id FROM apiaries WHERE id = $1 AND keeper_id = $2', [req.params.apiary, req.user.id]); if (!rows[0]) { return res.sendStatus(404); } res.json((await pool.query('SELECT note FROM hives WHERE apiary_id = $1', [req.params.apiary])).rows); });", false)]
    public void A_child_beside_its_parent(string route, bool isWeak) => Check("records/child-not-tied", isWeak, ("schema.sql", Schema), ("app.js", App + route));

    private const string Db = """
        using System.Security.Claims; using Microsoft.AspNetCore.Authorization; using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore;
        public class District { public int Id { get; set; } }
        public class Member { public int Id { get; set; } public string Email { get; set; } = ""; public string PasswordHash { get; set; } = ""; public int DistrictId { get; set; } public District District { get; set; } = null!; }
        public class Report { public int Id { get; set; } public string Text { get; set; } = ""; public int DistrictId { get; set; } }
        public class RegisterDb : DbContext
        {
            public DbSet<Member> Members => Set<Member>(); public DbSet<Report> Reports => Set<Report>(); public DbSet<District> Districts => Set<District>(); public int DistrictId { get; set; }
            protected override void OnModelCreating(ModelBuilder b) { FILTER }
        }
        [Authorize] [Route("reports")]
        public class ReportsController(RegisterDb db) : ControllerBase
        {
            int Mine => int.Parse(User.FindFirstValue("DistrictId")!);
            [HttpGet("mine")] public async Task<IActionResult> List() { var mine = int.Parse(User.FindFirstValue("DistrictId")!); return Ok(await db.Reports.Where(r => r.DistrictId == mine).ToListAsync()); }
            [HttpGet("all")] public async Task<IActionResult> All() => Ok(await USE.ToListAsync());
        }
        """;

    [Theory]
    [InlineData("", "db.Reports", true)]
    [InlineData("b.Entity<Report>().HasQueryFilter(r => r.DistrictId == DistrictId);", "db.Reports", false)]
    [InlineData("b.Entity<Report>().HasQueryFilter(r => r.DistrictId == DistrictId);", "db.Reports.IgnoreQueryFilters()", true)]
    public void A_filter_on_every_query(string filter, string use, bool isWeak) =>
        Check("records/tenant-not-limited", isWeak, ("Db.cs", Db.Replace("FILTER", filter, StringComparison.Ordinal).Replace("USE", use, StringComparison.Ordinal)));

    private static void Check(string check, bool isWeak, params (string Path, string Code)[] files) =>
        Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == check));
}
