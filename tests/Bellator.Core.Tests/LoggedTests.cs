namespace Bellator.Core.Tests;

/// <summary>Whole forms, headers and records where logs and sessions keep them. That headers carry tokens and forms passwords is common practice, with no source.</summary>
public sealed class LoggedTests
{
    private const string Express = "const express = require('express'); const app = express(); app.use(express.json());\nconst logger = require('pino')();\n";

    [Theory]
    [InlineData("app.post('/in', (req, res) => { logger.info({ body: req.body }, 'in'); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { console.log('in ' + JSON.stringify(req.body, null, 2)); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { const { email, password } = req.body; console.log(`in ${JSON.stringify(req.body)}`); check(email, password); res.end(); });")]
    [InlineData("app.use((req, res, next) => { console.log(req.method, req.url, req.body); next(); });\napp.post('/in', (req, res) => { check(req.body.password); res.end(); });")]
    [InlineData("function told(what) { require('winston').info(what); }\napp.post('/in', (req, res) => { told(req.body); check(req.body.password); res.end(); });")]
    public void A_form_with_a_password_goes_into_the_log_of_Node(string code) => Assert.Contains("passwords/logged", Found(("app.js", Express + code)));

    [Theory]
    [InlineData("app.post('/note', (req, res) => { console.log(req.body); save(req.body.text); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { const { password, ...rest } = req.body; logger.info(rest); check(password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { console.log({ ...req.body, password: '***' }); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { const b = Object.assign({}, req.body); delete b.password; console.log(b); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { console.log(Object.keys(req.body), req.body.email, !!req.body, typeof req.body); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { console.log(req.body[req.params.field]); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/in', (req, res) => { console.log(req.query); check(req.body.password); res.end(); });")]
    [InlineData("app.post('/note', (req, res) => { console.log(req.body); res.end(); });\napp.post('/in', (req, res) => { check(req.body.password); res.end(); });")]
    public void Nothing_secret_goes_into_the_log_of_Node(string code) => Assert.DoesNotContain("passwords/logged", Found(("app.js", Express + code)));

    [Theory]
    [InlineData("a.php", "<?php error_log(print_r($_POST, true)); check($_POST['password']);", true)]
    [InlineData("a.php", "<?php error_log('in ' . json_encode($_POST)); check($_POST['password']);", true)]
    [InlineData("a.php", "<?php error_log($_POST['email']); error_log($_POST[$name]); check($_POST['password']);", false)]
    [InlineData("a.py", "import logging\nfrom flask import Flask, request\napp = Flask(__name__)\n@app.post('/in')\ndef enter():\n    app.logger.info('in %s', request.form.to_dict())\n    check(request.form['password'])\n", true)]
    [InlineData("a.py", "import logging\nfrom flask import Flask, request\napp = Flask(__name__)\nlog = logging.getLogger(__name__)\n@app.post('/in')\ndef enter():\n    log.info('in %s', {k: v for k, v in request.json.items() if k != 'password'})\n    check(request.json['password'])\n", false)]
    [InlineData("a.py", "import logging\nfrom fastapi import FastAPI\nfrom pydantic import BaseModel\nlog = logging.getLogger(__name__)\napp = FastAPI()\nclass Entry(BaseModel):\n    email: str\n    password: str\n@app.post('/in')\nasync def enter(body: Entry):\n    log.info(f'in {body.dict()}')\n    check(body.password)\n", true)]
    [InlineData("a.rb", "class SessionsController < ApplicationController\n  def create\n    logger.debug(\"in: #{params}\")\n    check(params[:password])\n  end\nend\n", true)]
    [InlineData("a.cs", "public class Entry { public string Password { get; set; } }\n[ApiController, Route(\"in\")] public class C(ILogger<C> log) : ControllerBase { [HttpPost] public IActionResult In([FromBody] Entry entry) { log.LogInformation(\"in {@Entry}\", entry); return Ok(); } }", true)]
    [InlineData("a.cs", "public class Entry { public string Password { get; set; } }\n[ApiController, Route(\"in\")] public class C(ILogger<C> log) : ControllerBase { [HttpPost] public IActionResult In([FromBody] Entry entry) { log.LogInformation(\"in {Entry}\", entry); return Ok(); } }", false)]
    public void Other_languages(string path, string code, bool isFound) => Assert.Equal(isFound, Found((path, code)).Contains("passwords/logged"));

