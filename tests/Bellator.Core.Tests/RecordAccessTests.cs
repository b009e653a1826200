using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// Who reaches whose records, read from the code: each weakness beside the ways in which people write the same correctly. That an object
/// found by a number from the request must be held against the person is CWE-639 and OWASP ASVS 5.0, V8.2.2; the ways of doing it are
/// common practice, no published list. What the frameworks' calls mean comes from memory of their documentation.
/// </summary>
public sealed class RecordAccessTests
{
    private const string Express = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const session = require('express-session');
        const signedIn = (req, res, next) => { if (!req.session.memberId) { return res.sendStatus(401); } next(); };
        app.use(signedIn);
        app.get('/hives', async (req, res) => { res.json((await pool.query('SELECT id, name FROM hives WHERE keeper_id = $1', [req.session.memberId])).rows); });
        app.get('/districts/:id/apiaries', async (req, res) => {
          const { rows } = await pool.query('SELECT 1 FROM duties WHERE member_id = $1 AND district_id = $2', [req.session.memberId, req.params.id]);
          if (rows.length === 0) { return res.sendStatus(403); }
          res.json((await pool.query('SELECT id FROM apiaries WHERE district_id = $1', [req.params.id])).rows);
        });

        """;

    [Theory]
    [InlineData("app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE id = $1', [req.params.id])).rows[0]); });", "records/no-owner-condition")]
    [InlineData("app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE id = $1', [Number(req.params.id)])).rows[0]); });", "records/no-owner-condition")]
    [InlineData("const find = id => pool.query('SELECT * FROM hives WHERE id = $1', [id]); app.get('/hives/:id', async (req, res) => { res.json((await find(req.params.id)).rows[0]); });", "records/no-owner-condition")]
    [InlineData("app.delete('/hives/:id', async (req, res) => { await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.sendStatus(204); });", "records/no-owner-condition")]
    [InlineData("app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.memberId])).rows[0]); });", null)]
    [InlineData("const find = (id, who) => pool.query('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', [id, who]); app.get('/hives/:id', async (req, res) => { res.json((await find(req.params.id, req.session.memberId)).rows[0]); });", null)]
    [InlineData("app.get('/hives/:id', async (req, res) => { const { rows } = await pool.query('SELECT * FROM hives WHERE id = $1', [req.params.id]); if (rows[0].keeper_id !== req.session.memberId) { return res.sendStatus(404); } res.json(rows[0]); });", null)]
    [InlineData("const owns = (who, hive) => hive.keeper_id === who; app.get('/hives/:id', async (req, res) => { const { rows } = await pool.query('SELECT * FROM hives WHERE id = $1', [req.params.id]); if (!owns(req.session.memberId, rows[0])) { return res.sendStatus(404); } res.json(rows[0]); });", null)]
    [InlineData("const mine = async (req, res, next) => { const { rows } = await pool.query('SELECT id FROM hives WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.memberId]); if (rows.length === 0) { return res.sendStatus(404); } next(); }; app.delete('/hives/:id', mine, async (req, res) => { await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.sendStatus(204); });", null)]
    [InlineData("const can = table => async (req, res, next) => { const { rows } = await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [req.params.id]); if (String(rows[0].keeper_id) !== String(req.session.memberId)) { return res.sendStatus(403); } next(); }; app.delete('/hives/:id', can('hives'), async (req, res) => { await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.sendStatus(204); });", null)]
    [InlineData("app.get('/hives/:id', async (req, res) => { if (!(await permits(req.session.memberId, 'hive', req.params.id))) { return res.sendStatus(403); } res.json((await pool.query('SELECT * FROM hives WHERE id = $1', [req.params.id])).rows[0]); });", null)]
    [InlineData("app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', [req.params.id, await whoIsThere(req)])).rows[0]); });", null)]
    [InlineData("app.get('/hives-of', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [req.query.keeper])).rows); });", "records/owner-from-request")]
    [InlineData("app.get('/apiaries', async (req, res) => { res.json((await pool.query('SELECT * FROM apiaries WHERE district_id = $1', [req.query.district])).rows); });", "records/tenant-not-checked")]
    [InlineData("app.post('/apiaries', async (req, res) => { await pool.query('INSERT INTO apiaries (name, district_id) VALUES ($1, $2)', [req.body.name, req.body.district]); res.sendStatus(201); });", "records/tenant-not-checked")]
    [InlineData("const isKeeper = async (who, id) => (await pool.query('SELECT 1 FROM hives WHERE keeper_id = $1 AND id = $2', [who, id])).rows.length > 0; app.get('/notes/:id', async (req, res) => { await isKeeper(req.session.memberId, req.params.id); res.json((await pool.query('SELECT * FROM notes WHERE hive_id = $1', [req.params.id])).rows); });", "records/check-ignored")]
    [InlineData("app.post('/hives', async (req, res) => { await pool.query('INSERT INTO hives (name, keeper_id) VALUES ($1, $2)', [req.body.name, req.session.memberId]); res.sendStatus(201); });", null)]
    [InlineData("app.delete('/hives/:id', async (req, res) => { const { rows } = await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [req.params.id]); if (rows[0].keeper_id !== req.session.memberId) { res.sendStatus(403); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); });", "records/runs-on-after-refusal")]
    [InlineData("app.delete('/hives/:id', async (req, res) => { const { rows } = await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [req.params.id]); if (rows[0].keeper_id !== req.session.memberId) { res.sendStatus(403); return; } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); });", null)]
    [InlineData("app.delete('/hives/:id', async (req, res) => { const { rows } = await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [req.params.id]); if (rows[0].keeper_id !== req.session.memberId) { res.sendStatus(403); } else { await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); } });", null)]
    [InlineData("const staff = (req, res, next) => { if (req.session.role !== 'staff') { res.sendStatus(403); } next(); }; app.get('/all', staff, async (req, res) => { res.json((await pool.query('SELECT name FROM hives')).rows); });", "records/runs-on-after-refusal")]
    [InlineData("app.get('/swarms/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM swarms WHERE id = $1', [req.params.id])).rows[0]); });", null)]
    [InlineData("app.get('/my-hives', async (req, res) => { const who = req.get('x-keeper') ?? req.session.memberId; res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", "records/identity-from-client")]
    [InlineData("app.get('/my-hives', async (req, res) => { const who = req.cookies.keeper || req.session.memberId; res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", "records/identity-from-client")]
    [InlineData("app.get('/my-hives', async (req, res) => { let who = req.session.memberId; if (req.query.keeper) { who = Number(req.query.keeper); } res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", "records/identity-from-client")]
    [InlineData("const whose = req => req.query.keeper !== undefined ? req.query.keeper : req.session.memberId; app.get('/my-hives', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [whose(req)])).rows); });", "records/identity-from-client")]
    [InlineData("app.get('/my-hives', async (req, res) => { const who = req.session.role === 'inspector' ? req.query.keeper ?? req.session.memberId : req.session.memberId; res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", null)]
    [InlineData("app.get('/my-hives', async (req, res) => { let who = req.session.memberId; if (req.query.keeper && req.session.isAdmin) { who = req.query.keeper; } res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", null)]
    [InlineData("app.get('/my-hives', async (req, res) => { const who = req.query.keeper ?? req.session.memberId; if (who !== req.session.memberId && !(await pool.query('SELECT 1 FROM deputies WHERE deputy_id = $1 AND keeper_id = $2', [req.session.memberId, who])).rows.length) { return res.sendStatus(403); } res.json((await pool.query('SELECT * FROM hives WHERE keeper_id = $1', [who])).rows); });", null)]
    [InlineData("app.get('/my-hives', async (req, res) => { const order = req.query.lang ?? req.session.lang; res.json((await pool.query('SELECT * FROM texts WHERE language = $1', [order])).rows); });", null)]
    [InlineData("app.get('/lab', (req, res) => { if (req.get('x-role') !== 'inspector') { return res.sendStatus(403); } res.json([]); });", "records/role-from-client")]
    [InlineData("const roles = ['inspector', 'admin']; const staff = (req, res, next) => { if (!roles.includes(req.cookies.role)) { return res.sendStatus(403); } next(); }; app.get('/lab', staff, (req, res) => { res.json([]); });", "records/role-from-client")]
    [InlineData("app.get('/lab', (req, res) => { if (req.session.role !== 'inspector') { return res.sendStatus(403); } res.json([]); });", null)]
    [InlineData("app.get('/lab', (req, res) => { if (req.signedCookies.role !== 'inspector') { return res.sendStatus(403); } res.json([]); });", null)]
    [InlineData("app.get('/lab', (req, res) => { if (req.get('x-requested-with') !== 'XMLHttpRequest') { return res.sendStatus(403); } res.json([]); });", null)]
    [InlineData("app.post('/posts', (req, res) => { if (!['helper', 'keeper'].includes(req.body.role)) { return res.status(400).end(); } res.sendStatus(201); });", null)]
    public void Express_and_statements(string code, string? expected) => Check("app.js", Express + code, expected);

    private const string Flask = """
        import sqlite3
        from functools import wraps
        from flask import Flask, g, session, request, abort, redirect
        app = Flask(__name__)
        db = sqlite3.connect('register.db')

