namespace Bellator.Core.Tests;

/// <summary>
/// What protects sessions and tokens, switched off or left off, in five languages, each beside code that does it right. Cookie attributes
/// are those of RFC 6265bis, 4.1.2; token checks those of RFC 7519, 4.1 and 7.2, and RFC 8725, 3.1 and 3.10. The defaults of the
/// libraries come from memory of their documentation.
/// </summary>
public sealed class SessionSettingTests
{
    private const string Express = "const app = require('express')(); const session = require('express-session'); const jwt = require('jsonwebtoken'); const crypto = require('crypto');\n";
    private const string Flask = "import os, random, secrets, hmac, jwt\nfrom flask import Flask, request, make_response\napp = Flask(__name__)\n";

    [Theory]
    [InlineData("app.use(session({ secret: 'windfall', cookie: { secure: true } }));", "sessions/secret-in-code")]
    [InlineData("app.use(session({ secret: process.env.SECRET || 'windfall', cookie: { secure: true } }));", "sessions/secret-in-code")]
    [InlineData("const key = process.env.SECRET ?? 'windfall'; app.use(session({ secret: key, cookie: { secure: true } }));", "sessions/secret-in-code")]
    [InlineData("app.use(session({ secret: process.env.SECRET, cookie: { secure: true } }));", null)]
    [InlineData("app.use(session({ secret: process.env.SECRET }));", "sessions/cookie-not-secure")]
    [InlineData("app.use(session({ secret: process.env.SECRET, cookie: { secure: false } }));", "sessions/cookie-not-secure")]
    [InlineData("app.use(session({ secret: process.env.SECRET, cookie: { secure: process.env.NODE_ENV === 'production' } }));", null)]
    [InlineData("const options = require('./options'); app.use(session({ secret: process.env.SECRET, ...options }));", null)]
    [InlineData("app.use(session({ secret: process.env.SECRET, cookie: { secure: true, httpOnly: false } }));", "sessions/cookie-readable")]
    [InlineData("app.use(session({ secret: process.env.SECRET, cookie: { secure: true, sameSite: 'none' } }));", "sessions/cookie-cross-site")]
    [InlineData("const options = read('session') || {}; options.store = make(); app.use(session(options));", null)]
    [InlineData("module.exports = options => { options.store = make(); app.use(session(options)); };", null)]
    [InlineData("const options = { store: make() }; options.secret = process.env.SECRET; app.use(session(options));", "sessions/cookie-not-secure")]
    [InlineData("app.get('/a', (req, res) => { res.cookie('token', issue(req), { httpOnly: true }); });", "sessions/cookie-not-secure")]
    [InlineData("app.get('/a', (req, res) => { res.cookie('token', issue(req), { httpOnly: true, secure: true }); });", null)]
    [InlineData("app.get('/a', (req, res) => { res.cookie('token', issue(req), req.app.get('cookies')); });", null)]
    [InlineData("app.get('/a', (req, res) => { res.cookie('theme', req.query.theme); });", null)]
    [InlineData("app.get('/a', (req, res) => { const session = issue(req); res.cookie('k', session, { httpOnly: true }); });", "sessions/cookie-not-secure")]
    [InlineData("module.exports = t => jwt.verify(t, process.env.KEY);", "sessions/token-algorithm-open")]
    [InlineData("module.exports = t => jwt.verify(t, process.env.KEY, { algorithms: ['HS256'] });", null)]
    [InlineData("module.exports = t => jwt.verify(t, process.env.KEY, { algorithms: ['HS256'], ignoreExpiration: true });", "sessions/token-checks-disabled")]
    [InlineData("app.use((req, res, next) => { req.user = jwt.decode(req.get('token')).sub; next(); });", "sessions/token-not-verified")]
    [InlineData("function peek(t) { return jwt.decode(t).iss; } module.exports = t => jwt.verify(t, keys(peek(t)), { algorithms: ['RS256'] });", null)]
    [InlineData("module.exports = id => jwt.sign({ sub: id }, process.env.KEY);", "sessions/no-expiry")]
    [InlineData("module.exports = id => jwt.sign({ sub: id }, process.env.KEY, { expiresIn: '15m' });", null)]
    [InlineData("module.exports = id => jwt.sign({ sub: id, exp: soon() }, process.env.KEY);", null)]
    [InlineData("module.exports = claims => jwt.sign(claims, process.env.KEY);", null)]
    [InlineData("localStorage.setItem('access_token', read());", "sessions/token-in-web-storage")]
    [InlineData("localStorage.setItem('text-size', read());", null)]
    [InlineData("function newToken() { return Math.random().toString(36).slice(2); }", "sessions/predictable-token")]
    [InlineData("function newToken() { return crypto.randomBytes(16).toString('hex'); }", null)]
    [InlineData("function pick(list) { const at = Math.floor(Math.random() * list.length); return list[at]; }", null)]
    [InlineData("app.get('/a', (req, res) => { if (req.get('x-key') !== process.env.API_TOKEN) { return res.sendStatus(403); } res.sendStatus(204); });", "sessions/token-compare-timing")]
    [InlineData("app.get('/a', (req, res) => { if (req.get('x-mode') !== process.env.MODE) { return res.sendStatus(403); } res.sendStatus(204); });", null)]
    public void JavaScript(string code, string? expected) => Check("app.js", Express + code, expected);

