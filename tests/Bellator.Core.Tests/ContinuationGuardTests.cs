namespace Bellator.Core.Tests;

/// <summary>Steps on the way that let somebody in by calling what they were given for that, in the ways in which programs write them.</summary>
public sealed class ContinuationGuardTests
{
    private const string Steps = "exports.turned = (req, res, next) => { if (!req.session.user) { res.redirect('/in'); return; } next(); };\nexports.open = (req, res, next) => { next(); };\n";

    [Theory]
    [InlineData("if (req.session.user) { next(); return; } res.redirect('/in');", "signed in")]
    [InlineData("if (req.session.user) { return next(); } res.redirect('/in');", "signed in")]
    [InlineData("if (req.session.user) { next(); } else { res.redirect('/in'); }", "signed in")]
    [InlineData("if (req.session.setup === true) { res.redirect('/setup'); return; } if (req.session.user) { next(); return; } res.redirect('/in');", "signed in")]
    [InlineData("if (req.session && req.session.user) return next(); return res.status(401).end();", "signed in")]
    [InlineData("exports.turned(req, res, next);", "signed in")]
    [InlineData("return exports.turned(req, res, next);", "signed in")]
    [InlineData("if (req.method === 'OPTIONS') { return res.end(); } exports.turned(req, res, next);", "signed in")]
    [InlineData("User.findById(req.session.userId, (err, user) => { if (user) { req.user = user; return next(); } res.redirect('/in'); });", "signed in")]
    [InlineData("if (req.session.user) { setImmediate(() => next()); return; } res.redirect('/in');", "signed in")]
    [InlineData("if (req.session.csrfToken === req.body._csrf) { return next(); } res.status(403).end();", "anybody")]
    [InlineData("next();", "anybody")]
    [InlineData("exports.open(req, res, next);", "anybody")]
    [InlineData("if (req.query.lang) { res.locals.lang = req.query.lang; } next();", "anybody")]
    [InlineData("if (req.session.user) { next(); } res.redirect('/in'); next();", "unclear")]
    [InlineData("somewhere.check(req, res, next);", "unclear")]
    public void Who_gets_by(string body, string expected)
    {
        var application = "const express = require('express'), session = require('express-session'), steps = require('./steps');\nconst app = express(); app.use(session({ secret: process.env.KEY }));\n"
            + "app.get('/hives', steps.tried, (req, res) => { res.json(1); });\n";
        var result = Auditor.Run(("steps.js", Steps + "exports.tried = (req, res, next) => { " + body + " };\n"), ("app.js", application));
        Assert.Equal(expected, result.Surface.Entries.Single(e => e.Path == "/hives").SignIn switch { "needed" => "signed in", "unclear" => "unclear", _ => "anybody" });
    }
}