        def signed_in(view):
            @wraps(view)
            def inner(*args, **kwargs):
                if 'member_id' not in session:
                    abort(401)
                return view(*args, **kwargs)
            return inner

        @app.get('/hives')
        @signed_in
        def mine():
            return db.execute('SELECT id, name FROM hives WHERE keeper_id = ?', (session['member_id'],)).fetchall()


        """;

    [Theory]
    [InlineData("@app.get('/hives/<int:hive_id>')\n@signed_in\ndef show(hive_id):\n    return db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()", "records/no-owner-condition")]
    [InlineData("@app.get('/hives/<int:hive_id>')\n@signed_in\ndef show(hive_id):\n    return db.execute('SELECT * FROM hives WHERE id = ? AND keeper_id = ?', (hive_id, session['member_id'])).fetchone()", null)]
    [InlineData("@app.get('/hives/<int:hive_id>')\n@signed_in\ndef show(hive_id):\n    hive = db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()\n    if hive['keeper_id'] != session['member_id']:\n        abort(404)\n    return hive", null)]
    [InlineData("def must_own(view):\n    @wraps(view)\n    def inner(hive_id):\n        hive = db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()\n        if hive['keeper_id'] != session.get('member_id'):\n            abort(404)\n        return view(hive_id)\n    return inner\n\n@app.get('/hives/<int:hive_id>')\n@signed_in\n@must_own\ndef show(hive_id):\n    return db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()", null)]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()", "records/no-sign-in")]
    [InlineData("@app.post('/hives/<int:hive_id>/drop')\n@signed_in\ndef drop(hive_id):\n    hive = db.execute('SELECT * FROM hives WHERE id = ?', (hive_id,)).fetchone()\n    if hive['keeper_id'] != session['member_id']:\n        redirect('/hives')\n    db.execute('DELETE FROM hives WHERE id = ?', (hive_id,))\n    return '', 204", "records/check-ignored")]
    [InlineData("@app.get('/my-hives')\n@signed_in\ndef my_hives():\n    who = request.args.get('keeper', session['member_id'])\n    return db.execute('SELECT * FROM hives WHERE keeper_id = ?', (who,)).fetchall()", "records/identity-from-client")]
    [InlineData("@app.get('/my-hives')\n@signed_in\ndef my_hives():\n    who = request.cookies.get('keeper') or session['member_id']\n    return db.execute('SELECT * FROM hives WHERE keeper_id = ?', (who,)).fetchall()", "records/identity-from-client")]
    [InlineData("@app.get('/my-hives')\n@signed_in\ndef my_hives():\n    who = request.args.get('keeper') if session.get('role') == 'inspector' else session['member_id']\n    return db.execute('SELECT * FROM hives WHERE keeper_id = ?', (who,)).fetchall()", null)]
    [InlineData("@app.get('/lab')\n@signed_in\ndef lab():\n    if request.headers.get('X-Role') not in ('inspector', 'admin'):\n        abort(403)\n    return ''", "records/role-from-client")]
    [InlineData("@app.get('/lab')\n@signed_in\ndef lab():\n    if session.get('role') not in ('inspector', 'admin'):\n        abort(403)\n    return ''", null)]
    public void Flask_and_statements(string code, string? expected) => Check("app.py", Flask + code, expected);

    private const string SqlAlchemy = """
        from flask import Flask, session, request, abort, jsonify
        from flask_sqlalchemy import SQLAlchemy
        from sqlalchemy import select
        app = Flask(__name__)
        db = SQLAlchemy(app)
        class Hive(db.Model):
            id = db.Column(db.Integer, primary_key=True)
            keeper_id = db.Column(db.Integer)
            name = db.Column(db.String(80))
        @app.before_request
        def signed_in():
            if 'member_id' not in session:
                abort(401)
        @app.get('/hives')
        def mine():
            return jsonify([h.name for h in Hive.query.filter_by(keeper_id=session['member_id']).all()])


