using Bellator.Audit.Sql;

namespace Bellator.Core.Tests;

/// <summary>
/// Rows that are answered with the hash among their columns (CWE-200): by statements, through wrappers, handles without a known type and
/// relations that come along. What mappers fetch is their documentation, from memory: Prisma's include and select, Mongoose's populate,
/// EF Core's Include and SqlQuery, ActiveRecord's has_many.
/// </summary>
public sealed class WholeRecordTests
{
    private const string Schema = """
        CREATE TABLE members (id int PRIMARY KEY, name text NOT NULL, password_hash text NOT NULL);
        CREATE TABLE hives (id int PRIMARY KEY, name text, keeper_id int NOT NULL REFERENCES members);
        """;

    private const string Express = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
        const members = { byId: async (id) => (await pool.query('SELECT * FROM members WHERE id = $1', [id])).rows[0] };

        """;

    [Theory]
    [InlineData("const { rows } = await pool.query('SELECT * FROM members WHERE id = $1', [req.params.id]); res.json(rows[0]);", true)]
    [InlineData("res.json(await members.byId(req.params.id));", true)]
    [InlineData("const found = await req.app.locals.db.run('SELECT m.* FROM members m JOIN hives h ON h.keeper_id = m.id'); res.send(found.map((m) => ({ ...m, seen: true })));", true)]
    [InlineData("const r = await pool.query('UPDATE members SET name = $1 WHERE id = $2 RETURNING *', [req.body.name, 1]); res.json({ member: r.rows[0] });", true)]
    [InlineData("res.end(JSON.stringify((await pool.query('SELECT id, password_hash AS secret FROM members')).rows));", true)]
    [InlineData("pool.query('SELECT * FROM members', (error, result) => { res.json(result.rows); });", true)]
    [InlineData("const { password_hash, ...rest } = await members.byId(1); res.json(rest);", false)]
    [InlineData("const m = await members.byId(1); delete m.password_hash; res.json(m);", false)]
    [InlineData("const m = await members.byId(1); res.json({ id: m.id, name: m.name });", false)]
    [InlineData("const r = await pool.query('UPDATE members SET name = $1 WHERE id = $2 RETURNING id, name', [req.body.name, 1]); res.json(r.rows[0]);", false)]
    [InlineData("const r = await pool.query('SELECT h.* FROM hives h JOIN members m ON m.id = h.keeper_id'); res.json(r.rows);", false)]
    [InlineData("const r = await pool.query('SELECT count(password_hash), password_hash IS NULL AS open FROM members'); res.json(r.rows[0]);", false)]
    [InlineData("const r = await pool.query('SELECT * FROM members'); res.json(r.rows.length);", false)]
    public void Rows_of_a_statement(string body, bool isWeak) => Check(isWeak, ("schema.sql", Schema), ("app.js", Express + "app.get('/members/:id', async (req, res) => { " + body + " });"));

    private const string Flask = """
        import json, sqlite3
        from flask import Flask, Response, jsonify
        app = Flask(__name__)
        def one(sql, *values):
            return sqlite3.connect("x.db").execute(sql, values).fetchone()
        @app.get("/members/<int:number>")
        def member(number):

        """;

    [Theory]
    [InlineData("    return jsonify(dict(one(\"SELECT * FROM members WHERE id = ?\", number)))", true)]
    [InlineData("    cur = sqlite3.connect(\"x.db\").cursor()\n    cur.execute(\"SELECT * FROM members\")\n    return Response(json.dumps([dict(r) for r in cur.fetchall()]), mimetype=\"application/json\")", true)]
    [InlineData("    row = dict(one(\"SELECT * FROM members\"))\n    del row[\"password_hash\"]\n    return jsonify(row)", false)]
    [InlineData("    row = dict(one(\"SELECT * FROM members\"))\n    row.pop(\"password_hash\")\n    return jsonify(row)", false)]
    [InlineData("    return jsonify([{\"id\": r[\"id\"]} for r in one(\"SELECT * FROM members\")])", false)]
    public void Rows_through_a_helper_in_Python(string body, bool isWeak) => Check(isWeak, ("schema.sql", Schema), ("app.py", Flask + body + "\n"));

    [Theory]
    [InlineData("json(rows('SELECT * FROM members'));", true)]
    [InlineData("$found = rows('SELECT * FROM members'); echo json_encode(['members' => $found]);", true)]
    [InlineData("$one = rows('SELECT * FROM members')[0]; unset($one['password_hash']); json($one);", false)]
    [InlineData("json(rows('SELECT id, name FROM members'));", false)]
    public void Rows_through_helpers_in_Php(string body, bool isWeak) => Check(isWeak, ("schema.sql", Schema), ("index.php", """
        <?php
        function run(string $sql, array $values = []): PDOStatement { $s = (new PDO('sqlite:x'))->prepare($sql); $s->execute($values); return $s; }
        function rows(string $sql, array $values = []): array { return run($sql, $values)->fetchAll(); }
        function json($data): void { header('Content-Type: application/json'); echo json_encode($data); }

