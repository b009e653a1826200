using System.Globalization;
using System.Text;

namespace Bellator.Core.Tests;

/// <summary>
/// Code that is handed to the program's own helpers, as in most applications of some size: each entry point does what its own code does,
/// not what everybody does who uses the same helper. Twelve entry points each, more than a value remembers functions.
/// </summary>
public sealed class GivenFunctionTests
{
    private const int Entries = 12;

    /// <param name="before">The helper.</param>
    /// <param name="entry">One entry point with ZZ for its number.</param>
    [Theory]
    [InlineData("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nconst wrap = handler => (req, res, next) => handler(req, res).catch(next);\n", "app.get('/rZZ', wrap(async (req, res) => { res.json((await pool.query('SELECT name FROM tZZ')).rows); }));\n")]
    [InlineData("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nfunction wrap(handler) { return async function (req, res, next) { try { await handler(req, res); } catch (error) { next(error); } }; }\n", "app.get('/rZZ', wrap(async function (req, res) { res.json((await pool.query('SELECT name FROM tZZ')).rows); }));\n")]
    [InlineData("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nconst wrap = handler => (req, res, next) => handler(req, res).catch(next);\nconst signedIn = handler => (req, res) => req.session.member ? handler(req, res) : res.sendStatus(401);\n", "const showZZ = async (req, res) => { res.json((await pool.query('SELECT name FROM tZZ')).rows); };\napp.get('/rZZ', wrap(signedIn(showZZ)));\n")]
    [InlineData("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nasync function withClient(work) { const client = await pool.connect(); try { return await work(client); } finally { client.release(); } }\n", "app.get('/rZZ', async (req, res) => { res.json((await withClient(c => c.query('SELECT name FROM tZZ'))).rows); });\n")]
    [InlineData("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();\nasync function withClient(work) { const client = await pool.connect(); try { return await work(client); } finally { client.release(); } }\nconst readOnly = work => withClient(work);\n", "app.get('/rZZ', async (req, res) => { res.json((await readOnly(async (c) => { const { rows } = await c.query('SELECT name FROM tZZ'); return rows; }))); });\n")]
    [InlineData("app.py", "import sqlite3\nfrom flask import Flask, jsonify\napp = Flask(__name__)\ndef with_db(work):\n    db = sqlite3.connect('register.db')\n    return work(db)\n", "@app.get('/rZZ')\ndef rZZ():\n    return jsonify(with_db(lambda db: db.execute('SELECT name FROM tZZ').fetchall()))\n")]
    [InlineData("app.py", "import sqlite3\nfrom functools import wraps\nfrom flask import Flask, jsonify, session, abort\napp = Flask(__name__)\ndb = sqlite3.connect('register.db')\ndef signed_in(view):\n    @wraps(view)\n    def inner(*args, **kwargs):\n        if 'member' not in session:\n            abort(401)\n        return view(*args, **kwargs)\n    return inner\n", "@app.get('/rZZ')\n@signed_in\ndef rZZ():\n    return jsonify(db.execute('SELECT name FROM tZZ').fetchall())\n")]
    [InlineData("Program.cs", "using Npgsql;\nvar app = WebApplication.CreateBuilder(args).Build();\nasync Task<object?> WithDb(Func<NpgsqlConnection, Task<object?>> work) { await using var db = new NpgsqlConnection(\"\"); return await work(db); }\n", "app.MapGet(\"/rZZ\", () => WithDb(async db => { await using var read = new NpgsqlCommand(\"SELECT name FROM tZZ\", db); return await read.ExecuteScalarAsync(); }));\n")]
    public void Each_entry_point_reaches_its_own_table(string path, string before, string entry)
    {
        var code = new StringBuilder(before);
        for (var i = 1; i <= Entries; i++)
        {
            code.Append(entry.Replace("ZZ", i.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal));
        }

        var entries = Auditor.Run((path, code.ToString())).Surface.Entries;
        Assert.Equal(Entries, entries.Count);
        Assert.All(entries, e => Assert.Equal("t" + e.Path[2..], string.Join(' ', e.Accesses.Select(a => a.Table).Distinct())));
    }

    /// <summary>What a wrapper asks before it runs the handler is a step on the way of each.</summary>
    [Fact]
    public void A_wrapper_that_asks_for_sign_in_is_a_guard()
    {
        var result = Auditor.Run(("app.js", """
            const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool();
            const wrap = handler => (req, res, next) => handler(req, res).catch(next);
            const signedIn = handler => (req, res) => { if (!req.session.member) { return res.sendStatus(401); } return handler(req, res); };
            app.get('/mine', wrap(signedIn(async (req, res) => { res.json((await pool.query('SELECT name FROM hives WHERE keeper_id = $1', [req.session.member])).rows); })));
            app.get('/swarms', wrap(async (req, res) => { res.json((await pool.query('SELECT place FROM swarms')).rows); }));
            """));
        Assert.Equal("needed", Assert.Single(result.Surface.Entries, e => e.Path == "/mine").SignIn);
        Assert.NotEqual("needed", Assert.Single(result.Surface.Entries, e => e.Path == "/swarms").SignIn);
    }
}