        """;

    /// <summary>A query is built over several calls, and run in another one.</summary>
    [Theory]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(Hive.query.filter_by(id=hive_id).first().name)", "records/no-owner-condition")]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(Hive.query.filter(Hive.id == hive_id).first().name)", "records/no-owner-condition")]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(db.session.scalar(select(Hive).where(Hive.id == hive_id)).name)", "records/no-owner-condition")]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    query = select(Hive).where(Hive.id == hive_id)\n    return jsonify(db.session.scalar(query).name)", "records/no-owner-condition")]
    [InlineData("@app.get('/hives-of')\ndef of():\n    return jsonify([h.name for h in Hive.query.filter_by(keeper_id=request.args.get('keeper')).all()])", "records/owner-from-request")]
    [InlineData("@app.get('/hives-of')\ndef of():\n    who = request.args.get('keeper') or session['member_id']\n    return jsonify([h.name for h in Hive.query.filter(Hive.keeper_id == who).all()])", "records/identity-from-client")]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(Hive.query.filter_by(id=hive_id, keeper_id=session['member_id']).first().name)", null)]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(Hive.query.filter(Hive.id == hive_id, Hive.keeper_id == session['member_id']).first().name)", null)]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(db.session.scalar(select(Hive).where(Hive.id == hive_id).where(Hive.keeper_id == session['member_id'])).name)", null)]
    [InlineData("@app.get('/hives/<int:hive_id>')\ndef show(hive_id):\n    return jsonify(Hive.query.filter(Hive.id == hive_id, may_see(Hive)).first().name)", null)]
    [InlineData("@app.delete('/hives/<int:hive_id>')\ndef drop(hive_id):\n    hive = Hive.query.filter(Hive.id == hive_id, may_see(Hive)).first()\n    db.session.delete(hive)\n    return '', 204", null)]
    public void Flask_and_sqlalchemy(string code, string? expected) => Check("app.py", SqlAlchemy + code, expected);

    private const string Rails = """
        class ApplicationController < ActionController::Base
          before_action :require_member
          private
          def current_member
            @current_member ||= Member.find_by(id: session[:member_id])
          end
          def require_member
            redirect_to '/sign-in' unless current_member
          end
        end
        class Member < ApplicationRecord
          has_many :hives
        end
        class Hive < ApplicationRecord
          belongs_to :member
        end
        class HivesController < ApplicationController
          def index
            render json: current_member.hives
          end

