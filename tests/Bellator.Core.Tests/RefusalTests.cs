using Bellator.Audit.Sql;

namespace Bellator.Core.Tests;

/// <summary>Refusals that do not stop, statements that only look as if they were guarded (CWE-698, CWE-483), and OR beside an ownership condition (CWE-783).</summary>
public sealed class RefusalTests
{
    [Theory]
    [InlineData("function need() { if (empty($_SESSION['member_id'])) { header('Location: ' . BASE . '/login.php'); } }", true)]
    [InlineData("function need() { if (($_SESSION['role'] ?? '') !== 'inspector') { header(\"Location: /\"); } }", true)]
    [InlineData("function need() { if (empty($_SESSION['member_id'])) { header('Location: ' . BASE . '/login.php'); exit; } }", false)]
    [InlineData("function need() { if (empty($_SESSION['member_id'])) { go('/login.php'); } } function go($to): never { header('Location: ' . $to); exit; }", false)]
    [InlineData("function need() { if (empty($_SESSION['member_id'])) { header('X-Seen: no'); } }", false)]
    public void A_redirect_is_only_a_header(string helper, bool isWeak) => Check("records/runs-on-after-refusal", isWeak, ("hives.php", "<?php\nsession_start();\n" + helper + "\nneed();\necho 'Hives';\n"));

    [Theory]
    [InlineData("const mine = (Model) => async (req, res, next) => { const found = await Model.findOne({ _id: req.params.id, keeper: req.user.id }); if (!found) { refuse(res, 404); } next(); };", true)]
    [InlineData("const mine = (Model) => async (req, res, next) => { const found = await Model.findOne({ _id: req.params.id, keeper: req.user.id }); if (!found) { return refuse(res, 404); } next(); };", false)]
    public void A_helper_that_refuses(string guard, bool isWeak) => Check("records/runs-on-after-refusal", isWeak, ("app.js", $$"""
        const express = require('express'); const mongoose = require('mongoose'); const passport = require('passport'); const app = express();
        const Hive = mongoose.model('Hive', new mongoose.Schema({ name: String, keeper: String }));
        const refuse = (res, status) => res.status(status).json({ error: 'No' });
        {{guard}}
        app.delete('/hives/:id', passport.authenticate('jwt'), mine(Hive), async (req, res) => { await Hive.deleteOne({ _id: req.params.id }); res.end(); });
        """));

    [Theory]
    [InlineData("redirect_to hives_path unless Current.membership.head?\n    hive.destroy!", true)]
    [InlineData("return redirect_to(hives_path) unless Current.membership.head?\n    hive.destroy!", false)]
    [InlineData("redirect_to hives_path and return unless Current.membership.head?\n    hive.destroy!", false)]
    [InlineData("hive.destroy!\n    redirect_to hives_path", false)]
    public void A_redirect_before_a_deletion(string body, bool isWeak) => Check("records/runs-on-after-refusal", isWeak,
        ("config/routes.rb", "Rails.application.routes.draw do\n  resources :hives\nend\n"),
        ("app/models/hive.rb", "class Hive < ApplicationRecord\nend\n"),
        ("app/controllers/hives_controller.rb", $"class HivesController < ApplicationController\n  def destroy\n    hive = Hive.find(params[:id])\n    {body}\n  end\nend\n"));

    [Theory]
    [InlineData("    if ($known && password_verify($_POST['password'], $known['hash']))\n        session_regenerate_id(true);\n        $_SESSION['id'] = $known['id'];\n", true)]
    [InlineData("    if (empty($_SESSION['id']))\n        return;\n    unlink('hive');\n", false)]
    [InlineData("    if (password_verify($_POST['password'], $known['hash'])) {\n        session_regenerate_id(true);\n        $_SESSION['id'] = $known['id'];\n    }\n", false)]
    [InlineData("    if (password_verify($_POST['password'], $known['hash'])) session_regenerate_id(true);\n    $_SESSION['id'] = $known['id'];\n", false)]
    [InlineData("    if ($count > 3)\n        $count = 3;\n        echo $count;\n", false)]
    public void A_line_that_only_looks_guarded(string body, bool isWeak) => Check("records/block-not-delimited", isWeak,
        ("login.php", "<?php\nsession_start();\nfunction enter($known, $count) {\n" + body + "}\nenter(['hash' => 'x', 'id' => 1], 2);\n"));

    private const string Schema = """
        CREATE TABLE members (id int PRIMARY KEY, password_hash text NOT NULL);
        CREATE TABLE hives (id int PRIMARY KEY, keeper_id int NOT NULL REFERENCES members, name text, urgent boolean, published boolean, place text);
        """;