        """ + body));

    [Fact]
    public void Rows_that_a_helper_reads_one_by_one() => Check(true, ("schema.sql", Schema), ("Program.cs", """
        var app = WebApplication.Create();
        app.MapGet("/me", async (Db db) => Results.Ok((await db.Rows("select * from members where id = @id", ("id", 1)))[0]));
        app.Run();
        public class Db(NpgsqlDataSource source)
        {
            public async Task<List<Dictionary<string, object?>>> Rows(string sql, params (string Name, object Value)[] values)
            {
                await using var connection = await source.OpenConnectionAsync();
                await using var command = new NpgsqlCommand(sql, connection);
                await using var reader = await command.ExecuteReaderAsync();
                var rows = new List<Dictionary<string, object?>>();
                while (await reader.ReadAsync()) { rows.Add(Enumerable.Range(0, reader.FieldCount).ToDictionary(reader.GetName, i => (object?)reader.GetValue(i))); }
                return rows;
            }
        }
        """));

    private const string Mongoose = """
        import express from 'express'; import mongoose from 'mongoose';
        const { Schema, model } = mongoose; const app = express();
        const ref = (to) => ({ type: Schema.Types.ObjectId, ref: to });
        const Member = model('Member', new Schema({ name: String, passwordHash: { type: String, required: true } }));
        const Hive = model('Hive', new Schema({ name: String, keeper: ref('Member') }));

        """;

    [Theory]
    [InlineData("Hive.findOne({ _id: req.params.id }).populate('keeper')", true)]
    [InlineData("Hive.find().select('name keeper').populate({ path: 'keeper' }).lean()", true)]
    [InlineData("Hive.find().populate('keeper', 'name')", false)]
    [InlineData("Hive.find().populate({ path: 'keeper', select: 'name' })", false)]
    [InlineData("Member.find().select('name')", false)]
    public void Documents_that_come_along(string query, bool isWeak) => Check(isWeak, ("app.js", Mongoose + "app.get('/hives/:id', async (req, res) => { res.json(await " + query + "); });"));

    private const string Prisma = """
        model Member {
          id Int @id
          name String
          passwordHash String
          hives Hive[]
        }
        model Hive {
          id Int @id
          keeperId Int
          keeper Member @relation(fields: [keeperId], references: [id])
        }

