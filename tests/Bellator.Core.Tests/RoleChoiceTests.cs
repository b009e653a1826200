namespace Bellator.Core.Tests;

/// <summary>Roles that whoever sends the request chooses, and steps that are named for checks and check nothing.</summary>
public sealed class RoleChoiceTests
{
    private const string Express = "const express = require('express'), session = require('express-session'), url = require('url'); const { MongoClient } = require('mongodb');\nconst app = express(); app.use(express.json()); app.use(session({ secret: process.env.KEY }));\n"
        + "const db = new MongoClient('mongodb://x').db('register'); const members = db.collection('members');\n"
        + "const signedIn = (req, res, next) => { if (!req.session.user) { return res.redirect('/in'); } next(); };\nconst admin = (req, res, next) => { if (!req.session.user || req.session.user.role !== 'admin') { return res.status(403).end(); } next(); };\n";

    [Theory]
    [InlineData("app.post('/a', signedIn, (req, res) => { const isAdmin = req.body.admin === 'on' ? 'true' : 'false'; members.updateOne({ _id: req.session.user }, { $set: { isAdmin } }); res.end(); });", true)]
    [InlineData("app.post('/a', signedIn, (req, res) => { let role = 'user'; if (req.body.admin) { role = 'admin'; } members.insertOne({ name: req.body.name, role: role }); res.end(); });", true)]
    [InlineData("app.post('/a', signedIn, (req, res) => { let isAdmin = false; if (url.parse(req.header('Referer')).path === '/setup') { isAdmin = true; } const doc = { name: req.body.name, isAdmin }; members.findOne({ name: String(req.body.name) }, (e, known) => { if (!known) { members.insertOne(doc); } }); res.end(); });", true)]
    [InlineData("app.post('/a', admin, (req, res) => { const isAdmin = req.body.admin === 'on' ? 'true' : 'false'; members.updateOne({ _id: req.body.id }, { $set: { isAdmin } }); res.end(); });", false)]
    [InlineData("app.post('/a', signedIn, (req, res) => { if (req.session.user.role !== 'admin') { return res.status(403).end(); } const isAdmin = req.body.admin === 'on' ? 'true' : 'false'; members.updateOne({ _id: req.body.id }, { $set: { isAdmin } }); res.end(); });", false)]
    [InlineData("app.post('/a', signedIn, (req, res) => { const isAdmin = req.session.first ? 'true' : 'false'; members.updateOne({ _id: req.session.user }, { $set: { isAdmin } }); res.end(); });", false)]
    [InlineData("app.post('/a', signedIn, (req, res) => { members.findOne({ _id: req.session.user }, (e, known) => { let isAdmin = req.body.admin === 'on'; if (known) { isAdmin = known.isAdmin; } members.updateOne({ _id: req.session.user }, { $set: { isAdmin } }); res.end(); }); });", false)]
    [InlineData("app.post('/a', signedIn, (req, res) => { const news = req.body.news === 'on' ? 'true' : 'false'; members.updateOne({ _id: req.session.user }, { $set: { news } }); res.end(); });", false)]
    public void Who_decides_about_the_role(string code, bool isFound) =>
        Assert.Equal(isFound, Auditor.Run(("app.js", Express + code + "\n")).Findings.Any(f => f.CheckId == "records/role-can-be-set"));

    [Theory]
    [InlineData("exports.checkAccess = (req, res, next) => { console.log(req.url); next(); };", "checkAccess", true)]
    [InlineData("exports.requireAdmin = (req, res, next) => next();", "requireAdmin", true)]
    [InlineData("exports.requireAdmin = (req, res, next) => { if (!req.session.user.isAdmin) { return res.status(403).end(); } next(); };", "requireAdmin", false)]
    [InlineData("exports.requireAdmin = (req, res, next) => { somewhere.check(req, res, next); };", "requireAdmin", false)]
    [InlineData("exports.authenticate = (req, res, next) => { req.user = find(req.headers.authorization); next(); };", "authenticate", false)]
    [InlineData("exports.accessInfo = (req, res, next) => { res.locals.info = 1; next(); };", "accessInfo", false)]
    [InlineData("exports.addHeaders = (req, res, next) => { res.set('x-a', '1'); next(); };", "addHeaders", false)]
    public void A_check_in_name_only(string step, string name, bool isFound)
    {
        var result = Auditor.Run(("steps.js", step + "\n"), ("app.js", Express + $"app.get('/a', signedIn, require('./steps').{name}, (req, res) => res.json(1));\n"));
        Assert.Equal(isFound, result.Findings.Any(f => f.CheckId == "records/guard-refuses-nobody"));
    }

    [Fact]
    public void A_name_does_not_sign_anybody_in()
    {
        var result = Auditor.Run(("steps.js", "exports.isAuthenticated = (req, res, next) => { next(); };\n"), ("app.js", Express + "app.get('/a', require('./steps').isAuthenticated, (req, res) => res.json(1));\n"));
        Assert.Equal("notNeeded", result.Surface.Entries.Single(e => e.Path == "/a").SignIn);
    }
}
