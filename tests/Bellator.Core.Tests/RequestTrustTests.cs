namespace Bellator.Core.Tests;

/// <summary>
/// What an application takes from a request without asking: the host of its links, the key that tries are counted by, a secret that is
/// not there, a change by a link. The weak forms stand beside the correct ones. CWE-640, 348, 287 and 352; that a browser sends cookies
/// with a followed link under SameSite=Lax is RFC 6265bis, 5.2, from memory.
/// </summary>
public sealed class RequestTrustTests
{
    private const string Express = "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const crypto = require('crypto'); const mail = require('nodemailer').createTransport({}); const limit = require('express-rate-limit');\n";

    [Theory]
    [InlineData("app.post('/forgot', async (req, res) => { await mail.sendMail({ to: req.body.email, text: `Choose a password: https://${req.headers.host}/reset#x` }); res.end(); });", true)]
    [InlineData("app.post('/forgot', async (req, res) => { await mail.sendMail({ to: req.body.email, text: 'Choose a password: ' + req.get('origin') + '/reset' }); res.end(); });", true)]
    [InlineData("const send = (to, text) => mail.sendMail({ to, text }); app.post('/forgot', async (req, res) => { await send(req.body.email, `${req.protocol}://${req.hostname}/reset`); res.end(); });", true)]
    [InlineData("app.post('/forgot', async (req, res) => { await mail.sendMail({ to: req.body.email, text: `Choose a password: ${process.env.BASE_URL}/reset#x` }); res.end(); });", false)]
    [InlineData("app.post('/forgot', async (req, res) => { await mail.sendMail({ to: req.body.email, text: `Choose a password: https://register.fernhollow.example/reset?from=${req.headers.host}` }); res.end(); });", false)]
    [InlineData("app.post('/forgot', async (req, res) => { await mail.sendMail({ to: req.body.email, text: 'From browser ' + req.get('user-agent') }); res.end(); });", false)]
    public void The_host_of_a_mailed_link(string code, bool isWeak) => Check("sessions/link-host-from-request", isWeak, ("app.js", Express + code));

    [Theory]
    [InlineData("app.py", "from flask import Flask, request\nfrom flask_mail import Mail, Message\napp = Flask(__name__)\nmail = Mail(app)\n@app.post('/forgot')\ndef forgot():\n    mail.send(Message(subject='New password', recipients=[request.form['email']], body=f'Choose one: {request.host_url}reset/x'))\n    return ''\n", true)]
    [InlineData("app.py", "from flask import Flask, request\nfrom flask_mail import Mail, Message\napp = Flask(__name__)\nmail = Mail(app)\n@app.post('/forgot')\ndef forgot():\n    mail.send(Message(subject='New password', recipients=[request.form['email']], body=f'Choose one: {app.config[\"SITE\"]}/reset/x'))\n    return ''\n", false)]
    [InlineData("forgot.php", "<?php mail($_POST['email'], 'New password', 'Choose one: https://' . $_SERVER['HTTP_HOST'] . '/reset.php');", true)]
    [InlineData("forgot.php", "<?php mail($_POST['email'], 'New password', 'Choose one: https://register.fernhollow.example/reset.php');", false)]
    [InlineData("app/controllers/a_controller.rb", "class AController < ApplicationController\n  def forgot\n    Pony.mail(to: params[:email], body: \"Choose one: http://#{request.host_with_port}/reset\")\n  end\nend\n", true)]
    [InlineData("A.cs", "using Microsoft.AspNetCore.Mvc; using System.Net.Mail;\npublic class A(SmtpClient smtp) : Controller { [HttpPost(\"forgot\")] public async Task<IActionResult> Forgot(string email) { await smtp.SendMailAsync(\"a@fernhollow.example\", email, \"New password\", Url.Action(\"Reset\", \"A\", null, Request.Scheme)!); return Ok(); } }", true)]
    [InlineData("A.cs", "using Microsoft.AspNetCore.Mvc; using System.Net.Mail;\npublic class A(SmtpClient smtp, IConfiguration settings) : Controller { [HttpPost(\"forgot\")] public async Task<IActionResult> Forgot(string email) { await smtp.SendMailAsync(\"a@fernhollow.example\", email, \"New password\", settings[\"Site\"] + Url.Action(\"Reset\", \"A\")); return Ok(); } }", false)]
    public void The_host_of_a_mailed_link_in_other_languages(string path, string code, bool isWeak) => Check("sessions/link-host-from-request", isWeak, (path, code));