    [Theory]
    [InlineData("keeper_id = $1 AND name <> '' OR urgent", true)]
    [InlineData("place = 'x' AND (keeper_id = $1 OR name LIKE '%a%')", true)]
    [InlineData("keeper_id = $1 AND (name = 'a' OR urgent)", false)]
    [InlineData("keeper_id = $1 AND name <> '' OR published", false)]
    [InlineData("keeper_id = $1", false)]
    public void An_or_beside_the_owner_in_SQL(string condition, bool isWeak) => Check("records/condition-widened", isWeak, ("schema.sql", Schema), ("app.js", $$"""
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
        app.get('/hives', async (req, res) => { if (!req.session.userId) { return res.sendStatus(401); } res.json((await pool.query("SELECT id, place FROM hives WHERE {{condition}}", [req.session.userId])).rows); });
        """));

    [Theory]
    [InlineData("{ OR: [{ keeperId: req.session.userId }, { name: { contains: req.query.q } }] }", true)]
    [InlineData("{ keeperId: req.session.userId, OR: [{ urgent: true }, { name: { contains: req.query.q } }] }", false)]
    [InlineData("{ OR: [{ keeperId: req.session.userId }, { published: true }] }", false)]
    [InlineData("{ published: true, OR: [{ keeperId: req.session.userId }, { name: { contains: req.query.q } }] }", false)]
    public void An_or_beside_the_owner_in_a_mapper(string where, bool isWeak) => Check("records/condition-widened", isWeak, ("app.js", $$"""
        const app = require('express')(); const { PrismaClient } = require('@prisma/client'); const prisma = new PrismaClient();
        app.get('/hives', async (req, res) => { if (!req.session.userId) { return res.sendStatus(401); } res.json(await prisma.hive.findMany({ where: {{where}} })); });
        """));

    [Theory]
    [InlineData("Hive::where('keeper_id', $request->user()->id)->where('name', 'a')->orWhereNotNull('queen')->get()", true)]
    [InlineData("Hive::where('keeper_id', $request->user()->id)->where(fn ($q) => $q->where('name', 'a')->orWhereNotNull('queen'))->get()", false)]
    [InlineData("Hive::where('keeper_id', $request->user()->id)->orWhere('published', true)->get()", false)]
    public void An_or_beside_the_owner_in_Eloquent(string query, bool isWeak) => Check("records/condition-widened", isWeak,
        ("routes/web.php", "<?php\nuse App\\Http\\Controllers\\HiveController;\nRoute::get('/hives', [HiveController::class, 'index'])->middleware('auth');\n"),
        ("app/Models/Hive.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model {}\n"),
        ("app/Http/Controllers/HiveController.php", "<?php\nnamespace App\\Http\\Controllers;\nuse App\\Models\\Hive;\nuse Illuminate\\Http\\Request;\nclass HiveController extends Controller {\n    public function index(Request $request) { return " + query + "; }\n}\n"));

    [Theory]
    [InlineData("SELECT 1 FROM t WHERE owner = ? OR a = 1", "a")]
    [InlineData("SELECT 1 FROM t WHERE b = 1 AND owner = ? OR a = 1 ORDER BY c", "a")]
    [InlineData("SELECT 1 FROM t WHERE (owner = ? OR a = 1) AND owner = ?", "")]
    [InlineData("SELECT 1 FROM t WHERE (a = 1 OR b = 2) AND t.owner = ?", "")]
    [InlineData("SELECT 1 FROM t WHERE owner = ? OR reader = ?", "")]
    [InlineData("SELECT 1 FROM t WHERE owner = ? OR EXISTS (SELECT 1 FROM m WHERE m.reader = ?)", "")]
    [InlineData("SELECT 1 FROM t WHERE day BETWEEN 1 AND 2 AND owner = ? OR lower(t.a) = 'x'", "a")]
    [InlineData("SELECT 1 FROM t WHERE a = 1 OR b = 2", "")]
    public void Alternatives_without_the_owner(string statement, string widening) => Assert.Equal(widening, string.Join(" ", SqlCondition.Widening(statement, ["owner", "reader"])));

    private const string Guarded = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const log = require('pino')();
        async function mustKeep(userId, hiveId) { const { rows } = await pool.query('SELECT 1 FROM hives WHERE id = $1 AND keeper_id = $2', [hiveId, userId]); if (!rows[0]) { throw new Error('no'); } }