        """;

    private const string Routes = "Rails.application.routes.draw do\n  resources :hives\nend\n";

    [Theory]
    [InlineData("  def show\n    render json: Hive.find(params[:id])\n  end", "records/no-owner-condition")]
    [InlineData("  def show\n    render json: current_member.hives.find(params[:id])\n  end", null)]
    [InlineData("  def show\n    hive = Hive.find(params[:id])\n    return head(:not_found) unless hive.member_id == current_member.id\n    render json: hive\n  end", null)]
    [InlineData("  def destroy\n    Hive.find(params[:id]).destroy!\n    head :no_content\n  end", "records/no-owner-condition")]
    [InlineData("  def destroy\n    hive = Hive.find(params[:id])\n    authorize hive\n    hive.destroy!\n    head :no_content\n  end", null)]
    [InlineData("  def destroy\n    hive = Hive.find_by!(id: params[:id], member_id: current_member.id)\n    hive.destroy!\n    head :no_content\n  end", null)]
    [InlineData("  def update\n    hive = Hive.find(params[:id])\n    theirs?(hive)\n    hive.update!(params.require(:hive).permit(:name))\n    head :ok\n  end\n  private\n  def theirs?(hive)\n    hive.member_id == current_member.id\n  end", "records/check-ignored")]
    [InlineData("  def show\n    render json: Hive.where(member_id: params[:member] || current_member.id)\n  end", "records/identity-from-client")]
    [InlineData("  def show\n    return head(:forbidden) unless cookies[:role] == 'inspector'\n    head :ok\n  end", "records/role-from-client")]
    [InlineData("  def show\n    return head(:forbidden) unless cookies.signed[:role] == 'inspector'\n    head :ok\n  end", null)]
    public void Rails_and_relations(string code, string? expected)
    {
        var result = Auditor.Run(("app/controllers/all.rb", Rails + code + "\nend\n"), ("config/routes.rb", Routes));
        Check(result, expected);
    }

    private const string Php = """
        <?php
        session_start();
        $db = new PDO('sqlite:register.db');
        if (!isset($_SESSION['member_id'])) { header('Location: /sign-in.php'); exit; }

