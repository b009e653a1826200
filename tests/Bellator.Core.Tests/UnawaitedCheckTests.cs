namespace Bellator.Core.Tests;

/// <summary>Checks whose answer comes later and that nobody waits for, beside the same code that waits (CWE-252, CWE-754).</summary>
public sealed class UnawaitedCheckTests
{
    private const string Express = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
        const keeps = async (who, id) => (await pool.query('SELECT 1 FROM hives WHERE keeper_id = $1 AND id = $2', [who, id])).rows.length > 0;
        const mustKeep = async (who, id) => { if (!(await keeps(who, id))) { throw new Error('not yours'); } };
        const log = async text => { await pool.query('INSERT INTO notes (text) VALUES ($1)', [text]); };

        """;

    [Theory]
    [InlineData("if (!keeps(req.session.userId, req.params.id)) { return res.sendStatus(404); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", true)]
    [InlineData("const mine = keeps(req.session.userId, req.params.id); if (!mine) { return res.sendStatus(404); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", true)]
    [InlineData("mustKeep(req.session.userId, req.params.id); await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", true)]
    [InlineData("let refused = false; req.body.ids.forEach(async id => { const { rows } = await pool.query('SELECT keeper_id FROM hives WHERE id = $1', [id]); if (rows[0].keeper_id !== req.session.userId) { refused = true; } }); if (refused) { return res.sendStatus(404); } res.end();", true)]
    [InlineData("if (!(await keeps(req.session.userId, req.params.id))) { return res.sendStatus(404); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", false)]
    [InlineData("const mine = await keeps(req.session.userId, req.params.id); if (!mine) { return res.sendStatus(404); } await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", false)]
    [InlineData("await mustKeep(req.session.userId, req.params.id); await pool.query('DELETE FROM hives WHERE id = $1', [req.params.id]); res.end();", false)]
    [InlineData("return mustKeep(req.session.userId, req.params.id).then(() => res.end());", false)]
    [InlineData("log('a visit'); res.end();", false)]
    [InlineData("await Promise.all(req.body.ids.map(async id => { await mustKeep(req.session.userId, id); })); res.end();", false)]
    [InlineData("for (const id of req.body.ids) { await mustKeep(req.session.userId, id); } res.end();", false)]
    public void Promises(string body, bool isWeak) =>
        Check("app.js", Express + "app.delete('/hives/:id', async (req, res) => { " + body + " });\n", isWeak);

    private const string Desk = """
        using System.Security.Claims; using Microsoft.AspNetCore.Authorization; using Microsoft.AspNetCore.Mvc; using Microsoft.EntityFrameworkCore;
        public class Hive { public int Id { get; set; } public string KeeperId { get; set; } = ""; }
        public class RegisterDb : DbContext { public DbSet<Hive> Hives => Set<Hive>(); }
        public class HiveGuard(RegisterDb db)
        {
            public async Task EnsureOwnAsync(int id, string who) { if (!await db.Hives.AnyAsync(h => h.Id == id && h.KeeperId == who)) throw new InvalidOperationException("not yours"); }
            public async Task<bool> OwnsAsync(int id, string who) => await db.Hives.AnyAsync(h => h.Id == id && h.KeeperId == who);
        }
        [ApiController] [Authorize] [Route("hives")]
        public class HivesController(RegisterDb db, HiveGuard guard) : ControllerBase
        {
            private string Who => User.FindFirstValue("sub")!;
            [HttpDelete("{id:int}")] public async Task<IActionResult> Remove(int id) {
        """;

    [Theory]
    [InlineData("_ = guard.EnsureOwnAsync(id, Who);", true)]
    [InlineData("guard.EnsureOwnAsync(id, Who);", true)]
    [InlineData("await guard.OwnsAsync(id, Who);", true)]
    [InlineData("await guard.EnsureOwnAsync(id, Who);", false)]
    [InlineData("if (!await guard.OwnsAsync(id, Who)) return NotFound();", false)]
    public void Tasks(string check, bool isWeak) =>
        Check("Desk.cs", Desk + check + " await db.Hives.Where(h => h.Id == id).ExecuteDeleteAsync(); return NoContent(); }\n}\n", isWeak);

    /// <summary>A helper that makes a refusal and gives it back leaves it to its caller to raise or to answer it.</summary>
    [Theory]
    [InlineData("return Forbidden()", "refuse_others(hive_id)", true)]
    [InlineData("return abort_answer() if False else Forbidden()", "refuse_others(hive_id)", false)]
    [InlineData("raise Forbidden()", "refuse_others(hive_id)", false)]
    [InlineData("return Forbidden()", "problem = refuse_others(hive_id)\n    if problem:\n        raise problem", false)]
    [InlineData("return redirect('/sign-in')", "refuse_others(hive_id)", true)]
    [InlineData("return redirect('/sign-in')", "answer = refuse_others(hive_id)\n    if answer:\n        return answer", false)]
    public void A_refusal_that_is_given_back_is_used(string refusal, string call, bool isWeak) =>
        Check("app.py", "from flask import Flask, session, redirect\nfrom werkzeug.exceptions import Forbidden\napp = Flask(__name__)\ndef refuse_others(hive_id):\n    row = db.execute('SELECT keeper_id FROM hives WHERE id = ?', (hive_id,)).fetchone()\n    if row['keeper_id'] != session['keeper']:\n        "
            + refusal + "\n@app.post('/hives/<int:hive_id>/remove')\ndef remove(hive_id):\n    " + call + "\n    db.execute('DELETE FROM hives WHERE id = ?', (hive_id,))\n    return '', 204\n", isWeak);

    [Theory]
    [InlineData("policy(@hive).update?", true)]
    [InlineData("HivePolicy.new(current_user, @hive).update?", true)]
    [InlineData("return head(:forbidden) unless policy(@hive).update?", false)]
    [InlineData("authorize @hive, :update?", false)]
    [InlineData("@hive.reload.changed?", false)]
    public void A_policy_is_asked_for_its_answer(string check, bool isWeak) =>
        Check("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  before_action :authenticate_user!\n  def update\n    @hive = Hive.find(params[:id])\n    " + check + "\n    @hive.update!(params.require(:hive).permit(:name))\n    head :no_content\n  end\nend\nclass HivePolicy\n  def initialize(user, hive)\n    @user = user\n    @hive = hive\n  end\n  def update?\n    @hive.keeper_id == @user.id\n  end\nend\n", isWeak);

    private static void Check(string path, string code, bool isWeak) =>
        Assert.Equal(isWeak, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "records/check-ignored"));
}
