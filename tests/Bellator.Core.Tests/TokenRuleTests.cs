namespace Bellator.Core.Tests;

/// <summary>
/// How a signed token is verified: by which algorithm (RFC 8725, 2.1 and 3.1; RFC 7518, 3.1), for whom (RFC 8725, 3.9), until when, and from where it
/// is taken (CWE-598; OWASP ASVS 5.0, V14.2.1). What libraries do by default is from their documentation, from memory.
/// </summary>
public sealed class TokenRuleTests
{
    private const string Algorithm = "sessions/token-algorithm-open";
    private const string Checks = "sessions/token-checks-disabled";
    private const string Address = "sessions/token-in-url";
    private const string Unverified = "sessions/token-not-verified";
    private const string Expiry = "sessions/no-expiry";

    [Theory]
    [InlineData("jwt.verify(token, key, { algorithms: ['RS256', 'HS256'] })", Algorithm)]
    [InlineData("jwt.verify(token, key, { algorithms: ['HS256', 'HS512'] })", null)]
    [InlineData("jwt.verify(token, key, { algorithms: ['RS256', 'ES256'] })", null)]
    [InlineData("jwt.verify(token, key, { algorithms: [jwt.decode(token, { complete: true }).header.alg] })", Algorithm)]
    public void Algorithms_in_JavaScript(string call, string? check) =>
        Assert.Equal(check is null ? [] : [check], Of(("t.js", $"const jwt = require('jsonwebtoken'); const key = process.env.KEY;\nexports.read = function (token) {{ return {call}; }};\n"), [Algorithm]));

    [Theory]
    [InlineData("jwt.decode(token, KEY, algorithms=['RS256', 'HS256'])", Algorithm)]
    [InlineData("jwt.decode(token, KEY, algorithms=[jwt.get_unverified_header(token)['alg']])", Algorithm)]
    [InlineData("jwt.decode(token, KEY, algorithms=['RS256'], options={'verify_aud': False})", Checks)]
    [InlineData("jwt.decode(token, KEY, algorithms=['RS256'], audience='register')", null)]
    [InlineData("jwt.decode(token, keys[jwt.get_unverified_header(token)['kid']], algorithms=['RS256'], audience='register')", null)]
    public void In_Python(string call, string? check) =>
        Assert.Equal(check is null ? [] : [check], Of(("t.py", $"import jwt\nKEY = open('key').read()\nkeys = {{}}\ndef read(token):\n    return {call}\n"), [Algorithm, Checks]));

    private static string Scheme(string options) => $$"""
        using Microsoft.AspNetCore.Authentication.JwtBearer;
        using Microsoft.IdentityModel.Tokens;
        var builder = WebApplication.CreateBuilder(args);
        builder.Services.AddAuthentication().AddJwtBearer("register", options => { {{options}} });
        builder.Build().Run();
        """;

    [Theory]
    [InlineData("options.Authority = \"https://id.example\"; options.TokenValidationParameters = new TokenValidationParameters { ValidateAudience = false };", Checks)]
    [InlineData("options.Authority = \"https://id.example\"; options.Audience = \"register\";", null)]
    [InlineData("options.TokenValidationParameters = new TokenValidationParameters { ValidateAudience = false, IssuerSigningKey = Keys.Own };", null)]
    [InlineData("options.TokenValidationParameters = new TokenValidationParameters { SignatureValidator = (token, _) => new JsonWebToken(token) };", Unverified)]
    [InlineData("options.TokenValidationParameters = new TokenValidationParameters { SignatureValidator = (token, p) => Keys.VerifySignature(token, p) };", null)]
    [InlineData("options.Events = new JwtBearerEvents { OnMessageReceived = context => { context.Token = context.Request.Query[\"access_token\"]; return Task.CompletedTask; } };", Address)]
    [InlineData("options.Events = new JwtBearerEvents { OnMessageReceived = context => { context.Token = context.Request.Cookies[\"session\"]; return Task.CompletedTask; } };", null)]
    public void Of_a_scheme(string options, string? check) => Assert.Equal(check is null ? [] : [check], Of(("Program.cs", Scheme(options)), [Checks, Unverified, Address]));

    [Theory]
    [InlineData("", Expiry)]
    [InlineData("Expires = DateTime.UtcNow.AddHours(1),", null)]
    public void Made_without_an_end(string end, string? check) => Assert.Equal(check is null ? [] : [check], Of(("Tokens.cs", $$"""
        using Microsoft.IdentityModel.JsonWebTokens;
        using Microsoft.IdentityModel.Tokens;
        public class Tokens(SigningCredentials credentials) {
          public string Tablet() {
            var handler = new JsonWebTokenHandler { SetDefaultTimesOnTokenCreation = false };
            return handler.CreateToken(new SecurityTokenDescriptor { Audience = "register", {{end}} SigningCredentials = credentials });
          }
        }
        """), [Expiry]));

    private const string Guarded = "const app = require('express')(); const jwt = require('jsonwebtoken');\nconst read = token => jwt.verify(token, process.env.KEY, { algorithms: ['HS256'] });\napp.use('/api', (req, res, next) => { try { req.user = read(req.get('authorization').slice(7)); next(); } catch { res.sendStatus(401); } });\n";

    [Theory]
    [InlineData("app.get('/events', (req, res) => { const who = read(String(req.query.access)); res.json({ who: who.sub }); });", Address)]
    [InlineData("app.get('/events', (req, res) => { const who = read(req.get('x-access')); res.json({ who: who.sub }); });", null)]
    public void Where_others_send_it_in_a_header(string route, string? check) => Assert.Equal(check is null ? [] : [check], Of(("app.js", Guarded + route), [Address]));

    /// <summary>The link of a mail has nowhere else to put it.</summary>
    [Fact]
    public void Link_of_a_mail() => Assert.Empty(Of(("app.js", Guarded + "const confirm = token => jwt.verify(token, process.env.MAIL_KEY, { algorithms: ['HS256'] });\napp.get('/confirm', (req, res) => { res.json({ ok: confirm(req.query.token).sub }); });"), [Address]));

    private static IEnumerable<string> Of((string Path, string Code) file, string[] checks) => Auditor.Run(file).Findings.Select(f => f.CheckId).Where(checks.Contains).Distinct();
}
