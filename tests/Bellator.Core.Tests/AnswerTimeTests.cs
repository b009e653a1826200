namespace Bellator.Core.Tests;

/// <summary>
/// Sign-in that computes a hash only where there is such an account, in an application that knows better elsewhere (CWE-208; OWASP Authentication
/// Cheat Sheet, “Authentication and Error Messages”).
/// </summary>
public sealed class AnswerTimeTests
{
    private const string Even = "app.post('/sign-in', async (req, res) => { const who = await one(req.body.email); const ok = await bcrypt.compare(req.body.password, who ? who.password_hash : NOBODY); if (!who || !ok) { return res.status(401).end(); } req.session.regenerate(() => { req.session.keeperId = who.id; res.end(); }); });\n";

    private const string Head = "const app = require('express')(); const bcrypt = require('bcrypt'); const { Pool } = require('pg'); const pool = new Pool(); const NOBODY = bcrypt.hashSync('nobody', 12);\nasync function one(email) { const { rows } = await pool.query('SELECT id, password_hash FROM keepers WHERE email = $1', [email]); return rows[0]; }\n";

    [Theory]
    [InlineData("app.post('/token', async (req, res) => { const who = await one(req.body.email); if (!who) { return res.status(401).end(); } if (!await bcrypt.compare(req.body.password, who.password_hash)) { return res.status(401).end(); } res.json({ token: sign(who) }); });", true, true)]
    [InlineData("app.post('/token', async (req, res) => { const who = await one(req.body.email); if (who === undefined) { return res.status(401).end(); } const ok = await bcrypt.compare(req.body.password, who.password_hash); res.status(ok ? 200 : 401).end(); });", true, true)]
    [InlineData("app.post('/token', async (req, res) => { const who = await one(req.body.email); if (!who) { return res.status(401).end(); } if (!await bcrypt.compare(req.body.password, who.password_hash)) { return res.status(401).end(); } res.json({ token: sign(who) }); });", false, false)]
    [InlineData("app.post('/token', async (req, res) => { const who = await one(req.body.email); const ok = await bcrypt.compare(req.body.password, who ? who.password_hash : NOBODY); if (!who || !ok) { return res.status(401).end(); } res.json({ token: sign(who) }); });", true, false)]
    public void Of_the_other_address(string route, bool hasEven, bool expected) =>
        Assert.Equal(expected, Auditor.Run(("app.js", Head + (hasEven ? Even : "") + route)).Findings.Any(f => f.CheckId == "sessions/account-enumeration"));
}