        """;

    [Theory]
    [InlineData("include: { keeper: true }", true)]
    [InlineData("include: { keeper: { select: { name: true } } }", false)]
    [InlineData("include: { keeper: false }", false)]
    public void Relations_that_Prisma_includes(string options, bool isWeak) => Check(isWeak, ("schema.prisma", Prisma), ("app.js", $$"""
        const app = require('express')(); const { PrismaClient } = require('@prisma/client'); const prisma = new PrismaClient();
        app.get('/hives', async (req, res) => { res.json(await prisma.hive.findMany({ where: { open: true }, {{options}} })); });
        """));

    [Theory]
    [InlineData("db.Hives.Include(h => h.Keeper).ToListAsync()", true)]
    [InlineData("db.Hives.Include(h => h.Keeper).Select(h => new { h.Id, By = h.Keeper!.Name }).ToListAsync()", false)]
    [InlineData("db.Hives.ToListAsync()", false)]
    public void Relations_that_are_included_in_Csharp(string query, bool isWeak) => Check(isWeak, ("Program.cs", $$"""
        var app = WebApplication.Create();
        app.MapGet("/hives", async (Store db) => Results.Ok(await {{query}}));
        app.Run();
        public class Member { public int Id { get; set; } public string Name { get; set; } = ""; public string PasswordHash { get; set; } = ""; }
        public class Hive { public int Id { get; set; } public int KeeperId { get; set; } public Member? Keeper { get; set; } }
        public class Store : DbContext { public DbSet<Hive> Hives => Set<Hive>(); public DbSet<Member> Members => Set<Member>(); }
        """));

    [Theory]
    [InlineData("render json: Current.district.members.order(:name)", true)]
    [InlineData("render json: Current.district.members.order(:name).as_json(only: %i[id name])", false)]
    public void Records_of_a_relation_of_something_unknown(string answer, bool isWeak) => Check(isWeak,
        ("db/schema.rb", "ActiveRecord::Schema[7.1].define do\n  create_table \"members\" do |t|\n    t.string \"name\"\n    t.string \"password_digest\"\n  end\nend\n"),
        ("config/routes.rb", "Rails.application.routes.draw do\n  resources :members\nend\n"),
        ("app/models/member.rb", "class Member < ApplicationRecord\n  has_secure_password\nend\n"),
        ("app/models/district.rb", "class District < ApplicationRecord\n  has_many :members\nend\n"),
        ("app/controllers/members_controller.rb", $"class MembersController < ApplicationController\n  def index\n    {answer}\n  end\nend\n"));

    private static void Check(bool isWeak, params (string Path, string Text)[] files) =>
        Assert.Equal(isWeak ? 1 : 0, Auditor.Run(files).Findings.Count(f => f.CheckId == "exposure/hash-in-response"));

    [Theory]
    [InlineData("SELECT * FROM members", "members.*")]
    [InlineData("SELECT m.*, h.name AS hive FROM members AS m LEFT JOIN hives h ON h.keeper_id = m.id", "members.*, hives.name hive")]
    [InlineData("SELECT * FROM members m, hives h", ".*, members.*, hives.*")]
    [InlineData("SELECT id, lower(name), name || '!', count(*) AS n, password_hash secret FROM members WHERE id IN (SELECT keeper_id FROM hives)", ".id, .password_hash secret")]
    [InlineData("SELECT DISTINCT ON (name) id FROM public.members LIMIT 3", "members.id")]
    [InlineData("WITH open AS (SELECT * FROM hives) SELECT o.id FROM open o", "open.id")]
    [InlineData("INSERT INTO members (name) SELECT name FROM hives RETURNING id, \"name\"", ".id, .name")]
    [InlineData("UPDATE members SET name = 'x' WHERE id = 1", "")]
    public void Columns_that_a_statement_gives(string statement, string columns) =>
        Assert.Equal(columns, string.Join(", ", SelectedColumns.Of(statement).Select(c => $"{c.Table}.{c.Name}{(c.As == c.Name ? "" : " " + c.As)}")));

    /// <summary>A whole statement is one wherever it is handed to; prose and log lines are none.</summary>
    [Theory]
    [InlineData("req.app.db.ask('SELECT id FROM hives WHERE name = \\'' + req.query.q + '\\'')", true)]
    [InlineData("this.registry.get('db').all(`select id from hives where name = '${req.query.q}' order by id`)", true)]
    [InlineData("store`SELECT id FROM hives WHERE name = ${req.query.q}`", false)]
    [InlineData("tracer.debug('SELECT id FROM hives WHERE name = \\'' + req.query.q + '\\'')", false)]
    [InlineData("chat.say('Select ' + req.query.q + ' from the list')", false)]
    [InlineData("req.app.db.ask('SELECT id FROM hives WHERE name = ?', [req.query.q])", false)]
    public void Statements_for_handles_that_are_not_known(string call, bool isWeak)
    {
        var result = Auditor.Run(("app.js", "const app = require('express')();\napp.get('/', async (req, res) => { await " + call + "; res.end(); });"));
        Assert.Equal(isWeak ? 1 : 0, result.Findings.Count(f => f.CheckId == "injection/sql"));
    }

    /// <summary>EF Core binds what stands in the holes of an interpolated text; a text put together before is not one.</summary>
    [Theory]
    [InlineData("db.Database.SqlQuery<string>($\"SELECT Name AS Value FROM Hives WHERE Name LIKE {q}\").ToListAsync()", false)]
    [InlineData("db.Database.ExecuteSqlAsync($\"UPDATE Hives SET Name = {q}\")", false)]
    [InlineData("db.Database.ExecuteSqlRawAsync($\"UPDATE Hives SET Name = '{q}'\")", true)]
    public void Interpolated_statements(string call, bool isWeak)
    {
        var result = Auditor.Run(("Program.cs", "var app = WebApplication.Create();\napp.MapGet(\"/\", async (string q, Store db) => { await " + call + "; return Results.Ok(); });\napp.Run();\npublic class Store : DbContext { }"));
        Assert.Equal(isWeak ? 1 : 0, result.Findings.Count(f => f.CheckId == "injection/sql"));
    }
}