        """;

    private const string PhpList = Php + "$q = $db->prepare('SELECT id, name FROM hives WHERE keeper_id = ?'); $q->execute([$_SESSION['member_id']]); echo json_encode($q->fetchAll());";

    [Theory]
    [InlineData("$q = $db->prepare('SELECT * FROM hives WHERE id = ?'); $q->execute([(int) $_GET['id']]); echo json_encode($q->fetch());", "records/no-owner-condition")]
    [InlineData("$q = $db->prepare('SELECT * FROM hives WHERE id = :id AND keeper_id = :me'); $q->execute(['id' => $_GET['id'], 'me' => $_SESSION['member_id']]); echo json_encode($q->fetch());", null)]
    [InlineData("$q = $db->prepare('SELECT * FROM hives WHERE id = ?'); $q->execute([$_GET['id']]); $hive = $q->fetch(); if ($hive['keeper_id'] !== $_SESSION['member_id']) { http_response_code(404); exit; } echo json_encode($hive);", null)]
    [InlineData("function own(PDO $db, int $id, int $who): bool { $q = $db->prepare('SELECT 1 FROM hives WHERE id = ? AND keeper_id = ?'); $q->execute([$id, $who]); return (bool) $q->fetchColumn(); } if (!own($db, (int) $_GET['id'], $_SESSION['member_id'])) { http_response_code(404); exit; } $q = $db->prepare('SELECT * FROM hives WHERE id = ?'); $q->execute([$_GET['id']]); echo json_encode($q->fetch());", null)]
    [InlineData("$db->exec('DELETE FROM hives WHERE id = ' . (int) $_POST['id']);", "records/no-owner-condition")]
    [InlineData("$who = $_GET['keeper'] ?? $_SESSION['member_id']; $s = $db->prepare('SELECT * FROM hives WHERE keeper_id = ?'); $s->execute([$who]); echo json_encode($s->fetchAll());", "records/identity-from-client")]
    [InlineData("$who = isset($_COOKIE['keeper']) ? (int) $_COOKIE['keeper'] : $_SESSION['member_id']; $s = $db->prepare('SELECT * FROM hives WHERE keeper_id = ?'); $s->execute([$who]); echo json_encode($s->fetchAll());", "records/identity-from-client")]
    [InlineData("if (($_COOKIE['role'] ?? '') !== 'inspector') { http_response_code(403); exit; } echo 'lab';", "records/role-from-client")]
    [InlineData("if (!in_array($_COOKIE['role'] ?? '', ['inspector', 'admin'], true)) { http_response_code(403); exit; } echo 'lab';", "records/role-from-client")]
    [InlineData("if (($_SESSION['role'] ?? '') !== 'inspector') { http_response_code(403); exit; } echo 'lab';", null)]
    public void Pages_and_prepared_statements(string code, string? expected) => Check(Auditor.Run(("hive.php", Php + code), ("hives.php", PhpList)), expected);

    [Theory]
    [InlineData("function need() { if (!isset($_SESSION['member_id'])) { header('Location: /sign-in.php'); } } need(); echo json_encode($db->query('SELECT name FROM hives')->fetchAll());", "records/runs-on-after-refusal")]
    [InlineData("function need() { if (!isset($_SESSION['member_id'])) { header('Location: /sign-in.php'); exit; } } need(); echo json_encode($db->query('SELECT name FROM hives')->fetchAll());", null)]
    [InlineData("if ($_SESSION['level'] < 3) { http_response_code(403); } $db->exec('DELETE FROM hives');", "records/runs-on-after-refusal")]
    [InlineData("if ($_SESSION['level'] < 3) { http_response_code(403); exit; } $db->exec('DELETE FROM hives');", null)]
    [InlineData("if (isset($_POST['name'])) { $db->exec('DELETE FROM notes'); header('Location: /notes.php'); } echo json_encode($db->query('SELECT text FROM notes')->fetchAll());", null)]
    public void Refusals_that_do_not_stop(string code, string? expected) => Check("page.php", "<?php\nsession_start();\n$db = new PDO('sqlite:register.db');\n" + code, expected);

    private const string Shop = """
        using Microsoft.AspNetCore.Authorization;
        using Microsoft.AspNetCore.Mvc;
        using Microsoft.EntityFrameworkCore;
        public class Hive { public int Id { get; set; } public string OwnerId { get; set; } = ""; public string Name { get; set; } = ""; }
        public class Register : DbContext { public DbSet<Hive> Hives { get; set; } = null!; }
        [Authorize]
        [Route("hives")]
        public class HiveController(Register db) : Controller
        {
            private string Me => User.FindFirstValue("sub")!;
            [HttpGet] public async Task<IActionResult> All() => Json(await db.Hives.Where(h => h.OwnerId == Me).ToListAsync());

