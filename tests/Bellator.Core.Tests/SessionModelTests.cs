using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;

namespace Bellator.Core.Tests;

/// <summary>What ends which credential, derived from small programs. Defaults of frameworks are those of their documentation, named in the facts.</summary>
public sealed class SessionModelTests
{
    private const string ExpressHead = """
        const express = require('express'); const session = require('express-session'); const bcrypt = require('bcrypt'); const db = require('./db');
        const app = express();
        app.use(express.urlencoded({ extended: false }));
        app.use(session({ secret: process.env.SECRET, resave: false, saveUninitialized: false, cookie: { secure: true, sameSite: 'lax' } }));
        function signedIn(req, res, next) { if (!req.session.userId) { return res.status(401).end(); } next(); }
        """;

    private const string Schema = "CREATE TABLE users (id serial PRIMARY KEY, email text UNIQUE, password_hash text, disabled boolean, role text); CREATE TABLE notes (id serial, user_id int, text text);";

    private const string ExpressSignIn = """
        app.post('/login', async (req, res) => {
          const { rows } = await db.query('SELECT * FROM users WHERE email = $1', [req.body.email]);
          if (!rows[0] || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.status(401).end(); }
          REGENERATE
          res.redirect('/');
        });
        app.get('/notes', signedIn, async (req, res) => { const { rows } = await db.query('SELECT * FROM notes WHERE user_id = $1', [req.session.userId]); res.json(rows); });
        """;

    private const string Renewing = "req.session.regenerate(() => { req.session.userId = rows[0].id; });";

    [Theory]
    [InlineData(Renewing, "ends")]
    [InlineData("req.session.userId = rows[0].id;", "stays")]
    public void Sign_in_of_a_session_on_the_server(string how, string expected) => Assert.Equal(expected, State(Express(how), "express-session", "signIn"));

    [Fact]
    public void A_role_in_the_session_goes_stale() =>
        Assert.Equal("stays", State(Express("req.session.regenerate(() => { req.session.userId = rows[0].id; req.session.role = rows[0].role; });"), "express-session", "roleChange"));

    [Theory]
    [InlineData("app.post('/logout', signedIn, (req, res) => { req.session.destroy(() => res.redirect('/')); });", "ends")]
    [InlineData("app.post('/logout', signedIn, (req, res) => { res.clearCookie('connect.sid'); res.redirect('/'); });", "stays")]
    [InlineData("", "notNeeded")]
    public void Sign_out(string code, string expected) => Assert.Equal(expected, State(Express(Renewing, code), "express-session", "signOut"));

    [Theory]
    [InlineData("app.use(async (req, res, next) => { const { rows } = await db.query('SELECT * FROM users WHERE id = $1', [req.session.userId]); if (!rows[0] || rows[0].disabled) { return res.status(401).end(); } next(); });", "ends")]
    [InlineData("", "stays")]
    public void A_disabled_account(string middleware, string expected) =>
        Assert.Equal(expected, State(Run(("app.js", ExpressHead + "\n" + ExpressSignIn.Replace("REGENERATE", Renewing, StringComparison.Ordinal).Replace("app.get('/notes'", middleware + "\napp.get('/people', signedIn, async (req, res) => { res.json([]); });\napp.get('/notes'", StringComparison.Ordinal)), ("schema.sql", Schema)), "express-session", "accountDisabled"));

    [Theory]
    [InlineData("", "stays", "goes on for ever")]
    public void A_session_that_is_used_has_no_end(string code, string expected, string text)
    {
        var cell = Cell(Express(Renewing, code), "express-session", "absolute");
        Assert.Equal(expected, cell.State);
        Assert.Contains(text, cell.Text, StringComparison.Ordinal);
    }

