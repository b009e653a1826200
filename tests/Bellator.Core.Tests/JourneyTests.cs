using Bellator.Audit.Accounts;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Journeys and their steps, in weak code and in its correct neighbours.</summary>
public sealed class JourneyTests
{
    private const string Express = """
        const express = require('express'); const { Pool } = require('pg'); const bcrypt = require('bcrypt'); const crypto = require('crypto'); const rateLimit = require('express-rate-limit');
        const app = express(); const pool = new Pool();

        """;

    private const string Members = "CREATE TABLE members (id serial PRIMARY KEY, email varchar(160) NOT NULL UNIQUE, password varchar(60) NOT NULL, role varchar(20), active boolean, reset_token varchar(64), reset_until timestamp);";

    [Theory]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "hashed", "shown", "bcrypt, factor 12")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 6);", "hashed", "unclear", "bcrypt, factor 6")]
    [InlineData("const hash = crypto.createHash('sha256').update(req.body.password).digest('hex');", "hashed", "absent", "sha256, no salt")]
    [InlineData("const hash = req.body.password;", "hashed", "absent", "kept as typed")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "column fits", "shown", "60 of 60")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "only these saved", "shown", "2 columns listed")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "confirmed", "absent", "nothing is sent")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12); await sendConfirmationMail(req.body.email);", "confirmed", "shown", "a message is sent")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "validated", "absent", "nothing looks at them")]
    [InlineData("if (req.body.password.length < 12 || !isEmail(req.body.email)) { return res.sendStatus(400); } const hash = await bcrypt.hash(req.body.password, 12);", "validated", "shown", "password, email")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12);", "unique", "unclear", "index, case counts")]
    [InlineData("const hash = await bcrypt.hash(req.body.password, 12); req.body.email = req.body.email.toLowerCase();", "unique", "shown", "index; made lower case")]
    public void Registering(string code, string step, string state, string text)
    {
        var accounts = Of(Express + $"app.post('/join', async (req, res) => {{ {code} await pool.query('INSERT INTO members (email, password) VALUES ($1, $2)', [req.body.email, hash]); res.redirect('/'); }});");
        Assert.Equal((state, text), Step(accounts, "register", step));
    }

    [Fact]
    public void Registering_tells_what_it_takes_and_gives_back()
    {
        var accounts = Of(Express + "app.post('/join', async (req, res) => { const hash = await bcrypt.hash(req.body.password, 12); await pool.query('INSERT INTO members (email, password, role) VALUES ($1, $2, $3)', [req.body.email, hash, req.body.role]); res.json({ email: req.body.email, password: hash }); });");
        Assert.Equal(("shown", "email, password, role"), Step(accounts, "register", "fields"));
        Assert.Equal(("absent", "role can be set"), Step(accounts, "register", "only these saved"));
        Assert.Equal(("absent", "returns the hash"), Step(accounts, "register", "answer"));
    }

    [Theory]
    [InlineData("", "throttled", "absent")]
    [InlineData("rateLimit({ limit: 5 }), ", "throttled", "shown")]
    [InlineData("", "compared", "shown")]
    [InlineData("", "session new", "absent")]
    [InlineData("", "status checked", "absent")]
    [InlineData("", "same answer", "absent")]
    public void Signing_in(string guard, string step, string state)
    {
        var accounts = Of(Express + $$"""
            app.post('/login', {{guard}}async (req, res) => {
              const member = (await pool.query('SELECT id, password FROM members WHERE email = $1', [req.body.email])).rows[0];
              if (!member) { return res.status(404).json({ error: 'no such member' }); }
              const fits = await bcrypt.compare(req.body.password, member.password);
              if (!fits) { return res.status(401).json({ error: 'wrong password' }); }
              req.session.memberId = member.id;
              res.redirect('/hives');
            });
            """);
        Assert.Equal(state, Step(accounts, "signIn", step).State);
    }

    [Fact]
    public void Signing_in_as_it_should_be()
    {
        var accounts = Of(Express + """
            app.post('/login', rateLimit({ limit: 5 }), async (req, res) => {
              const member = (await pool.query('SELECT id, password, active FROM members WHERE email = $1', [req.body.email])).rows[0];
              if (!member || !member.active || !(await bcrypt.compare(req.body.password, member.password))) { return res.status(401).json({ error: 'address and password do not fit' }); }
              req.session.regenerate(() => { req.session.memberId = member.id; res.redirect('/hives'); });
            });
            app.post('/logout', (req, res) => { req.session.destroy(() => { res.clearCookie('sid'); res.redirect('/'); }); });
            """);
        Assert.All(Journey(accounts, "signIn").Steps, s => Assert.Equal("shown", s.State));
        Assert.All(Journey(accounts, "signOut").Steps, s => Assert.NotEqual("absent", s.State));
    }

    [Theory]
    [InlineData("Math.random().toString(36)", "token made", "absent", "Math.random(): 52 bits at best")]
    [InlineData("crypto.randomBytes(32).toString('hex')", "token made", "shown", "crypto.randomBytes(32): 256 bits")]
    [InlineData("crypto.randomInt(100000, 999999)", "token made", "absent", "crypto.randomInt(100000, …: 20 bits at best")]
    [InlineData("crypto.randomBytes(32).toString('hex')", "kept", "absent", "as sent, in reset_token")]
    [InlineData("crypto.randomBytes(32).toString('hex')", "ends", "absent", "never")]
    [InlineData("crypto.randomBytes(32).toString('hex')", "used once", "absent", "works again")]
    public void Recovering(string token, string step, string state, string text)
    {
        var accounts = Of(Express + $$"""
            app.post('/forgot', async (req, res) => {
              const token = {{token}};
              await pool.query('UPDATE members SET reset_token = $1 WHERE email = $2', [token, req.body.email]);
              sendMail(req.body.email, token);
              res.send('If there is such a member, a message is on its way.');
            });
            app.post('/reset', async (req, res) => {
              const hash = await bcrypt.hash(req.body.password, 12);
              await pool.query('UPDATE members SET password = $1 WHERE reset_token = $2', [hash, req.body.token]);
              res.redirect('/login');
            });
            """);
        Assert.Equal((state, text), Step(accounts, "recover", step));
    }

    [Fact]
    public void Changing_ones_own_account()
    {
        var accounts = Of(Express + """
            function requireMember(req, res, next) { if (!req.session.memberId) { return res.sendStatus(401); } next(); }
            app.post('/me/password', requireMember, async (req, res) => {
              const member = (await pool.query('SELECT password FROM members WHERE id = $1', [req.session.memberId])).rows[0];
              if (!(await bcrypt.compare(req.body.old, member.password))) { return res.sendStatus(403); }
              await pool.query('UPDATE members SET password = $1 WHERE id = $2', [await bcrypt.hash(req.body.password, 12), req.session.memberId]);
              res.redirect('/me');
            });
            app.post('/me/email', requireMember, async (req, res) => { await pool.query('UPDATE members SET email = $1 WHERE id = $2', [req.body.email, req.session.memberId]); res.redirect('/me'); });
            app.get('/me', requireMember, async (req, res) => res.json((await pool.query('SELECT id, email FROM members WHERE id = $1', [req.session.memberId])).rows[0]));
            """);
        Assert.Equal("shown", Step(accounts, "changePassword", "old one asked").State);
        Assert.Equal("absent", Step(accounts, "changePassword", "validated").State);
        Assert.Equal("absent", Step(accounts, "changePassword", "sessions end").State);
        Assert.Equal("absent", Step(accounts, "changeEmail", "password asked").State);
        Assert.Equal("shown", Step(accounts, "profile", "own account").State);
    }

    [Theory]
    [InlineData("app.py", """
        from flask import Flask, request, session, redirect
        from werkzeug.security import generate_password_hash, check_password_hash
        import sqlite3
        app = Flask(__name__)
        @app.post("/join")
        def join():
            sqlite3.connect("x").execute("INSERT INTO members (email, password) VALUES (?, ?)", (request.form["email"], generate_password_hash(request.form["password"])))
            return redirect("/")
        @app.post("/login")
        def login():
            row = sqlite3.connect("x").execute("SELECT id, password FROM members WHERE email = ?", (request.form["email"],)).fetchone()
            if row is None or not check_password_hash(row["password"], request.form["password"]):
                return "no", 401
            session["member"] = row["id"]
            return redirect("/")
        """)]
    [InlineData("Account.cs", """
        public class AccountController(Microsoft.Data.Sqlite.SqliteConnection db) : Microsoft.AspNetCore.Mvc.Controller
        {
            [HttpPost("join")] public IActionResult Join(string email, string password)
            {
                db.Execute("INSERT INTO members (email, password) VALUES (@email, @hash)", new { email, hash = BCrypt.Net.BCrypt.HashPassword(password) });
                return Redirect("/");
            }
            [HttpPost("login")] public IActionResult Login(string email, string password)
            {
                var member = db.QueryFirst("SELECT id, password FROM members WHERE email = @email", new { email });
                if (member == null || !BCrypt.Net.BCrypt.Verify(password, member.password)) { return Unauthorized(); }
                HttpContext.Session.SetString("member", member.id);
                return Redirect("/");
            }
        }
        """)]
    [InlineData("join.php", """
        <?php
        $db = new PDO('sqlite:x');
        if (isset($_POST['join'])) { $db->prepare('INSERT INTO members (email, password) VALUES (?, ?)')->execute([$_POST['email'], password_hash($_POST['password'], PASSWORD_DEFAULT)]); }
        """)]
    public void Journeys_of_other_languages(string path, string code)
    {
        var accounts = Auditor.Run((path, code), ("schema.sql", Members)).Accounts;
        Assert.Equal("shown", Step(accounts, "register", "hashed").State);
        if (!path.EndsWith(".php", StringComparison.Ordinal))
        {
            Assert.Equal("shown", Step(accounts, "signIn", "compared").State);
            Assert.Equal("absent", Step(accounts, "signIn", "throttled").State);
        }
    }

    /// <summary>The demo: what its code says, written down by hand.</summary>
    [Fact]
    public void Demo_has_its_journeys()
    {
        var accounts = Auditor.Demo.Accounts;
        Assert.Equal(["members", "technicians", "inspectors", "volunteers"], accounts.Tables.Take(4));
        Assert.Equal(["JavaScript", "PHP", "Python", "Ruby"], accounts.Journeys.Where(j => j.Kind == "register").Select(j => j.By).Order(StringComparer.Ordinal));
        Assert.Equal(7, accounts.Journeys.Count(j => j.Kind == "signIn"));
        Assert.Contains(accounts.Journeys, j => j.Kind == "recover" && j.Address.Contains("forgot.php", StringComparison.Ordinal) && j.Steps.Single(s => s.Name == "token made").Text == "random_bytes(32): 256 bits");
        Assert.Contains(accounts.Journeys, j => j.Address == "POST /api/session/kiosk" && j.Steps.Single(s => s.Name == "compared").State == "absent");
        Assert.All(accounts.Journeys.SelectMany(j => j.Steps), s => Assert.True(s.State != "shown" || s.Evidence.Count > 0 || s.Name is "cookie cleared", $"{s.Name} is shown by nothing"));
    }

    [Fact]
    public void Journeys_that_a_library_brings()
    {
        var off = Auditor.Run(("Program.cs", "builder.Services.AddDefaultIdentity<IdentityUser>(options => options.SignIn.RequireConfirmedAccount = false);")).Accounts;
        Assert.Equal(["register", "signIn", "signOut", "recover", "changePassword", "changeEmail", "profile"], off.Journeys.Select(j => j.Kind));
        Assert.Equal("absent", Step(off, "register", "confirmed").State);
        var on = Auditor.Run(("Program.cs", "builder.Services.AddDefaultIdentity<IdentityUser>(options => { options.SignIn.RequireConfirmedAccount = true; options.Password.RequiredLength = 14; options.Password.RequireDigit = false; });")).Accounts;
        Assert.Equal("shown", Step(on, "register", "confirmed").State);
        var policy = on.Policies.First();
        Assert.Equal(14, policy.Minimum);
        Assert.DoesNotContain(policy.Rules, r => r.Kind == "digit");
        Assert.Contains(policy.Rules, r => r.Kind == "upper");
    }

    /// <summary>A verifier that throws, as argon2-cffi's does by its documentation, from memory.</summary>
    [Theory]
    [InlineData("no such person", "wrong password", "absent")]
    [InlineData("no such person or wrong password", "no such person or wrong password", "shown")]
    public void Answers_of_which_one_is_given_where_an_exception_is_caught(string missing, string wrong, string state) => Assert.Equal(state, Step(Auditor.Run(("app.py", $"""
        from flask import Flask, request, session, jsonify
        from argon2 import PasswordHasher
        from argon2.exceptions import VerifyMismatchError
        import sqlite3
        app = Flask(__name__)
        hasher = PasswordHasher()
        db = sqlite3.connect('club.db')

        @app.post('/login')
        def login():
            row = db.execute('SELECT id, password_hash FROM members WHERE email = ?', (request.form['email'],)).fetchone()
            if row is None:
                return jsonify(error='{missing}'), 401
            try:
                hasher.verify(row['password_hash'], request.form['password'])
            except VerifyMismatchError:
                return jsonify(error='{wrong}'), 401
            session['member'] = row['id']
            return jsonify(ok=True)
        """), ("schema.sql", "CREATE TABLE members (id int primary key, email varchar(200) unique, password_hash varchar(200));")).Accounts, "signIn", "same answer").State);

    /// <summary>How one try ended is no count of tries.</summary>
    [Theory]
    [InlineData("if (verdict == PasswordVerificationResult.Failed) return Page();", "absent")]
    [InlineData("if (verdict == PasswordVerificationResult.Failed) { member.FailedAttempts++; _db.SaveChanges(); return Page(); }", "shown")]
    public void What_counts_tries(string refusal, string state) => Assert.Equal(state, Step(Auditor.Run(
        ("Data/Member.cs", "public class Member { public int Id { get; set; } public string Email { get; set; } public string PasswordHash { get; set; } public int FailedAttempts { get; set; } }\npublic class Club : DbContext { public DbSet<Member> Members { get; set; } }"),
        ("Pages/Login.cshtml.cs", $$"""
            public class LoginModel : PageModel
            {
                private readonly Club _db; private readonly IPasswordHasher<Member> _hasher;
                public LoginModel(Club db, IPasswordHasher<Member> hasher) { _db = db; _hasher = hasher; }
                public async Task<IActionResult> OnPostAsync(string email, string password)
                {
                    var member = _db.Members.SingleOrDefault(m => m.Email == email);
                    if (member == null) return Page();
                    var verdict = _hasher.VerifyHashedPassword(member, member.PasswordHash, password);
                    {{refusal}}
                    await HttpContext.SignInAsync(new ClaimsPrincipal(new ClaimsIdentity(new[] { new Claim(ClaimTypes.NameIdentifier, member.Id.ToString()) }, "cookie")));
                    return RedirectToPage("/Index");
                }
            }
            """), ("Pages/Login.cshtml", "@page\n@model LoginModel\n<form method=\"post\"></form>")).Accounts, "signIn", "throttled").State);

    [Fact]
    public void A_rule_about_a_part_of_the_request_that_is_asked_for_by_name()
    {
        var policy = Assert.Single(Auditor.Run(("src/Controller/JoinController.php", """
            <?php
            namespace App\Controller;
            use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
            use Symfony\Component\HttpFoundation\{Request, Response};
            use Symfony\Component\Routing\Attribute\Route;
            class JoinController extends AbstractController {
                #[Route('/join', methods: ['POST'])]
                public function join(Request $request, \PDO $db): Response {
                    $plain = (string) $request->request->get('password');
                    if (mb_strlen($plain) < 12 || mb_strlen($plain) > 200) { return new Response('', 422); }
                    $db->prepare('INSERT INTO members (email, password) VALUES (?, ?)')->execute([$request->request->get('email'), password_hash($plain, PASSWORD_DEFAULT)]);
                    return $this->redirectToRoute('home');
                }
            }
            """), ("schema.sql", Members)).Accounts.Policies);
        Assert.Equal((12, 200), (policy.Minimum, policy.Maximum));
    }

    [Theory]
    [InlineData("if (req.body.password.length < 10) { return res.sendStatus(400); }", 10, null)]
    [InlineData("if (req.body.password.length <= 9 || req.body.password.length > 64) { return res.sendStatus(400); }", 10, 64)]
    [InlineData("if (!/^(?=.*\\d).{8,}$/.test(req.body.password)) { return res.sendStatus(400); }", 0, null)]
    public void Rules_in_conditions(string check, int minimum, int? maximum)
    {
        var policy = Assert.Single(Of(Express + $"app.post('/join', async (req, res) => {{ {check} await pool.query('INSERT INTO members (email, password) VALUES ($1, $2)', [req.body.email, await bcrypt.hash(req.body.password, 12)]); res.redirect('/'); }});").Policies);
        Assert.Equal((minimum, maximum), (policy.Minimum, policy.Maximum));
        Assert.True(policy.Accepted < policy.Tried);
    }

    [Fact]
    public void Policy_is_run_over_the_common_passwords()
    {
        var rules = new[] { new PolicyRule("min", "8", Location.None, ""), new PolicyRule("pattern", "/^(?=.*[0-9])(?=.*[a-z]).+$/", Location.None, "") };
        var policy = new PasswordPolicy("x", rules, "bcrypt");
        Assert.True(policy.Accepts("password1"));
        Assert.False(policy.Accepts("password"));
        Assert.False(policy.Accepts("pass1"));
        var (tried, accepted, examples) = policy.Try(1000);
        Assert.Equal(1000, tried);
        Assert.InRange(accepted, 1, 200);
        Assert.All(examples, e => Assert.True(e.Length >= 8 && e.Any(char.IsDigit) && e.Any(char.IsLower)));
        Assert.False(new PasswordPolicy("x", [.. rules, new PolicyRule("common", "0", Location.None, "")], null).Accepts("password1"));
    }

    /// <summary>NIST SP 800-63B-4 and OWASP ASVS 5.0; numbers from memory, as <see cref="PolicyRequirements"/> says.</summary>
    [Fact]
    public void Policy_is_held_against_requirements()
    {
        var poor = PolicyRequirements.Judge(new PasswordPolicy("x", [new PolicyRule("max", "16", Location.None, ""), new PolicyRule("digit", "1", Location.None, "")], "md5"), false, false);
        Assert.DoesNotContain(poor, r => r.State == RequirementState.Met && r.Text.Contains("64", StringComparison.Ordinal));
        Assert.True(poor.Count(r => r.State == RequirementState.NotMet) >= 9);
        var good = PolicyRequirements.Judge(new PasswordPolicy("x", [new PolicyRule("min", "15", Location.None, ""), new PolicyRule("common", "0", Location.None, "")], "argon2id"), true, true);
        Assert.All(good, r => Assert.Equal(RequirementState.Met, r.State));
        var cut = PolicyRequirements.Judge(new PasswordPolicy("x", [new PolicyRule("min", "15", Location.None, "")], "bcrypt"), true, true);
        Assert.Contains(cut, r => r.State == RequirementState.NotMet && r.Found == "bcrypt reads 72 bytes");
    }

    /// <summary>A least length that stands in a setting is a rule, but nobody can say which passwords it lets through.</summary>
    [Theory]
    [InlineData("if (req.body.password.length < settings.leastLength) { return res.sendStatus(400); }", true)]
    [InlineData("if (settings.leastLength > req.body.password.length) { return res.sendStatus(400); }", true)]
    [InlineData("if (req.body.password.length < 12) { return res.sendStatus(400); }", false)]
    public void A_least_length_may_be_a_setting(string check, bool isSetting)
    {
        var accounts = Of(Express + $"const settings = require('./settings.json');\napp.post('/join', async (req, res) => {{ {check} const hash = await bcrypt.hash(req.body.password, 12); await pool.query('INSERT INTO members (email, password) VALUES ($1, $2)', [req.body.email, hash]); res.redirect('/'); }});");
        var policy = Assert.Single(accounts.Policies);
        Assert.Equal(isSetting ? "" : "12", Assert.Single(policy.Rules, r => r.Kind == "min").Value);
        Assert.Equal(isSetting ? 0 : 10_000, policy.Tried);
        Assert.Equal(isSetting ? "unclear" : "met", policy.Requirements.Single(r => r.Source.EndsWith("V6.2.1", StringComparison.Ordinal)).State);
        using var text = new StringWriter();
        SurfaceReport.Journeys(accounts, text);
        Assert.Contains(isSetting ? "min as a setting says; how many of the common ones are taken is not known" : "min 12; ", text.ToString(), StringComparison.Ordinal);
    }

    /// <summary>Files that come to the same code for every step are one journey.</summary>
    [Fact]
    public void The_same_code_behind_several_addresses_is_one_journey()
    {
        const string SignIn = "<?php if ($_SERVER['REQUEST_METHOD'] === 'POST') { $member = find_member($pdo, $_POST['email']); if ($member && password_verify($_POST['password'], $member['password'])) { session_regenerate_id(true); $_SESSION['member'] = $member['id']; header('Location: /'); exit; } }";
        var journeys = Auditor.Run(
            ("common.php", SignIn), ("index.php", "<?php require 'common.php'; echo (int) $_GET['page'];"), ("news.php", "<?php require 'common.php'; echo (int) $_GET['page'];"), ("schema.sql", Members),
            ("find.php", "<?php function find_member(PDO $pdo, $email) { $s = $pdo->prepare('SELECT id, password FROM members WHERE email = ?'); $s->execute([$email]); return $s->fetch(); }")).Accounts.Journeys;
        Assert.Contains(", and ", Assert.Single(journeys, j => j.Kind == "signIn").Address, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("if (!member) { return res.render('forgot', { message: 'unknown_member' }); }", "absent")]
    [InlineData("if (!member) { return res.render('forgot', { message: 'No member has this address.' }); }", "absent")]
    [InlineData("if (!member) { return res.redirect('/sent'); }", "shown")]
    [InlineData("", "shown")]
    public void Asking_for_a_new_password_may_tell_who_is_a_member(string branch, string state)
    {
        var accounts = Of(Express + $$"""
            app.post('/forgot', async (req, res) => {
              const member = (await pool.query('SELECT id FROM members WHERE email = $1', [req.body.email])).rows[0];
              {{branch}}
              const token = crypto.randomBytes(32).toString('hex');
              await pool.query('UPDATE members SET reset_token = $1 WHERE id = $2', [crypto.createHash('sha256').update(token).digest('hex'), member && member.id]);
              await sendMail(req.body.email, token);
              res.redirect('/sent');
            });
            """);
        Assert.Equal(state, Step(accounts, "recover", "same answer").State);
    }

    [Fact]
    public void The_whole_application_is_written_as_one_document()
    {
        var about = Auditor.Demo.About;
        var document = System.Text.Json.Nodes.JsonNode.Parse(SurfaceReport.Json(about.Surface, about.Accounts!))!;
        Assert.Equal(about.Accounts!.Journeys.Count, document["journeys"]!.AsArray().Count);
        Assert.Equal(about.Surface.Entries.Count, document["entries"]!.AsArray().Count);
        Assert.Equal(about.Accounts.Policies.Count, document["policies"]!.AsArray().Count);
        Assert.NotNull(document["everywhere"]);
    }

    [Fact]
    public void What_is_kept_comes_back_the_same()
    {
        var about = Auditor.Demo.About;
        Assert.Equal(about.Write(), ReportedApplication.Read(about.Write())!.Write());
        using var text = new StringWriter();
        SurfaceReport.Journeys(about.Accounts!, text);
        Assert.Contains("Change password  PATCH /api/members/me/password", text.ToString(), StringComparison.Ordinal);
    }

    private static ReportedAccounts Of(string code) => Auditor.Run(("app.js", code), ("schema.sql", Members)).Accounts;

    private static ReportedJourney Journey(ReportedAccounts accounts, string kind) => accounts.Journeys.First(j => j.Kind == kind);

    private static (string State, string Text) Step(ReportedAccounts accounts, string kind, string name) => Journey(accounts, kind).Steps.Where(s => s.Name == name).Select(s => (s.State, s.Text)).Single();

    [Fact]
    public void Devise_brings_the_journeys_of_its_modules()
    {
        var journeys = Auditor.Run(("app/models/user.rb", """
            class User < ApplicationRecord
              devise :database_authenticatable, :registerable, :recoverable, :validatable, :lockable
            end
            """)).About!.Accounts!.Journeys;
        Assert.Equal(["register", "signIn", "signOut", "recover", "changePassword"], journeys.Select(j => j.Kind));
        var signIn = journeys[1].Steps.ToDictionary(s => s.Name);
        Assert.Equal("shown", signIn["throttled"].State);
        Assert.Equal("absent", signIn["status checked"].State);
        Assert.Equal("absent", journeys[0].Steps.Single(s => s.Name == "confirmed").State);
        Assert.Equal("absent", signIn["same answer"].State);
    }

    [Theory]
    [InlineData("django.contrib.auth.urls", 4)]
    [InlineData("register.urls", 0)]
    public void Djangos_account_pages_come_with_their_addresses(string included, int count) => Assert.Equal(count, Auditor.Run(("site/urls.py", $$"""
        from django.urls import include, path
        urlpatterns = [
            path("accounts/", include("{{included}}")),
        ]
        """)).About!.Accounts!.Journeys.Count);
}
