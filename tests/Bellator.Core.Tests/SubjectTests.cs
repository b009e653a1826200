using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// The ways by which code comes to know who is asking, and what it does with that: each program lists hives, and the access map says whose.
/// What the frameworks provide comes from memory of their documentation.
/// </summary>
public sealed class SubjectTests
{
    private const string Express = "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const jwt = require('jsonwebtoken');\n";
    private const string List = "app.get('/hives', async (req, res) => { res.json((await pool.query('SELECT name FROM hives WHERE keeper_id = $1', [WHO])).rows); });";

    [Theory]
    [InlineData("", "req.session.member", "own")]
    [InlineData("", "Number(req.session.member)", "own")]
    [InlineData("app.use(async (req, res, next) => { req.keeper = (await pool.query('SELECT id FROM keepers WHERE token = $1', [req.cookies.token])).rows[0]; next(); });", "req.keeper.id", "own")]
    [InlineData("app.use((req, res, next) => { res.locals.claims = jwt.verify(req.get('authorization'), process.env.KEY, { algorithms: ['HS256'] }); next(); });", "res.locals.claims.sub", "own")]
    [InlineData("const byId = id => pool.query('SELECT id FROM keepers WHERE id = $1', [id]).then(r => r.rows[0]); app.use(async (req, res, next) => { req.keeper = await byId(req.session.keeper); next(); });", "req.keeper.id", "own")]
    [InlineData("app.use(async (req, res, next) => { req.apiary = (await pool.query('SELECT id FROM apiaries WHERE name = $1', [req.query.name])).rows[0]; next(); });", "req.apiary.id", "unclear")]
    [InlineData("", "req.query.keeper", "chosen")]
    [InlineData("", "req.cookies.keeper", "chosen")]
    [InlineData("", "req.get('x-keeper')", "chosen")]
    [InlineData("app.use((req, res, next) => { req.keeper = req.query.keeper; next(); });", "req.keeper", "chosen")]
    [InlineData("", "currentPage()", "unclear")]
    public void Express_requests(string before, string who, string rows) => Check("app.js", Express + before + "\n" + List.Replace("WHO", who, StringComparison.Ordinal), rows);

    [Theory]
    [InlineData("from flask import Flask, session\napp = Flask(__name__)\n", "@app.get('/hives')\ndef hives():\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (session['member'],)).fetchall()", "own")]
    [InlineData("from flask import Flask, session\napp = Flask(__name__)\n", "@app.get('/hives')\ndef hives():\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (session.get('member'),)).fetchall()", "own")]
    [InlineData("from flask import Flask, g, session\napp = Flask(__name__)\n@app.before_request\ndef load():\n    g.keeper = db.execute('SELECT id FROM keepers WHERE id = ?', (session['member'],)).fetchone()\n", "@app.get('/hives')\ndef hives():\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (g.keeper['id'],)).fetchall()", "own")]
    [InlineData("from flask import Flask\nfrom flask_login import current_user\napp = Flask(__name__)\n", "@app.get('/hives')\ndef hives():\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (current_user.id,)).fetchall()", "own")]
    [InlineData("from fastapi import FastAPI, Depends, Request\napp = FastAPI()\ndef keeper(request: Request):\n    return request.session['keeper']\n", "@app.get('/hives')\ndef hives(who: int = Depends(keeper)):\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (who,)).fetchall()", "own")]
    [InlineData("from fastapi import FastAPI\napp = FastAPI()\n", "@app.get('/hives')\ndef hives(keeper: int):\n    return db.execute('SELECT name FROM hives WHERE keeper_id = ?', (keeper,)).fetchall()", "chosen")]
    public void Python_frameworks(string before, string handler, string rows) => Check("app.py", "import sqlite3\ndb = sqlite3.connect('register.db')\n" + before + "\n" + handler + "\n", rows);

    /// <summary>What one action puts into a member says nothing of what another finds there.</summary>
    [Fact]
    public void Members_of_the_object_are_what_the_method_has_set()
    {
        var result = Auditor.Run(
            ("app/controllers/hives_controller.rb", """
                class HivesController < ApplicationController
                  def edit
                    @hive = current_user.hives.find(params[:id])
                    render json: @hive
                  end
                  def destroy
                    @hive = Hive.find(params[:id])
                    @hive.destroy!
                    head :no_content
                  end
                end
                class User < ApplicationRecord
                  has_many :hives
                end
                class Hive < ApplicationRecord
                end
                """),
            ("config/routes.rb", "Rails.application.routes.draw do\n  resources :hives\nend\n"));
        Assert.All(result.Records.Uses.Where(u => u.Path == "/hives/{id}/edit" && u.Table != "User"), u => Assert.Equal("own", u.Rows));
        Assert.Equal("chosen", Assert.Single(result.Records.Uses, u => u is { Method: "DELETE", Action: "delete" }).Rows);
    }