    [Theory]
    [InlineData("app.secret_key = 'windfall'", "sessions/secret-in-code")]
    [InlineData("app.config['SECRET_KEY'] = os.environ.get('KEY', 'dev')", "sessions/secret-in-code")]
    [InlineData("app.config['SECRET_KEY'] = os.environ['KEY']", null)]
    [InlineData("app.config['SESSION_COOKIE_SECURE'] = False", "sessions/cookie-not-secure")]
    [InlineData("app.config['SESSION_COOKIE_SECURE'] = True", null)]
    [InlineData("@app.get('/a')\ndef a():\n    answer = make_response('')\n    answer.set_cookie('remember', issue(), secure=True)\n    return answer", "sessions/cookie-readable")]
    [InlineData("@app.get('/a')\ndef a():\n    answer = make_response('')\n    answer.set_cookie('remember', issue(), secure=True, httponly=True)\n    return answer", null)]
    [InlineData("@app.get('/a')\ndef a():\n    answer = make_response('')\n    answer.set_cookie('remember', issue(), **FLAGS)\n    return answer", null)]
    [InlineData("def read(t):\n    return jwt.decode(t, options={'verify_signature': False})", "sessions/token-not-verified")]
    [InlineData("def read(t):\n    return jwt.decode(t, os.environ['KEY'], algorithms=['HS256', 'none'])", "sessions/token-algorithm-open")]
    [InlineData("def read(t):\n    return jwt.decode(t, os.environ['KEY'], algorithms=['HS256'])", null)]
    [InlineData("def make(i):\n    return jwt.encode({'sub': i}, os.environ['KEY'], algorithm='HS256')", "sessions/no-expiry")]
    [InlineData("def make(i):\n    return jwt.encode({'sub': i, 'exp': soon()}, os.environ['KEY'], algorithm='HS256')", null)]
    [InlineData("def make(i):\n    return jwt.encode(payload={'sub': i, 'exp': soon()}, key=os.environ['KEY'], algorithm='HS256')", null)]
    [InlineData("def make():\n    token = str(random.randint(100000, 999999))\n    return token", "sessions/predictable-token")]
    [InlineData("def make():\n    token = secrets.token_hex(16)\n    return token", null)]
    public void Python(string code, string? expected) => Check("app.py", Flask + code + "\n", expected);

    [Theory]
    [InlineData("SESSION_COOKIE_HTTPONLY = False", "sessions/cookie-readable")]
    [InlineData("SESSION_COOKIE_HTTPONLY = True", null)]
    [InlineData("SECRET_KEY = 'django-windfall'", "sessions/secret-in-code")]
    public void Django_settings(string code, string? expected)
    {
        Check("site/settings.py", code + "\n", expected);
        Check("site/hives.py", code + "\n", null);
    }

