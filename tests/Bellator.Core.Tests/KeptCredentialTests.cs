namespace Bellator.Core.Tests;

/// <summary>
/// Credentials of which the server keeps a row, and what ends them. That long-lived tokens are kept as digests, end with sign-out and with a
/// new password, and do not travel in addresses is OWASP ASVS 5.0, V7.4 and V14.2.1, from memory; the code is as people write it.
/// </summary>
public sealed class KeptCredentialTests
{
    private const string Schema = """
        CREATE TABLE members (id int PRIMARY KEY, email text NOT NULL UNIQUE, password_hash text NOT NULL, stamp int NOT NULL DEFAULT 0);
        CREATE TABLE remembered (id int PRIMARY KEY, token text NOT NULL, member_id int NOT NULL REFERENCES members, ends_at timestamp NOT NULL);
        CREATE TABLE trusted_browsers (token text NOT NULL, member_id int NOT NULL REFERENCES members);
        """;

    private const string App = """
        const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const crypto = require('crypto'); const bcrypt = require('bcrypt');
        const digest = t => crypto.createHash('sha256').update(t).digest('hex');
        app.post('/sign-in', async (req, res) => {
          const { rows } = await pool.query('SELECT id, password_hash FROM members WHERE email = $1', [req.body.email]);
          if (!rows[0] || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.sendStatus(401); }
          const token = crypto.randomBytes(32).toString('hex');
          await pool.query('INSERT INTO remembered (token, member_id, ends_at) VALUES ($1, $2, now() + interval \'30 days\')', [digest(token), rows[0].id]);
          res.cookie('remember', token, { httpOnly: true, secure: true, sameSite: 'lax' }); res.sendStatus(204);
        });
        const known = async (req, res, next) => {
          const { rows } = await pool.query('SELECT m.id FROM remembered r JOIN members m ON m.id = r.member_id WHERE r.token = $1 AND r.ends_at > now()', [digest(req.cookies.remember)]);
          if (!rows[0]) { return res.sendStatus(401); }
          req.member = rows[0]; next();
        };

        """;

    private const string Out = "app.post('/sign-out', known, async (req, res) => { await pool.query('DELETE FROM remembered WHERE token = $1', [digest(req.cookies.remember)]); res.clearCookie('remember'); res.sendStatus(204); });\n";
    private const string Change = "app.post('/password', known, async (req, res) => { await pool.query('UPDATE members SET password_hash = $1 WHERE id = $2', [await bcrypt.hash(req.body.password, 12), req.member.id]); await pool.query('DELETE FROM remembered WHERE member_id = $1', [req.member.id]); res.sendStatus(204); });\n";

    [Theory]
    [InlineData("", "", null)]
    [InlineData("[digest(req.cookies.remember)]);\n  if", "[req.cookies.remember]);\n  if", "sessions/token-kept-plain")]
    [InlineData("[digest(req.cookies.remember)]);\n  if", "[digest(req.cookies.remember ?? req.query.token)]);\n  if", "sessions/token-in-url")]
    [InlineData("await pool.query('DELETE FROM remembered WHERE token = $1', [digest(req.cookies.remember)]); res.clear", "res.clear", "sessions/sign-out-incomplete")]
    [InlineData("DELETE FROM remembered WHERE token = $1', [digest(req.cookies.remember)]); res.clear", "UPDATE remembered SET ends_at = now() WHERE token = $1', [digest(req.cookies.remember)]); res.clear", null)]
    [InlineData("await pool.query('DELETE FROM remembered WHERE member_id = $1', [req.member.id]); ", "", "sessions/session-survives-password-change")]
    [InlineData("await pool.query('DELETE FROM remembered WHERE member_id = $1', [req.member.id]); ", "await pool.query('UPDATE remembered SET ends_at = now() WHERE member_id = $1', [req.member.id]); ", null)]
    public void What_ends_a_remembered_browser(string instead, string of, string? expected)
    {
        var code = App + Out + Change;
        Assert.True(instead.Length == 0 || instead == of || code.Contains(instead, StringComparison.Ordinal));
        var found = Auditor.Run(("schema.sql", Schema), ("app.js", instead.Length == 0 ? code : code.Replace(instead, of, StringComparison.Ordinal))).Findings
            .Select(f => f.CheckId).Where(c => c is "sessions/token-kept-plain" or "sessions/token-in-url" or "sessions/sign-out-incomplete" or "sessions/session-survives-password-change").Distinct().ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
    }

    /// <summary>A token whose end is kept and not asked for is good for ever; old rows that some code deletes are not there to be found.</summary>
    [Theory]
    [InlineData(" AND r.ends_at > now()", "", true)]
    [InlineData("SELECT m.id FROM", "SELECT m.id, r.ends_at FROM", false)]
    [InlineData("if (!rows[0]) { return res.sendStatus(401); }\n  req", "if (!rows[0] || rows[0].ends_at < Date.now()) { return res.sendStatus(401); }\n  req", false)]
    public void An_end_that_is_kept_is_asked_for(string instead, string of, bool isWeak)
    {
        var code = (App + Out + Change).Replace(instead, of, StringComparison.Ordinal);
        Assert.Equal(isWeak, Auditor.Run(("schema.sql", Schema), ("app.js", code)).Findings.Any(f => f.CheckId == "sessions/kept-credential-lasting"));
        var swept = code + "setInterval(() => pool.query('DELETE FROM remembered WHERE ends_at < now()'), 60000);\n";
        Assert.DoesNotContain(Auditor.Run(("schema.sql", Schema), ("app.js", swept)).Findings, f => f.CheckId == "sessions/kept-credential-lasting");
    }