        """;

    [Theory]
    [InlineData("try { await mustKeep(req.session.userId, req.params.id); } catch (error) { log.warn(error); } res.json((await pool.query('SELECT place FROM hives WHERE id = $1', [req.params.id])).rows);", true)]
    [InlineData("try { await mustKeep(req.session.userId, req.params.id); } catch (error) { return res.sendStatus(404); } res.json((await pool.query('SELECT place FROM hives WHERE id = $1', [req.params.id])).rows);", false)]
    [InlineData("let kept = true; try { await mustKeep(req.session.userId, req.params.id); } catch (error) { kept = false; } res.json(kept ? (await pool.query('SELECT place FROM hives WHERE id = $1', [req.params.id])).rows : []);", false)]
    [InlineData("try { await mustKeep(req.session.userId, req.params.id); res.json((await pool.query('SELECT place FROM hives WHERE id = $1', [req.params.id])).rows); } catch (error) { log.warn(error); } res.end();", false)]
    public void A_refusal_that_is_caught(string body, bool isWeak) => Check("records/refusal-swallowed", isWeak, ("schema.sql", Schema), ("app.js", Guarded + "app.get('/hives/:id', async (req, res) => { if (!req.session.userId) { return res.sendStatus(401); } " + body + " });"));

    [Theory]
    [InlineData("    with suppress(Forbidden):\n        must_keep(number)\n", true)]
    [InlineData("    must_keep(number)\n", false)]
    public void A_refusal_that_is_suppressed(string check, bool isWeak) => Check("records/refusal-swallowed", isWeak, ("schema.sql", Schema), ("app.py", """
        import sqlite3
        from contextlib import suppress
        from flask import Flask, jsonify, session
        from werkzeug.exceptions import Forbidden
        app = Flask(__name__)
        def must_keep(number):
            if sqlite3.connect("x.db").execute("SELECT 1 FROM hives WHERE id = ? AND keeper_id = ?", (number, session["user_id"])).fetchone() is None:
                raise Forbidden()
        @app.get("/hives/<int:number>")
        def one(number):

        """ + check + "    return jsonify(sqlite3.connect(\"x.db\").execute(\"SELECT place FROM hives WHERE id = ?\", (number,)).fetchone())\n"));

    [Theory]
    [InlineData("if ($email !== 'orla.fenwick@fernhollow.example') { exit; }", true)]
    [InlineData("if (!in_array($_SESSION['email'], ['orla.fenwick@fernhollow.example'], true)) { exit; }", true)]
    [InlineData("if ($email === 'someone@example.com') { exit; }", false)]
    [InlineData("if ($email === 'fail@hives.test') { exit; }", false)]
    [InlineData("if ($from === 'desk@fernhollow.example') { exit; }", false)]
    [InlineData("mail('orla.fenwick@fernhollow.example', 'Hives', $email);", false)]
    public void An_address_in_the_code(string body, bool isWeak) => Check("records/fixed-identity", isWeak, ("page.php", "<?php\nsession_start();\n$email = $_SESSION['email'];\n$from = $_POST['from'];\n" + body + "\n"));

    [Theory]
    [InlineData("$hives = Hive::query(); if ($request->query('mine')) { $hives = $hives->where('keeper_id', $request->user()->id); } return $hives->get();", true)]
    [InlineData("$hives = Hive::where('keeper_id', $request->user()->id); if ($request->query('name')) { $hives = $hives->where('name', $request->query('name')); } return $hives->get();", false)]
    [InlineData("$hives = Hive::query(); if (!$request->user()->is_admin) { $hives = $hives->where('keeper_id', $request->user()->id); } return $hives->get();", false)]
    public void A_condition_that_the_request_asks_for(string body, bool isWeak) => Check("records/limited-only-if-asked", isWeak,
        ("routes/web.php", "<?php\nuse App\\Http\\Controllers\\HiveController;\nRoute::get('/hives', [HiveController::class, 'index'])->middleware('auth');\nRoute::get('/mine', [HiveController::class, 'mine'])->middleware('auth');\n"),
        ("app/Models/Hive.php", "<?php\nnamespace App\\Models;\nuse Illuminate\\Database\\Eloquent\\Model;\nclass Hive extends Model {}\n"),
        ("app/Http/Controllers/HiveController.php", "<?php\nnamespace App\\Http\\Controllers;\nuse App\\Models\\Hive;\nuse Illuminate\\Http\\Request;\nclass HiveController extends Controller {\n    public function index(Request $request) { " + body + " }\n    public function mine(Request $request) { return Hive::where('keeper_id', $request->user()->id)->get(); }\n}\n"));

    private static void Check(string check, bool isWeak, params (string Path, string Text)[] files) => Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == check));
}