    [Theory]
    [InlineData("setcookie('remember', $token, time() + 3600, '/');", "sessions/cookie-not-secure")]
    [InlineData("setcookie('remember', $token, time() + 3600, '/', '', true, true);", null)]
    [InlineData("setcookie('remember', $token, ['expires' => time() + 3600, 'secure' => true, 'httponly' => true]);", null)]
    [InlineData("setcookie('remember', $token, ['expires' => time() + 3600, 'secure' => true]);", "sessions/cookie-readable")]
    [InlineData("setcookie('remember', $token, $options);", null)]
    [InlineData("setcookie('remember', $token, secure: true, httponly: true);", null)]
    [InlineData("setcookie('remember', '', time() - 3600, '/');", null)]
    [InlineData("setcookie('language', $language, time() + 3600, '/');", null)]
    [InlineData("session_start(['cookie_secure' => true]);", "sessions/cookie-readable")]
    [InlineData("session_start(['cookie_secure' => true, 'cookie_httponly' => true]);", null)]
    [InlineData("session_start();", null)]
    [InlineData("ini_set('session.cookie_httponly', '0');", "sessions/cookie-readable")]
    [InlineData("ini_set('session.cookie_httponly', '1');", null)]
    [InlineData("$token = md5($email . time()); keep($token);", "sessions/predictable-token")]
    [InlineData("$token = bin2hex(random_bytes(16)); keep($token);", null)]
    [InlineData("$started = time(); keep($started);", null)]
    public void Php(string code, string? expected) => Check("page.php", "<?php\n" + code, expected);

    [Theory]
    [InlineData("config/initializers/session_store.rb", "Rails.application.config.session_store :cookie_store, key: '_hives', httponly: false", "sessions/cookie-readable")]
    [InlineData("config/initializers/session_store.rb", "Rails.application.config.session_store :cookie_store, key: '_hives'", null)]
    [InlineData("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  skip_before_action :verify_authenticity_token\nend", "sessions/forgery")]
    [InlineData("app/controllers/hives_controller.rb", "class HivesController < ApplicationController\n  skip_before_action :require_keeper\nend", null)]
    [InlineData("app/models/keeper.rb", "class Keeper\n  def make\n    self.token = rand(36**8).to_s(36)\n  end\nend", "sessions/predictable-token")]
    [InlineData("app/models/keeper.rb", "class Keeper\n  def make\n    self.token = SecureRandom.hex(16)\n  end\nend", null)]
    public void Ruby(string path, string code, string? expected) => Check(path, code + "\n", expected);

    [Theory]
    [InlineData("var p = new TokenValidationParameters { ValidateLifetime = false };", "sessions/token-checks-disabled")]
    [InlineData("var p = new TokenValidationParameters { ValidateLifetime = true };", null)]
    [InlineData("Response.Cookies.Append(\"token\", issue(), new CookieOptions { HttpOnly = true });", "sessions/cookie-not-secure")]
    [InlineData("Response.Cookies.Append(\"token\", issue(), new CookieOptions { HttpOnly = true, Secure = true });", null)]
    public void CSharp(string code, string? expected) =>
        Check("Hives.cs", "using Microsoft.AspNetCore.Mvc; using Microsoft.IdentityModel.Tokens;\npublic class HivesController : Controller { public IActionResult Index() { " + code + " return Ok(); } }", expected);

    /// <summary>The literal is reported where it stands, once, however often it signs.</summary>
    [Fact]
    public void A_key_in_the_code_is_one_finding_at_its_own_line()
    {
        var result = Auditor.Run(("app.js", Express + "const KEY = process.env.KEY || 'windfall';\nexports.make = id => jwt.sign({ sub: id }, KEY, { expiresIn: '1h' });\nexports.read = t => jwt.verify(t, KEY, { algorithms: ['HS256'] });"));
        Assert.Equal(2, Assert.Single(result.Findings, f => f.CheckId == "sessions/secret-in-code").Region.StartLine);
    }

    private static void Check(string path, string code, string? expected)
    {
        var found = Auditor.Run((path, code)).Findings.Select(f => f.CheckId).Where(c => c.StartsWith("sessions/", StringComparison.Ordinal)).ToHashSet();
        if (expected is null)
        {
            Assert.Empty(found);
        }
        else
        {
            Assert.Contains(expected, found);
        }
    }
}