    /// <summary>Whoever is disabled goes on where the account of a session is loaded without asking for it.</summary>
    [Theory]
    [InlineData("", "", true)]
    [InlineData("WHERE id = $1', [req.session.userId]", "WHERE id = $1 AND disabled_at IS NULL', [req.session.userId]", false)]
    [InlineData("res.sendStatus(204); });//", "await pool.query('DELETE FROM sessions WHERE member_id = $1', [req.params.id]); res.sendStatus(204); });//", false)]
    [InlineData("SET disabled_at = now()", "SET note = now()", false)]
    public void A_disabled_account(string instead, string of, bool isWeak)
    {
        const string Code = """
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const bcrypt = require('bcrypt');
            app.post('/sign-in', async (req, res) => {
              const { rows } = await pool.query('SELECT id, password_hash, disabled_at FROM members WHERE email = $1', [req.body.email]);
              if (!rows[0] || rows[0].disabled_at || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.sendStatus(401); }
              req.session.regenerate(() => { req.session.userId = rows[0].id; res.sendStatus(204); });
            });
            const known = async (req, res, next) => { const { rows } = await pool.query('SELECT id, role FROM members WHERE id = $1', [req.session.userId]); if (!rows[0]) { return res.sendStatus(401); } req.user = rows[0]; next(); };
            app.get('/hives', known, async (req, res) => { res.json((await pool.query('SELECT id FROM hives WHERE keeper_id = $1', [req.user.id])).rows); });
            app.get('/notes', known, async (req, res) => { res.json((await pool.query('SELECT id FROM notes WHERE keeper_id = $1', [req.user.id])).rows); });
            app.post('/members/:id/disable', known, async (req, res) => { if (req.user.role !== 'head') { return res.sendStatus(403); } await pool.query('UPDATE members SET disabled_at = now() WHERE id = $1', [req.params.id]); res.sendStatus(204); });//
            """;
        var schema = "CREATE TABLE members (id int PRIMARY KEY, email text NOT NULL UNIQUE, password_hash text NOT NULL, role text NOT NULL, note text, disabled_at timestamp);";
        Assert.Equal(isWeak, Auditor.Run(("schema.sql", schema), ("app.js", instead.Length == 0 ? Code : Code.Replace(instead, of, StringComparison.Ordinal))).Findings.Any(f => f.CheckId == "sessions/disabled-account-accepted"));
    }

    /// <summary>A stamp that the look-up holds the credential against ends it as well.</summary>
    [Fact]
    public void A_stamp_ends_what_carries_it()
    {
        var code = (App + Out + Change).Replace("await pool.query('DELETE FROM remembered WHERE member_id = $1', [req.member.id]); ", "", StringComparison.Ordinal)
            .Replace("SET password_hash = $1 WHERE", "SET password_hash = $1, stamp = stamp + 1 WHERE", StringComparison.Ordinal).Replace("AND r.ends_at > now()", "AND r.ends_at > now() AND r.stamp = m.stamp", StringComparison.Ordinal);
        Assert.DoesNotContain(Auditor.Run(("schema.sql", Schema), ("app.js", code)).Findings, f => f.CheckId == "sessions/session-survives-password-change");
    }

    /// <summary>Signing in keeps the same password under a better hash: it is no new one.</summary>
    [Fact]
    public void A_new_hash_of_the_same_password_ends_nothing()
    {
        var code = (App + Out + Change).Replace("const token = crypto", "if (bcrypt.getRounds(rows[0].password_hash) < 12) { await pool.query('UPDATE members SET password_hash = $1 WHERE id = $2', [await bcrypt.hash(req.body.password, 12), rows[0].id]); }\n  const token = crypto", StringComparison.Ordinal);
        Assert.Contains("getRounds", code, StringComparison.Ordinal);
        Assert.DoesNotContain(Auditor.Run(("schema.sql", Schema), ("app.js", code)).Findings, f => f.CheckId == "sessions/session-survives-password-change");
    }

    /// <summary>What only says that a browser is trusted signs nobody in.</summary>
    [Fact]
    public void A_trusted_browser_is_no_credential_of_its_own()
    {
        var code = App + Out + Change + "app.post('/code', known, async (req, res) => { const { rows } = await pool.query('SELECT 1 FROM trusted_browsers WHERE token = $1 AND member_id = $2', [req.cookies.trust, req.member.id]); res.json(rows.length); });\n";
        Assert.DoesNotContain(Auditor.Run(("schema.sql", Schema), ("app.js", code)).Findings, f => f.CheckId == "sessions/token-kept-plain");
    }
}
