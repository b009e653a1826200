using Bellator.Audit.Checks;

namespace Bellator.Core.Tests;

/// <summary>Operators in a document store's filter (CWE-943) where nothing but its use tells what the handle is.</summary>
public sealed class DocumentFilterTests
{
    private const string Express = "const express = require('express'), _ = require('lodash'), clean = require('./clean'); const app = express(); app.use(express.json());\n";
    private const string Clean = "exports.keys = (value) => { if (value instanceof Object) { for (const key in value) { if (/^\\$/.test(key)) { delete value[key]; } } } return value; };\n";

    [Theory]
    [InlineData("req.app.db.users.findOne({ email: req.body.email }, (e, user) => res.json({ ok: !!user }));", true)]
    [InlineData("req.app.locals.store.members.find({ mail: req.query.mail }).toArray((e, rows) => res.json(rows));", true)]
    [InlineData("const wanted = _.assign({}, req.body, req.params); app.query('user').findOne({ code: wanted.code }).then(u => res.json(!!u));", true)]
    [InlineData("app.store.find('user', { code: req.body.code }).then(u => res.json(!!u));", true)]
    [InlineData("app.store.users.deleteMany({ owner: req.body.owner }).then(() => res.end());", true)]
    [InlineData("req.app.db.users.findOne({ email: String(req.body.email) }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("req.app.db.users.findOne({ email: `${req.body.email}` }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("req.app.db.users.findOne({ email: _.toString(req.body.email) }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("req.app.db.users.findOne({ email: { $eq: req.body.email } }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("req.app.db.users.findOne({ email: clean.keys(req.body.email) }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("if (typeof req.body.email !== 'string') return res.end(); req.app.db.users.findOne({ email: req.body.email }, (e, user) => res.json({ ok: !!user }));", false)]
    [InlineData("app.mapper.User.findOne({ where: { email: req.body.email } }).then(u => res.json(!!u));", false)]
    [InlineData("res.json(hives.find(h => h.tag === req.body.tag));", false)]
    public void On_a_handle_that_nothing_tells_more_of(string body, bool isFound)
    {
        var found = Auditor.Run(("clean.js", Clean), ("app.js", Express + "const hives = [];\napp.post('/a', (req, res) => { " + body + " });\n")).Findings.Where(f => f.CheckId == "injection/nosql-operator").ToList();
        Assert.Equal(isFound, found.Count > 0);

        // That it is a filter is told by names only.
        Assert.DoesNotContain(found, f => f.Certainty == Certainty.Proved);
    }

    [Theory]
    [InlineData("", true)]
    [InlineData("const { Pool } = require('pg');\n", false)]
    [InlineData("const { Pool } = require('pg'), mongo = require('mongodb');\n", true)]
    public void A_program_that_works_on_tables_has_no_such_filters(string imports, bool isFound) =>
        Assert.Equal(isFound, Auditor.Run(("app.js", Express + imports + "app.post('/a', (req, res) => { app.models.Member.findOne({ email: req.body.email }).then(m => res.json(!!m)); });\n"), ("clean.js", Clean)).Findings.Any(f => f.CheckId == "injection/nosql-operator"));

    [Theory]
    [InlineData("module.exports = { async reset(ctx) { const user = await app.query('user').findOne({ code: ctx.request.body.code }); if (!user) { return ctx.badRequest('no'); } ctx.send({ ok: true }); } };", true)]
    [InlineData("module.exports = { async reset(context) { context.body = await store.users.findOne({ code: context.query.code }); } };", true)]
    [InlineData("class Router { reset(req) { const { code } = req.body; if (!code && req.xhr === false) { return null; } return this.users.findOne({ code }); } }", true)]
    [InlineData("module.exports = { send(options) { return this.log.findOne({ code: options.body, at: options.query }); } };", false)]
    [InlineData("module.exports = { send(req) { return this.log.findOne({ url: req.url, code: req.body, kind: req.headers }); } };", false)]
    [InlineData("module.exports = { draw(ctx) { ctx.fillRect(0, 0, 1, 1); return this.log.findOne({ code: ctx.state }); } };", false)]
    public void In_a_handler_with_one_parameter(string code, bool isFound) =>
        Assert.Equal(isFound, Auditor.Run(("handler.js", code)).Findings.Any(f => f.CheckId == "injection/nosql-operator"));
}