    [Theory]
    [InlineData("limit({ keyGenerator: req => req.get('x-device-id') })", true)]
    [InlineData("limit({ keyGenerator: req => req.headers['x-forwarded-for'] ?? req.ip })", true)]
    [InlineData("limit({ keyGenerator: req => req.ip })", false)]
    [InlineData("limit({ keyGenerator: req => String(req.body.email).toLowerCase() })", false)]
    [InlineData("limit({ limit: 5 })", false)]
    public void The_key_of_a_rate_limit(string limiter, bool isWeak) => Check("sessions/throttle-key-from-client", isWeak, ("app.js", Express + $"app.post('/sign-in', {limiter}, (req, res) => res.end());"));

    [Theory]
    [InlineData("http.Request.Headers[\"X-Real-IP\"].FirstOrDefault() ?? \"none\"", true)]
    [InlineData("http.Connection.RemoteIpAddress?.ToString() ?? \"none\"", false)]
    public void The_key_of_a_partition(string key, bool isWeak) => Check("sessions/throttle-key-from-client", isWeak, ("Program.cs",
        $"using System.Threading.RateLimiting;\nvar builder = WebApplication.CreateBuilder(args);\nbuilder.Services.AddRateLimiter(o => {{ o.AddPolicy(\"tries\", http => RateLimitPartition.GetFixedWindowLimiter({key}, _ => new FixedWindowRateLimiterOptions())); }});\n"));

    [Theory]
    [InlineData("a.js", Express + "app.post('/hook', (req, res) => { if (req.get('x-hook-key') !== process.env.HOOK_KEY) return res.sendStatus(401); res.end(); });", true)]
    [InlineData("a.js", Express + "const config = { hookKey: process.env.HOOK_KEY }; app.post('/hook', (req, res) => { if (req.get('x-hook-key') !== config.hookKey) return res.sendStatus(401); res.end(); });", true)]
    [InlineData("a.js", Express + "if (!process.env.HOOK_KEY) throw new Error('no key'); app.post('/hook', (req, res) => { if (req.get('x-hook-key') !== process.env.HOOK_KEY) return res.sendStatus(401); res.end(); });", false)]
    [InlineData("a.js", Express + "app.post('/hook', (req, res) => { const sent = req.get('x-hook-key'); if (!sent || sent !== process.env.HOOK_KEY) return res.sendStatus(401); res.end(); });", false)]
    [InlineData("a.js", Express + "app.post('/hook', (req, res) => { if (String(req.get('x-hook-key')) !== process.env.HOOK_KEY) return res.sendStatus(401); res.end(); });", false)]
    [InlineData("a.js", Express + "app.post('/hook', (req, res) => { if (req.get('x-mode') !== process.env.MODE) return res.sendStatus(401); res.end(); });", false)]
    [InlineData("a.py", "import os\nfrom flask import Flask, request, abort\napp = Flask(__name__)\n@app.post('/hook')\ndef hook():\n    if request.headers.get('X-Hook-Key') != os.environ.get('HOOK_KEY'):\n        abort(401)\n    return ''\n", true)]
    [InlineData("a.py", "import os\nfrom flask import Flask, request, abort\napp = Flask(__name__)\n@app.post('/hook')\ndef hook():\n    if request.headers.get('X-Hook-Key') != os.environ['HOOK_KEY']:\n        abort(401)\n    return ''\n", false)]
    [InlineData("app/controllers/hooks_controller.rb", "class HooksController < ApplicationController\n  def returned\n    head :unauthorized unless request.headers['X-Hook-Key'] == ENV['HOOK_KEY']\n  end\nend\n", true)]
    [InlineData("app/controllers/hooks_controller.rb", "class HooksController < ApplicationController\n  def returned\n    head :unauthorized unless request.headers['X-Hook-Key'] == ENV.fetch('HOOK_KEY')\n  end\nend\n", false)]
    [InlineData("A.cs", "using Microsoft.AspNetCore.Mvc;\npublic class A(IConfiguration settings) : Controller { [HttpPost(\"hook\")] public IActionResult Hook() { if (Request.Headers[\"X-Hook\"] != settings[\"Hook:Secret\"]) return Unauthorized(); return Ok(); } }", true)]
    [InlineData("A.cs", "using Microsoft.AspNetCore.Mvc;\npublic class A(IConfiguration settings) : Controller { [HttpPost(\"hook\")] public IActionResult Hook() { var sent = Request.Headers[\"X-Hook\"].ToString(); if (sent != settings[\"Hook:Secret\"]) return Unauthorized(); return Ok(); } }", false)]
    public void A_secret_that_is_not_there(string path, string code, bool isWeak) => Check("sessions/missing-secret-accepted", isWeak, (path, code));