        """;

    [Theory]
    [InlineData("[HttpGet(\"{id}\")] public async Task<IActionResult> One(int id) => Json(await db.Hives.FindAsync(id));", "records/no-owner-condition")]
    [InlineData("[HttpGet(\"{id}\")] public async Task<IActionResult> One(int id) => Json(await db.Hives.FirstOrDefaultAsync(h => h.Id == id && h.OwnerId == Me));", null)]
    [InlineData("[HttpGet(\"{id}\")] public async Task<IActionResult> One(int id) { var hive = await db.Hives.FindAsync(id); if (hive is null || hive.OwnerId != Me) { return NotFound(); } return Json(hive); }", null)]
    [InlineData("[HttpGet(\"{id}\")] public async Task<IActionResult> One(int id, [FromServices] IAuthorizationService rights) { var hive = await db.Hives.FindAsync(id); await rights.AuthorizeAsync(User, hive, \"Own\"); return Json(hive); }", "records/check-ignored")]
    [InlineData("[HttpGet(\"{id}\")] public async Task<IActionResult> One(int id, [FromServices] IAuthorizationService rights) { var hive = await db.Hives.FindAsync(id); if (!(await rights.AuthorizeAsync(User, hive, \"Own\")).Succeeded) { return Forbid(); } return Json(hive); }", null)]
    [InlineData("    [HttpGet(\"mine\")] public IActionResult Mine() { var who = int.TryParse(Request.Headers[\"X-Keeper\"], out var asked) ? asked.ToString() : Me; return Json(db.Hives.Where(h => h.OwnerId == who).ToList()); }", "records/identity-from-client")]
    [InlineData("    [HttpGet(\"lab\")] public IActionResult Lab() { if (Request.Cookies[\"role\"] != \"inspector\") { return Forbid(); } return Ok(); }", "records/role-from-client")]
    [InlineData("    [HttpGet(\"lab\")] public IActionResult Lab() { if (User.FindFirstValue(\"role\") != \"inspector\") { return Forbid(); } return Ok(); }", null)]
    public void Controllers_and_mappers(string code, string? expected) => Check("Hives.cs", Shop + code + "\n}\n", expected);

    [Fact]
    public void What_was_not_understood_is_a_named_unknown()
    {
        var result = Auditor.Run(("app.js", Express + "app.get('/hives/:id', async (req, res) => { res.json((await pool.query('SELECT * FROM hives WHERE id = $1 AND keeper_id = $2', [req.params.id, await whoIsThere(req)])).rows[0]); });"));
        var use = Assert.Single(result.Records.Uses, u => u.Path == "/hives/{id}");
        Assert.Equal("unclear", use.Rows);
        Assert.Contains("record.id = request.id", use.Condition, StringComparison.Ordinal);
        Assert.Contains("unknown \"", use.Condition, StringComparison.Ordinal);
    }

    [Fact]
    public void The_demo_shows_what_is_not_alike()
    {
        var grid = new RecordGrid(Auditor.Demo.Records);
        Assert.Equal("own", grid.Reach("yields", "signedIn", "list"));
        Assert.Equal("all", grid.Reach("apiaries", "signedIn", "edit"));
        Assert.Equal("none", grid.Reach("yields", "nobody", "list"));
        Assert.Contains(grid.Unlike("apiaries"), u => u.Method == "PATCH");
        Assert.Contains(Auditor.Demo.Records.Owned, o => o.Table == "hives" && o.Columns.Contains("keeper_id"));
    }

    private static void Check(string path, string code, string? expected) => Check(Auditor.Run((path, code)), expected);

    private static void Check(AuditResult result, string? expected)
    {
        var found = result.Findings.Where(f => f.CheckId.StartsWith("records/", StringComparison.Ordinal)).Select(f => f.CheckId).Distinct().Order(StringComparer.Ordinal).ToList();
        Assert.True(expected is null ? found.Count == 0 : found.Contains(expected), $"wanted {expected ?? "nothing"}, got {string.Join(", ", found)}");
    }
}
