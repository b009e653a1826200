namespace Bellator.Core.Tests;

/// <summary>Handles that a program puts on objects it has one of, and reads there in other files.</summary>
public sealed class ApplicationMemberTests
{
    private const string Connected = "const express = require('express'); const { MongoClient } = require('mongodb');\nconst app = express(); app.use(express.json()); app.use('/', require('./routes'));\n";

    [Theory]
    [InlineData("MongoClient.connect('mongodb://x', {}, (err, client) => { const db = client.db('register'); db.hives = db.collection('hives'); app.db = db; });", "req.app.db.hives.deleteOne({ tag: req.params.tag });")]
    [InlineData("MongoClient.connect('mongodb://x', {}, (err, client) => { app.db = client.db('register'); });", "const db = req.app.db; db.collection('hives').deleteOne({ tag: req.params.tag });")]
    [InlineData("MongoClient.connect('mongodb://x').then(client => { app.set('db', client.db('register')); });", "req.app.get('db').collection('hives').deleteOne({ tag: req.params.tag });")]
    [InlineData("async function start() { const client = await MongoClient.connect('mongodb://x'); app.locals.db = client.db('register'); }", "req.app.locals.db.collection('hives').deleteOne({ tag: req.params.tag });")]
    [InlineData("const client = new MongoClient('mongodb://x'); client.connect((err, c) => { app.locals.db = c.db('register'); });", "req.app.locals.db.collection('hives').remove({ tag: req.params.tag });")]
    public void An_access_through_the_application_object_is_an_access(string start, string use)
    {
        var result = Auditor.Run(("app.js", Connected + start + "\n"), ("routes.js", "const router = require('express').Router();\nrouter.delete('/hives/:tag', (req, res) => { " + use + " res.end(); });\nmodule.exports = router;\n"));
        var access = Assert.Single(result.Surface.Entries.Single(e => e.Path == "/hives/{tag}").Accesses);
        Assert.Equal(("hives", "delete"), (access.Table, access.Action));
    }

    [Fact]
    public void What_nothing_put_there_is_nothing()
    {
        var result = Auditor.Run(("app.js", Connected), ("routes.js", "const router = require('express').Router();\nrouter.get('/a', (req, res) => { req.app.other.read(req.query.tag); res.end(); });\nmodule.exports = router;\n"));
        Assert.Empty(result.Surface.Entries.Single(e => e.Path == "/a").Accesses);
    }
}