    [Theory]
    [InlineData("app.get('/a', (req, res) => { console.log(JSON.stringify(req.headers)); res.end(); });", true)]
    [InlineData("app.get('/a', (req, res) => { logger.info({ headers: req.headers }); res.end(); });", true)]
    [InlineData("app.get('/a', (req, res) => { console.log(`auth ${req.headers.authorization}`); res.end(); });", true)]
    [InlineData("app.get('/a', (req, res) => { console.log(req.get('Authorization')); res.end(); });", true)]
    [InlineData("app.get('/a', (req, res) => { console.log(req.cookies.session_id); res.end(); });", true)]
    [InlineData("app.use(require('morgan')(':method :url :req[authorization]'));", true)]
    [InlineData("app.use(require('morgan')(':method :url :req[user-agent] :res[content-length]'));", false)]
    [InlineData("app.use(require('morgan')('combined'));", false)]
    [InlineData("app.get('/a', (req, res) => { logger.info({ headers: { ...req.headers, authorization: '-', cookie: undefined } }); res.end(); });", false)]
    [InlineData("app.get('/a', (req, res) => { console.log(req.headers['x-forwarded-for'], req.get('user-agent'), req.cookies.theme); res.end(); });", false)]
    [InlineData("app.get('/a', (req, res) => { console.log(req.headers[req.query.h], Boolean(req.headers.authorization), req.headers.authorization ? 'yes' : 'no'); res.end(); });", false)]
    [InlineData("app.get('/a', (req, res) => { console.log(require('crypto').createHash('sha256').update(req.headers.authorization).digest('hex')); res.end(); });", false)]
    public void Tokens_in_logs(string code, bool isFound) => Assert.Equal(isFound, Found(("app.js", Express + code)).Contains("sessions/token-logged"));

    private const string Members = "create table members (id int primary key, email text, password_hash varchar(255));";

    [Theory]
    [InlineData("$_SESSION['member'] = $row;", true)]
    [InlineData("keep($row); function keep($who) { $_SESSION['member'] = $who; }", true)]
    [InlineData("$_SESSION['member'] = json_encode($row);", true)]
    [InlineData("$_SESSION['member'] = $row['id'];", false)]
    [InlineData("unset($row['password_hash']); $_SESSION['member'] = $row;", false)]
    [InlineData("$_SESSION['member'] = ['id' => $row['id'], 'email' => $row['email']];", false)]
    public void The_record_of_the_account_is_kept_in_the_session(string kept, bool isFound) => Assert.Equal(isFound, Found(
        ("schema.sql", Members),
        ("in.php", "<?php session_start(); $st = $pdo->prepare('SELECT * FROM members WHERE email = ?'); $st->execute([$_POST['email']]); $row = $st->fetch(); if (password_verify($_POST['password'], $row['password_hash'])) { session_regenerate_id(true); " + kept + " }")).Contains("passwords/in-session"));

    /// <summary>A function without a body has no instructions, and stands somewhere all the same.</summary>
    [Fact]
    public void A_handler_without_a_body_breaks_no_check() =>
        Assert.DoesNotContain(Auditor.Run(("1.cs", "class r(SignInManager<>signIn:Controller{[HttpPost(n][ForgeryT]public t n(n{r t signIn.PasswordSignInAsync(;}g d{{g.}}[HttpPost][Authorize]public a c()}")).Notes, n => n.Text.Contains("internal error", StringComparison.Ordinal));

    private static List<string> Found(params (string, string)[] files) => [.. Auditor.Run(files).Findings.Select(f => f.CheckId)];
}