    /// <summary>A test counts where every way on to the handler lies behind it, whatever other answers the step gives.</summary>
    [Theory]
    [InlineData("let claims; try { claims = jwt.verify(req.get('authorization'), process.env.KEY, { algorithms: ['HS256'] }); } catch { return res.sendStatus(401); } req.user = await find(claims.sub); if (!req.user) { return res.sendStatus(401); } next();", "needed")]
    [InlineData("req.user = await find(req.session.id); if (!req.user) { if (req.path === '/open') { return next(); } return res.sendStatus(401); } next();", "unclear")]
    public void Steps_on_the_way(string step, string signIn)
    {
        var result = Auditor.Run(("app.js", Express + "const guard = async (req, res, next) => { " + step + " };\napp.get('/hives', guard, async (req, res) => { res.json((await pool.query('SELECT name FROM hives')).rows); });"));
        Assert.Equal(signIn, Assert.Single(result.Surface.Entries).SignIn);
    }

    /// <summary>A comparison that is about other rows leaves it unclear whose these are: it neither allows nor refuses.</summary>
    [Fact]
    public void A_comparison_of_something_else_does_not_make_rows_the_persons_own()
    {
        var result = Auditor.Run(
            ("schema.sql", "CREATE TABLE hives (id int PRIMARY KEY, keeper_id int); CREATE TABLE notes (id int PRIMARY KEY, hive_id int, text text);"),
            ("app.js", Express + "app.get('/hives/:hive/notes/:id', async (req, res) => { const hive = (await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [req.params.hive])).rows[0]; if (hive.keeper_id !== req.session.member) { return res.sendStatus(404); } res.json((await pool.query('SELECT text FROM notes WHERE id = $1', [req.params.id])).rows[0]); });"));
        Assert.Equal("own", Assert.Single(result.Records.Uses, u => u.Table == "hives").Rows);
        Assert.Equal("unclear", Assert.Single(result.Records.Uses, u => u.Table == "notes").Rows);
        Assert.Equal("records/child-not-tied", Assert.Single(result.Findings, f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).CheckId);
    }

    [Theory]
    [InlineData("check(a);", "check")]
    [InlineData("await check(a);", "check")]
    [InlineData("const ok = check(a);", "check")]
    [InlineData("if (check(a)) { stop(); }", "stop")]
    [InlineData("return check(a);", "")]
    [InlineData("use(check(a));", "use")]
    [InlineData("const ok = check(a); return { ok };", "")]
    [InlineData("const ok = b ? check(a) : false; if (!ok) { throw a; }", "")]
    [InlineData("new Refusal(a);", "Refusal")]
    [InlineData("throw new Refusal(a);", "")]
    public void Results_that_nothing_looks_at(string code, string called)
    {
        var function = Auditor.Lower("a.js", "async function f(a, b) { " + code + " }").Functions.Single(f => f.Name == "f");
        Assert.Equal(called, string.Join(' ', UnusedResults.Of(function).Select(i => NameOf(function, i))));
    }

    private static string NameOf(IrFunction function, int call) => function.Instructions[function.Instructions[call].A].Text ?? "";

    [Fact]
    public void The_grid_tells_the_furthest_reach_of_each_cell_and_what_is_unlike()
    {
        static ReportedRecordUse Use(string path, string signIn, string action, string rows, bool journey = false) =>
            new("GET", path, signIn, "hives", action, rows, "", [], "", new ReportedPlace("app.js", new Text.Region(1, 1, 1, 2))) { IsJourney = journey };
        var grid = new RecordGrid(new ReportedRecords([
            Use("/mine", "needed", "list", "own"), Use("/one", "needed", "view", "chosen"), Use("/two", "needed", "view", "own"), Use("/edit", "needed", "edit", "unclear"),
            Use("/admin", "needed", "list", "role"), Use("/in", "notNeeded", "view", "chosen", journey: true), Use("/new", "unclear", "create", "new")], []));
        Assert.Equal(["hives"], grid.Tables);
        Assert.Equal(("own", "all", "unclear"), (grid.Reach("hives", "signedIn", "list"), grid.Reach("Hives", "signedIn", "view"), grid.Reach("hives", "signedIn", "edit")));
        Assert.Equal(("all", "new", "none"), (grid.Reach("hives", "role", "list"), grid.Reach("hives", "unclear", "create"), grid.Reach("hives", "nobody", "delete")));
        Assert.Equal("/one", Assert.Single(grid.Unlike("hives")).Path);
    }

    private static void Check(string path, string code, string rows) =>
        Assert.Equal(rows, Assert.Single(Auditor.Run((path, code)).Records.Uses, u => u.Table == "hives").Rows);
}
