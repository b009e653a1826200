namespace Bellator.Core.Tests;

/// <summary>What an application tells of itself. What the calls do is from the projects' documentation, from memory.</summary>
public sealed class ExposureTests
{
    [Theory]
    [InlineData("app.py", "from flask import Flask\napp = Flask(__name__)\napp.run(host='0.0.0.0', debug=True)\n", true)]
    [InlineData("app.py", "from flask import Flask\ndef make():\n    app = Flask(__name__)\n    app.secret_key = load()\n    return app\nif __name__ == '__main__':\n    make().run(debug=True)\n", true)]
    [InlineData("app.py", "from flask import Flask\napp = Flask(__name__)\napp.run(debug=False)\n", false)]
    [InlineData("app.py", "from flask import Flask\napp = Flask(__name__)\napp.run()\n", false)]
    [InlineData("app.py", "import os\nfrom flask import Flask\napp = Flask(__name__)\napp.run(debug=os.environ.get('DEBUG') == '1')\n", false)]
    [InlineData("app.py", "import os\nfrom flask import Flask\napp = Flask(__name__)\nif os.environ.get('DEBUG') == '1':\n    app.run(debug=True)\n", false)]
    [InlineData("Program.cs", "var app = WebApplication.Create(args); app.UseDeveloperExceptionPage(); app.Run();", true)]
    [InlineData("Program.cs", "var app = WebApplication.Create(args); if (app.Environment.IsDevelopment()) { app.UseDeveloperExceptionPage(); } app.Run();", false)]
    [InlineData("a.php", "<?php ini_set('display_errors', '1');", true)]
    [InlineData("a.php", "<?php ini_set('display_errors', '0'); ini_set('log_errors', '1');", false)]
    public void Debug_left_on(string path, string code, bool found) => Check("exposure/debug-left-on", path, code, found);

    [Theory]
    [InlineData("app.js", "const app = require('express')(); app.use((err, req, res, next) => { res.status(500).json({ error: 'x', stack: err.stack }); });", true)]
    [InlineData("app.js", "const app = require('express')(); app.use((err, req, res, next) => { console.error(err.stack); res.status(500).json({ error: 'x' }); });", false)]
    [InlineData("app.js", "const app = require('express')(); app.use((err, req, res, next) => { res.status(500).json({ error: 'x', stack: process.env.NODE_ENV === 'production' ? undefined : err.stack }); });", false)]
    [InlineData("app.js", "const app = require('express')(); app.use((err, req, res, next) => { const body = { error: 'x' }; if (process.env.NODE_ENV !== 'production') body.stack = err.stack; res.status(500).json(body); });", false)]
    [InlineData("app.js", "const app = require('express')(); app.get('/', (req, res) => { try { go(); } catch (e) { res.send('<pre>' + e.stack + '</pre>'); } });", true)]
    [InlineData("app.js", "const app = require('express')(); app.use((err, req, res, next) => { res.status(500).json({ stack: app.get('env') === 'development' ? err.stack : undefined }); });", false)]
    [InlineData("app.js", "const app = require('express')(); app.get('/', (req, res) => { try { go(); } catch (e) { res.send(e.message); } });", false)]
    [InlineData("app.py", "import traceback\nfrom flask import Flask, jsonify\napp = Flask(__name__)\n@app.get('/')\ndef a():\n    try:\n        go()\n    except Exception as e:\n        return jsonify({'error': traceback.format_exc()})\n", true)]
    [InlineData("a.php", "<?php try { go(); } catch (Exception $e) { echo '<pre>' . $e->getTraceAsString() . '</pre>'; }", true)]
    [InlineData("a.php", "<?php try { go(); } catch (Exception $e) { error_log($e->getTraceAsString()); echo 'Something went wrong.'; }", false)]
    [InlineData("C.cs", "public class C : Controller { public IActionResult A() { try { Go(); } catch (Exception e) { return StatusCode(500, e.ToString()); } return Ok(); } }", true)]
    [InlineData("C.cs", "public class C : Controller { public IActionResult A() { try { Go(); } catch (Exception e) { _log.LogError(e, \"x\"); return StatusCode(500, \"x\"); } return Ok(); } }", false)]
    public void Error_details(string path, string code, bool found) => Check("exposure/error-details", path, code, found);

    private const string App = "const app = require('express')(); const bcrypt = require('bcrypt'); const mongoose = require('mongoose');\n";
    private const string Signup = "app.post('/x', async (req, res) => { const user = new User({ name: req.body.name, passwordHash: await bcrypt.hash(req.body.password, 12) }); await user.save(); res.json(";

    /// <summary>Of the ways in which a record can leave its hash out, those that the code shows are seen.</summary>
    [Theory]
    [InlineData(App + "const User = mongoose.model('User', new mongoose.Schema({ passwordHash: String }));\n" + Signup + "user); });", true)]
    [InlineData(App + "const User = mongoose.model('User', new mongoose.Schema({ passwordHash: String }));\n" + Signup + "{ user }); });", true)]
    [InlineData(App + "const User = mongoose.model('User', new mongoose.Schema({ passwordHash: String }));\n" + Signup + "{ id: user.id, name: user.name }); });", false)]
    [InlineData(App + "const s = new mongoose.Schema({ passwordHash: String }, { toJSON: { transform(d, r) { delete r.passwordHash; return r; } } }); const User = mongoose.model('User', s);\n" + Signup + "user); });", false)]
    [InlineData(App + "const s = new mongoose.Schema({ passwordHash: String }); s.set('toJSON', { transform(d, r) { delete r.passwordHash; return r; } }); const User = mongoose.model('User', s);\n" + Signup + "user); });", false)]
    [InlineData(App + "app.get('/x', async (req, res) => { const row = await User.findOne({ id: 1 }); res.json({ password: 'set', at: row.changed }); });", false)]
    [InlineData("import { drizzle } from 'drizzle-orm/better-sqlite3'; import bcrypt from 'bcryptjs'; import { defineEventHandler, readBody } from 'h3'; const db = drizzle('x'); export default defineEventHandler(async (event) => { const body = await readBody(event); return db.insert(users).values({ passwordHash: await bcrypt.hash(body.password, 12) }).returning().get(); });", true)]
    [InlineData("import { drizzle } from 'drizzle-orm/better-sqlite3'; import bcrypt from 'bcryptjs'; import { defineEventHandler, readBody } from 'h3'; const db = drizzle('x'); export default defineEventHandler(async (event) => { const body = await readBody(event); return db.insert(users).values({ passwordHash: await bcrypt.hash(body.password, 12) }).returning({ id: users.id }).get(); });", false)]
    public void Hash_in_response(string code, bool found) => Assert.Equal(found, Auditor.Run(("app.js", code)).Findings.Any(f => f.CheckId == "exposure/hash-in-response"));

    private static void Check(string check, string path, string code, bool found) =>
        Assert.Equal(found ? [check] : [], Auditor.Run((path, code)).Findings.Select(f => f.CheckId).Distinct());
}
