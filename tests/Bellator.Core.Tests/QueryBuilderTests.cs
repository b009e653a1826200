namespace Bellator.Core.Tests;

/// <summary>Knex, from its documentation as remembered: what its chains read and write, and of which rows.</summary>
public sealed class QueryBuilderTests
{
    [Theory]
    [InlineData("await db('hives').where({ id: req.params.id }).first()", "view chosen")]
    [InlineData("await db('hives').where('id', req.params.id).first()", "view chosen")]
    [InlineData("await db('hives').where({ keeper_id: req.session.keeperId })", "list own")]
    [InlineData("await db('hives').where('keeper_id', req.session.keeperId).orderBy('name')", "list own")]
    [InlineData("await db('hives').where('keeper_id', '=', req.session.keeperId).andWhere({ id: req.params.id }).update({ name: req.body.name })", "edit own")]
    [InlineData("await db('hives').where({ id: req.params.id }).del()", "delete chosen")]
    [InlineData("await db('hives').insert({ name: req.body.name, keeper_id: req.session.keeperId })", "create new")]
    [InlineData("await db.select('id', 'name').from('hives')", "list all")]
    [InlineData("await db('hives').where({ keeper_id: req.session.keeperId }).orWhere({ shared: true })", "list unclear")]
    [InlineData("await db.transaction(async (trx) => { await trx('hives').where({ id: req.params.id }).del(); })", "delete chosen")]
    [InlineData("await req.app.locals.db('hives').where({ id: req.params.id }).first()", "view chosen")]
    public void Rows(string query, string expected)
    {
        var result = Auditor.Run(("app.js", $$"""
            const express = require('express');
            const db = require('knex')({ client: 'pg' });
            const app = express();
            app.locals.db = db;
            app.all('/hives/:id', async (req, res) => {
              const found = {{query}};
              res.send('done');
            });
            app.post('/join', async (req, res) => {
              await db('keepers').insert({ email: req.body.email, password_hash: 'x' });
              res.send('done');
            });
            """));
        Assert.Equal(expected, string.Join(", ", result.Records.Uses.Where(u => u.Table == "hives").Select(u => $"{u.Action} {u.Rows}")));
    }

    [Theory]
    [InlineData("db('keepers').where({ id: 1 }).first()", true)]
    [InlineData("db('keepers').select('*').where({ id: 1 })", true)]
    [InlineData("db('keepers').where({ id: 1 }).select()", true)]
    [InlineData("db('keepers').where({ id: 1 }).select('id', 'email')", false)]
    [InlineData("db('keepers').where({ id: 1 }).first('id', 'email')", false)]
    [InlineData("db.select('id', 'email').from('keepers')", false)]
    [InlineData("db('keepers').insert({ email: 'a' }).returning('*')", true)]
    [InlineData("db('keepers').insert({ email: 'a' }).returning('id')", false)]
    public void Whether_all_columns_are_answered(string query, bool isWhole)
    {
        var result = Auditor.Run(
            ("migrations/1.js", "exports.up = (knex) => knex.schema.createTable('keepers', (t) => { t.increments('id'); t.string('email'); t.string('password_hash'); });\n"),
            ("app.js", $$"""
                const express = require('express');
                const db = require('knex')({ client: 'pg' });
                const app = express();
                app.get('/keepers', async (req, res) => {
                  const found = await {{query}};
                  res.json(found);
                });
                """));
        Assert.Equal(isWhole, result.Findings.Any(f => f.CheckId == "exposure/hash-in-response"));
    }
}
