namespace Bellator.Core.Tests;

/// <summary>Signing in, weak and right.</summary>
public sealed class SessionCheckTests
{
    private const string Find = "$s = $db->prepare('SELECT * FROM users WHERE name = ?'); $s->execute([$_POST['name']]); $user = $s->fetch(); ";

    [Theory]
    [InlineData("login.php", "<?php " + Find + "if (!$user) { die('No such user'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong password'); }", true)]
    [InlineData("auth.php", "<?php function login($db) { " + Find + "if ($user === false) { return 'No such user'; } elseif (password_verify($_POST['password'], $user['password_hash'])) { return ''; } else { return 'Wrong password'; } }", true)]
    [InlineData("login.php", "<?php " + Find + "if (!$user || !password_verify($_POST['password'], $user['password_hash'])) { die('Wrong name or password'); }", false)]
    [InlineData("login.php", "<?php " + Find + "if (!$user) { die('Wrong name or password'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong name or password'); }", false)]
    [InlineData("change.php", "<?php " + Find + "if (!$user) { die('No such user'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong password'); }", false)]
    [InlineData("app.js", "app.post('/login', async (req, res) => { const user = await users.find(req.body.name); if (user == null) return res.status(404).end(); if (!await bcrypt.compare(req.body.password, user.passwordHash)) return res.status(401).end(); res.end(); });", true)]
    [InlineData("app.js", "app.post('/login', async (req, res) => { const user = await users.find(req.body.name); const ok = user && await bcrypt.compare(req.body.password, user.passwordHash); if (!ok) return res.status(401).end(); res.end(); });", false)]
    [InlineData("app.py", "def login():\n    user = find(request.form['name'])\n    if user is None:\n        return 'no such user', 404\n    if not check_password_hash(user.password_hash, request.form['password']):\n        return 'wrong password', 401\n    return 'ok'\n", true)]
    public void Account_enumeration(string path, string code, bool found) =>
        Assert.Equal(found, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "sessions/account-enumeration"));

    private const string App = "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const bcrypt = require('bcrypt'); const crypto = require('crypto'); const rateLimit = require('express-rate-limit');\n";

    private const string SignIn = "async (req, res) => { const m = (await pool.query('SELECT id, password FROM members WHERE email = $1', [req.body.email])).rows[0]; if (!m || !(await bcrypt.compare(req.body.password, m.password))) { return res.sendStatus(401); } req.session.id = m.id; res.redirect('/'); }";

    private const string Join = "app.post('/join', async (req, res) => { await pool.query('INSERT INTO members (email, password) VALUES ($1, $2)', [req.body.email, await bcrypt.hash(req.body.password, 12)]); res.redirect('/'); });";

    private const string Use = "app.post('/reset', async (req, res) => { await pool.query('UPDATE members SET password = $1, reset_token = NULL WHERE reset_token = $2 AND reset_expires > now()', [await bcrypt.hash(req.body.password, 12), req.body.token]); res.redirect('/'); });";

    private static string Forgot(string token, string kept = "token") =>
        $"app.post('/forgot', async (req, res) => {{ const token = {token}; await pool.query('UPDATE members SET reset_token = $1, reset_expires = now() WHERE email = $2', [{kept}, req.body.email]); sendMail(req.body.email, token); res.end(); }});";

    [Theory]
    [InlineData("sessions/no-throttle", "app.post('/login', " + SignIn + ");", true)]
    [InlineData("sessions/no-throttle", "app.post('/login', rateLimit({ limit: 5 }), " + SignIn + ");", false)]
    [InlineData("sessions/no-throttle", "app.use(rateLimit({ limit: 50 })); app.post('/login', " + SignIn + ");", false)]
    [InlineData("sessions/no-throttle", "app.post('/names', async (req, res) => res.json((await pool.query('SELECT name FROM members WHERE email = $1', [req.body.email])).rows));", false)]
    [InlineData("sessions/unconfirmed-account", Join, false)]
    [InlineData("sessions/unconfirmed-account", "async function verifyEmail(token) { await pool.query('UPDATE members SET confirmed = true WHERE token = $1', [token]); } " + Join, true)]
    public void Steps_that_are_missing(string check, string code, bool found) =>
        Assert.Equal(found, Auditor.Run(("app.js", App + code)).Findings.Any(f => f.CheckId == check));

    [Theory]
    [InlineData("passwords/reset-token-predictable", "Math.random().toString(36)", "token", true)]
    [InlineData("passwords/reset-token-predictable", "crypto.createHash('md5').update(String(Date.now())).digest('hex')", "token", true)]
    [InlineData("passwords/reset-token-predictable", "crypto.randomBytes(32).toString('hex')", "token", false)]
    [InlineData("passwords/reset-token-kept-plain", "crypto.randomBytes(32).toString('hex')", "token", true)]
    [InlineData("passwords/reset-token-kept-plain", "crypto.randomBytes(32).toString('hex')", "crypto.createHash('sha256').update(token).digest('hex')", false)]
    [InlineData("passwords/reset-token-lasting", "crypto.randomBytes(32).toString('hex')", "token", false)]
    public void Reset_tokens(string check, string token, string kept, bool found) =>
        Assert.Equal(found, Auditor.Run(("app.js", App + Forgot(token, kept) + Use)).Findings.Any(f => f.CheckId == check));

    [Fact]
    public void Reset_token_without_an_end()
    {
        var code = App + (Forgot("crypto.randomBytes(32).toString('hex')") + Use).Replace(", reset_expires = now()", "", StringComparison.Ordinal).Replace(" AND reset_expires > now()", "", StringComparison.Ordinal);
        Assert.Contains(Auditor.Run(("app.js", code)).Findings, f => f.CheckId == "passwords/reset-token-lasting");
    }

    [Fact]
    public void Sign_in_that_hashes_otherwise()
    {
        var other = SignIn.Replace("!(await bcrypt.compare(req.body.password, m.password))", "crypto.createHash('sha256').update(req.body.password).digest('hex') !== m.password", StringComparison.Ordinal);
        Assert.Contains(Auditor.Run(("app.js", App + Join + "app.post('/login', " + other + ");")).Findings, f => f.CheckId == "passwords/hash-compare-mismatch");
        Assert.DoesNotContain(Auditor.Run(("app.js", App + Join + "app.post('/login', " + SignIn + ");")).Findings, f => f.CheckId == "passwords/hash-compare-mismatch");
    }

    [Theory]
    [InlineData("PASSWORD_HASHERS = ['django.contrib.auth.hashers.MD5PasswordHasher', 'django.contrib.auth.hashers.PBKDF2PasswordHasher']", true)]
    [InlineData("PASSWORD_HASHERS = ['django.contrib.auth.hashers.PBKDF2PasswordHasher', 'django.contrib.auth.hashers.MD5PasswordHasher']", false)]
    public void Old_hasher_first(string code, bool found) =>
        Assert.Equal(found, Auditor.Run(("settings.py", code + "\n")).Findings.Any(f => f.CheckId == "passwords/legacy-hasher-first"));

    [Theory]
    [InlineData("", "email", true)]
    [InlineData("requireMember, ", "email", false)]
    [InlineData("", "name", false)]
    public void Private_fields_for_anybody(string guard, string column, bool found)
    {
        var code = App + "function requireMember(req, res, next) { if (!req.session.id) { return res.sendStatus(401); } next(); }\n"
            + $"app.get('/keepers', {guard}async (req, res) => {{ const rows = (await pool.query('SELECT id, {column} FROM members')).rows; res.json(rows.map(r => ({{ id: r.id, {column}: r.{column} }}))); }});";
        var schema = ("schema.sql", "CREATE TABLE members (id serial PRIMARY KEY, name text, email text, password varchar(60));");
        Assert.Equal(found, Auditor.Run(("app.js", code), schema).Findings.Any(f => f.CheckId == "exposure/private-fields-in-response"));
    }

    [Fact]
    public void Whole_body_names_the_columns_that_count()
    {
        var result = Auditor.Run(("app.js", """
            const mongoose = require('mongoose'); const app = require('express')();
            const Member = mongoose.model('Member', new mongoose.Schema({ email: String, role: String, isAdmin: Boolean, note: String }));
            app.post('/join', async (req, res) => { await Member.create(req.body); res.end(); });
            """));
        Assert.Contains(result.Findings, f => f.CheckId == "injection/mass-assignment" && f.Message.Contains("“role”, “isAdmin” among them", StringComparison.Ordinal));
    }
}