    [Fact]
    public void What_lies_in_the_browser_only_outlives_the_sign_out()
    {
        var result = Run(("app.py", """
            from flask import Flask, session, request, redirect, abort
            from werkzeug.security import check_password_hash
            import os, db
            app = Flask(__name__); app.secret_key = os.environ["KEY"]
            @app.post("/login")
            def login():
                row = db.execute("SELECT id, password_hash FROM users WHERE email = %s", (request.form["email"],)).fetchone()
                if row is None or not check_password_hash(row["password_hash"], request.form["password"]): abort(401)
                session["user_id"] = row["id"]
                return redirect("/")
            @app.post("/logout")
            def logout():
                session.clear()
                return redirect("/")
            """), ("schema.sql", Schema));
        Assert.Equal("notNeeded", State(result, "Flask session", "signIn"));
        var cell = Cell(result, "Flask session", "signOut");
        Assert.Equal("stays", cell.State);
        Assert.Contains("a copy stays good", cell.Text, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("{ expiresIn: '15m' }", "ends")]
    [InlineData("{}", "stays")]
    public void A_signed_token_ends_by_its_expiry_time_alone(string options, string expected)
    {
        var result = Run(("app.js", """
            const express = require('express'); const jwt = require('jsonwebtoken'); const bcrypt = require('bcrypt'); const db = require('./db');
            const app = express(); app.use(express.json());
            app.post('/login', async (req, res) => {
              const { rows } = await db.query('SELECT * FROM users WHERE email = $1', [req.body.email]);
              if (!rows[0] || !(await bcrypt.compare(req.body.password, rows[0].password_hash))) { return res.status(401).end(); }
              res.json({ token: jwt.sign({ sub: rows[0].id }, process.env.KEY, OPTIONS) });
            });
            app.post('/logout', (req, res) => { res.status(204).end(); });
            """.Replace("OPTIONS", options, StringComparison.Ordinal)), ("schema.sql", Schema));
        Assert.Equal(expected, State(result, "JSON Web Token (jsonwebtoken)", "absolute"));
        Assert.Equal("stays", State(result, "JSON Web Token (jsonwebtoken)", "signOut"));
    }

    [Fact]
    public void A_library_that_is_not_used_has_no_row() => Assert.DoesNotContain(Express(Renewing).Sessions.Credentials, c => c.Kind == "token" || c.Family != "javascript");

    [Theory]
    [InlineData("app.post('/notes', signedIn, async (req, res) => { await db.query('INSERT INTO notes (user_id, text) VALUES ($1, $2)', [req.session.userId, req.body.text]); res.redirect('/'); });", "POST", "open")]
    [InlineData("const csurf = require('csurf'); app.post('/notes', signedIn, csurf(), async (req, res) => { await db.query('INSERT INTO notes (user_id, text) VALUES ($1, $2)', [req.session.userId, req.body.text]); res.redirect('/'); });", "POST", "protected")]
    [InlineData("app.get('/notes/:id/remove', signedIn, async (req, res) => { await db.query('DELETE FROM notes WHERE id = $1 AND user_id = $2', [req.params.id, req.session.userId]); res.redirect('/'); });", "GET", "open")]
    public void What_keeps_forged_requests_out(string code, string method, string expected) =>
        Assert.Equal(expected, Express(Renewing, code).Sessions.Forgery.Single(f => f.Method == method && f.Path.StartsWith("/notes", StringComparison.Ordinal)).State);

    [Fact]
    public void A_page_that_only_reads_is_not_asked_about() => Assert.DoesNotContain(Express(Renewing).Sessions.Forgery, f => f.Method == "GET");

    /// <summary>Django’s documentation: the check is done by CsrfViewMiddleware; csrf_exempt takes it off.</summary>
    [Theory]
    [InlineData("MIDDLEWARE = ['django.middleware.csrf.CsrfViewMiddleware']", "", "protected")]
    [InlineData("MIDDLEWARE = ['django.middleware.common.CommonMiddleware']", "", "open")]
    [InlineData("MIDDLEWARE = ['django.middleware.csrf.CsrfViewMiddleware']", "@csrf_exempt\n", "exempt")]
    public void Django_checks_by_a_middleware(string settings, string decorator, string expected)
    {
        var result = Run(
            ("site/settings.py", settings + "\nINSTALLED_APPS = ['notes']\nROOT_URLCONF = 'site.urls'\n"),
            ("site/urls.py", "from django.urls import path\nfrom notes import views\nurlpatterns = [path('notes/add', views.add)]\n"),
            ("notes/views.py", "from django.contrib.auth.decorators import login_required\nfrom django.views.decorators.http import require_POST\nfrom django.views.decorators.csrf import csrf_exempt\nfrom django.shortcuts import redirect\nfrom .models import Note\n" + decorator + "@login_required\n@require_POST\ndef add(request):\n    Note.objects.create(user=request.user, text=request.POST['text'])\n    return redirect('/')\n"),
            ("notes/models.py", "from django.db import models\nfrom django.contrib.auth.models import User\nclass Note(models.Model):\n    user = models.ForeignKey(User, on_delete=models.CASCADE)\n    text = models.TextField()\n"));
        Assert.Equal(expected, Assert.Single(result.Sessions.Forgery).State);
    }

    [Fact]
    public void A_summary_names_what_is_outlived()
    {
        static ReportedLifeCell Cell(string name, string state) => new(name, state, "", []);
        var credential = new ReportedCredential("x", "session", "php", [], [Cell("signOut", "stays"), Cell("idle", "stays"), Cell("absolute", "stays"), Cell("signIn", "unclear")]);
        Assert.Equal("It outlives sign-out, idle timeout and absolute timeout; one event is unclear.", SessionText.Summary(credential));
        Assert.Equal("Nothing was found that it outlives.", SessionText.Summary(credential with { Life = [] }));
        Assert.Equal("It outlives sign-out; 2 events are unclear.", SessionText.Summary(credential with { Life = [Cell("signOut", "stays"), Cell("idle", "unclear"), Cell("absolute", "unclear")] }));
    }

    [Fact]
    public void The_list_has_a_line_for_each_event()
    {
        var csv = SessionReport.Csv(Express(Renewing).Sessions);
        Assert.Equal(SessionText.Events.Count, csv.Split('\n').Count(l => l.StartsWith("credential,express-session", StringComparison.Ordinal)));
    }

    private static AuditResult Express(string signIn, string more = "") => Run(("app.js", ExpressHead + "\n" + ExpressSignIn.Replace("REGENERATE", signIn, StringComparison.Ordinal) + "\n" + more), ("schema.sql", Schema));

    private static AuditResult Run(params (string Path, string Code)[] files) => Auditor.Run(files);

    private static ReportedLifeCell Cell(AuditResult result, string credential, string what) => result.Sessions.Credentials.Single(c => c.Name == credential).Life.Single(l => l.Event == what);

    private static string State(AuditResult result, string credential, string what) => Cell(result, credential, what).State;
}