    private const string Signed = "const mine = (req, res, next) => { if (!req.session.userId) { return res.sendStatus(401); } next(); };\n";

    [Theory]
    [InlineData("app.get('/swarms/:id/remove', mine, async (req, res) => { await pool.query('DELETE FROM swarms WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId]); res.redirect('/swarms'); });", true)]
    [InlineData("app.all('/swarms/:id/close', mine, async (req, res) => { await pool.query('UPDATE swarms SET closed = true WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId]); res.redirect('/swarms'); });", true)]
    [InlineData("app.post('/swarms/:id/remove', mine, async (req, res) => { await pool.query('DELETE FROM swarms WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId]); res.redirect('/swarms'); });", false)]
    [InlineData("app.get('/swarms/:id', mine, async (req, res) => { await pool.query('UPDATE swarms SET seen_at = now() WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId]); res.json((await pool.query('SELECT note FROM swarms WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId])).rows); });", false)]
    [InlineData("app.all('/swarms/:id/remove', mine, async (req, res) => { if (req.method === 'POST') { await pool.query('DELETE FROM swarms WHERE id = $1 AND keeper_id = $2', [req.params.id, req.session.userId]); } res.redirect('/swarms'); });", false)]
    [InlineData("app.get('/mine', mine, async (req, res) => { await pool.query('DELETE FROM drafts WHERE keeper_id = $1', [req.session.userId]); res.end(); });", false)]
    public void A_change_by_a_link(string route, bool isWeak) => Check("sessions/changed-by-get", isWeak, ("app.js", Express + Signed + route));

    private const string Rota = "using Microsoft.AspNetCore.Authorization; using Microsoft.AspNetCore.Mvc;\npublic class Shift { public int Id { get; set; } }\n[Authorize]\npublic class RotaController : Controller {\n  [HttpPost, ValidateAntiForgeryToken] public IActionResult Take(int id) => Ok();\n";

    [Theory]
    [InlineData("A.cs", Rota + "  [HttpPost] public IActionResult Release(int id) => Ok();\n}", true)]
    [InlineData("A.cs", Rota + "  [HttpPost, IgnoreAntiforgeryToken] public IActionResult Release(int id) => Ok();\n}", true)]
    [InlineData("A.cs", Rota + "  [HttpPost, ValidateAntiForgeryToken] public IActionResult Release(int id) => Ok();\n}", false)]
    [InlineData("A.cs", Rota + "  [HttpGet] public IActionResult Month(int id) => Ok();\n}", false)]
    [InlineData("views.py", "from django.views.decorators.csrf import csrf_exempt\nfrom django.contrib.auth.decorators import login_required\n@csrf_exempt\n@login_required\ndef take(request):\n    request.user.profile.save()\n", true)]
    [InlineData("views.py", "from django.views.decorators.csrf import csrf_exempt\n@csrf_exempt\ndef hook(request):\n    print(request.body)\n", false)]
    [InlineData("views.py", "from django.contrib.auth.decorators import login_required\n@login_required\ndef take(request):\n    request.user.profile.save()\n", false)]
    public void Endpoints_without_the_check_against_forged_requests(string path, string code, bool isWeak) =>
        Check("sessions/forgery", isWeak, (path, code), ("urls.py", "from django.urls import path\nimport views\nurlpatterns = [path('take', getattr(views, 'take', None)), path('hook', views.hook), path('take', views.take)]\n"));

    private static void Check(string check, bool isWeak, params (string Path, string Code)[] files) =>
        Assert.Equal(isWeak, Auditor.Run(files).Findings.Any(f => f.CheckId == check));
}
