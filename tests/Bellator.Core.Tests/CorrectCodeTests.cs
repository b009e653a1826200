namespace Bellator.Core.Tests;

/// <summary>Correct code that resembles weak code: nothing may be said of it.</summary>
public sealed class CorrectCodeTests
{
    [Theory]
    [InlineData("$ids = $_GET['ids']; $in = implode(',', array_fill(0, count($ids), '?')); $st = $db->prepare(\"SELECT * FROM t WHERE id IN ($in)\"); $st->execute($ids);")]
    [InlineData("$in = implode(',', array_map('intval', $_GET['ids'])); $db->query(\"SELECT * FROM t WHERE id IN ($in)\");")]
    [InlineData("$dir = strtolower($_GET['d'] ?? '') === 'desc' ? 'DESC' : 'ASC'; $db->query(\"SELECT * FROM t ORDER BY a $dir\");")]
    [InlineData("$cols = ['n' => 'name', 'd' => 'day']; $col = array_key_exists($_GET['s'], $cols) ? $cols[$_GET['s']] : 'name'; $db->query(\"SELECT * FROM t ORDER BY $col\");")]
    [InlineData("$id = filter_var($_GET['id'], FILTER_VALIDATE_INT); if ($id === false) { exit; } $db->query(\"SELECT * FROM t WHERE id = $id\");")]
    [InlineData("$id = filter_input(INPUT_GET, 'id', FILTER_VALIDATE_INT); $db->query(\"SELECT * FROM t WHERE id = $id\");")]
    [InlineData("$w = []; $p = []; if (isset($_GET['a'])) { $w[] = 'a = ?'; $p[] = $_GET['a']; } if (isset($_GET['b'])) { $w[] = 'b = ?'; $p[] = $_GET['b']; } $st = $db->prepare('SELECT * FROM t WHERE ' . implode(' AND ', $w)); $st->execute($p);")]
    [InlineData("foreach (['name', 'phone'] as $c) { if (isset($_POST[$c])) { $set[] = \"$c = :$c\"; $v[$c] = $_POST[$c]; } } $db->prepare('UPDATE t SET ' . implode(', ', $set) . ' WHERE id = 1')->execute($v);")]
    [InlineData("$page = max(1, (int) ($_GET['page'] ?? 1)); $off = ($page - 1) * 20; $db->query(\"SELECT * FROM t LIMIT 20 OFFSET $off\");")]
    [InlineData("function e($s) { return htmlspecialchars((string) $s, ENT_QUOTES, 'UTF-8'); } echo '<p>' . e($_GET['n']) . '</p>';")]
    [InlineData("?><script>const n = <?= json_encode($_GET['n'], JSON_HEX_TAG) ?>;</script><?php")]
    [InlineData("?><a href=\"/x?q=<?= urlencode($_GET['q']) ?>\">x</a><?php")]
    [InlineData("$f = basename($_GET['f']); if (!preg_match('/^[a-z0-9]+\\.pdf$/', $f)) { exit; } readfile(__DIR__ . '/files/' . $f);")]
    [InlineData("$real = realpath('/srv/files/' . $_GET['f']); if ($real === false || !str_starts_with($real, '/srv/files/')) { http_response_code(404); exit; } readfile($real);")]
    [InlineData("readfile('files/' . str_replace('..', '', $_GET['f']));")]
    [InlineData("$to = $_GET['to'] ?? '/'; if (!str_starts_with($to, '/') || str_starts_with($to, '//')) { $to = '/'; } header('Location: ' . $to); exit;")]
    [InlineData("$pages = ['home', 'about']; $p = $_GET['p'] ?? 'home'; if (!in_array($p, $pages, true)) { $p = 'home'; } include \"pages/$p.php\";")]
    [InlineData("$map = ['csv' => 'Csv', 'xml' => 'Xml']; $class = $map[$_GET['f']] ?? 'Csv'; $x = new $class(); call_user_func([$x, 'run']);")]
    [InlineData("exec('convert ' . escapeshellarg($_FILES['f']['tmp_name']) . ' out.png');")]
    [InlineData("$st = $db->prepare('INSERT INTO t (a) VALUES (:a)'); $st->bindValue(':a', $_POST['a']); $st->execute();")]
    public void Php(string code) => Silent("page.php", "<?php\n$db = new PDO('sqlite:x', null, getenv('P'));\n" + code + "\n");

    [Theory]
    [InlineData("ids = request.args.getlist('id')\n    marks = ','.join(['?'] * len(ids))\n    conn.execute(f'SELECT * FROM t WHERE id IN ({marks})', ids)")]
    [InlineData("ids = [int(i) for i in request.args.getlist('id')]\n    conn.execute('SELECT * FROM t WHERE id IN (%s)' % ','.join(map(str, ids)))")]
    [InlineData("try:\n        n = int(request.args['n'])\n    except ValueError:\n        return 'no'\n    conn.execute(f'SELECT * FROM t LIMIT {n}')")]
    [InlineData("order = 'DESC' if request.args.get('d') == 'desc' else 'ASC'\n    conn.execute(f'SELECT * FROM t ORDER BY a {order}')")]
    [InlineData("s = request.args.get('s')\n    if s not in COLUMNS:\n        abort(400)\n    conn.execute(f'SELECT * FROM t ORDER BY {COLUMNS[s]}')")]
    [InlineData("where, values = [], []\n    for c in ('a', 'b'):\n        if c in request.args:\n            where.append(f'{c} = ?')\n            values.append(request.args[c])\n    conn.execute('SELECT * FROM t WHERE ' + ' AND '.join(where), values)")]
    [InlineData("import uuid\n    u = uuid.UUID(request.args['u'])\n    conn.execute(f\"SELECT * FROM t WHERE u = '{u}'\")")]
    [InlineData("from psycopg2 import sql\n    cur.execute(sql.SQL('SELECT * FROM t ORDER BY {}').format(sql.Identifier(request.args['s'])))")]
    [InlineData("from sqlalchemy import text\n    db.session.execute(text('SELECT * FROM t WHERE a = :a'), {'a': request.args['a']})")]
    [InlineData("Thing.query.filter(Thing.name.like(f\"%{request.args['q']}%\")).order_by(Thing.name).all()")]
    [InlineData("from html import escape\n    return Markup('<b>' + escape(request.args['n']) + '</b>')")]
    [InlineData("return render_template('a.html', q=request.args['q'])")]
    [InlineData("match request.args.get('s'):\n        case 'name':\n            s = 'name'\n        case _:\n            s = 'day'\n    conn.execute(f'SELECT * FROM t ORDER BY {s}')")]
    [InlineData("subprocess.run(['git', 'log', '--', request.args['f']], check=True)")]
    public void Python(string body) => Silent("app.py", "from flask import Flask, request, abort, render_template\nfrom markupsafe import Markup\nimport sqlite3, subprocess\napp = Flask('a')\nconn = sqlite3.connect('x')\nCOLUMNS = {'n': 'name', 'd': 'day'}\n@app.route('/x')\ndef view():\n    " + body + "\n");

    [Theory]
    [InlineData("Thing.where('name ILIKE ?', \"%#{Thing.sanitize_sql_like(params[:q])}%\")")]
    [InlineData("Thing.order(params[:d] == 'desc' ? 'name DESC' : 'name ASC')")]
    [InlineData("column = Thing.column_names.include?(params[:s]) ? params[:s] : 'name'\n    Thing.order(column)")]
    [InlineData("Thing.where(id: params[:ids], owner: current_member)")]
    [InlineData("Thing.where('season = :season', season: params[:season])")]
    [InlineData("Thing.find_by!(token: params[:token])")]
    [InlineData("limit = Integer(params[:limit] || 20)\n    Thing.find_by_sql(\"SELECT * FROM things LIMIT #{limit}\")")]
    [InlineData("redirect_back fallback_location: root_path")]
    [InlineData("redirect_to things_path(filter: params[:filter])")]
    [InlineData("redirect_to params[:back].to_s.start_with?('/things') ? params[:back] : root_path")]
    [InlineData("Thing.update(params[:id], params.require(:thing).permit(:name))")]
    [InlineData("name = File.basename(params[:file])\n    send_file Rails.root.join('exports', name)")]
    [InlineData("Open3.capture2('pdftotext', params[:file], '-')")]
    [InlineData("render plain: params[:q]")]
    [InlineData("render json: { q: params[:q] }")]
    public void Ruby(string body) => Silent("app/controllers/things_controller.rb", "class ThingsController < ApplicationController\n  def show\n    " + body + "\n  end\nend\nclass Thing < ApplicationRecord\nend\n");

    [Theory]
    [InlineData("var rows = await db.Things.Where(t => t.Name.Contains(q)).OrderBy(t => t.Name).ToListAsync();")]
    [InlineData("if (!int.TryParse(q, out var n)) return BadRequest(); await conn.ExecuteAsync($\"SELECT * FROM t LIMIT {n}\");")]
    [InlineData("var columns = new Dictionary<string, string> { [\"n\"] = \"name\", [\"d\"] = \"day\" }; if (!columns.TryGetValue(q, out var column)) column = \"name\"; await conn.QueryAsync($\"SELECT * FROM t ORDER BY {column}\");")]
    [InlineData("var where = new List<string>(); var p = new DynamicParameters(); if (q != null) { where.Add(\"a = @a\"); p.Add(\"a\", q); } await conn.QueryAsync(\"SELECT * FROM t WHERE \" + string.Join(\" AND \", where), p);")]
    [InlineData("await db.Database.ExecuteSqlAsync($\"DELETE FROM t WHERE a = {q}\");")]
    [InlineData("await db.Things.FromSqlRaw(\"SELECT * FROM t WHERE a = {0}\", q).ToListAsync();")]
    [InlineData("var order = desc ? \"DESC\" : \"ASC\"; await conn.QueryAsync($\"SELECT * FROM t ORDER BY a {order}\");")]
    [InlineData("var ids = string.Join(\",\", list); await conn.QueryAsync($\"SELECT * FROM t WHERE id IN ({ids})\");")]
    [InlineData("var full = Path.GetFullPath(Path.Combine(root, q)); if (!full.StartsWith(root)) return NotFound(); return PhysicalFile(full, \"text/plain\");")]
    [InlineData("if (!Guid.TryParse(q, out var g)) return NotFound(); await conn.QueryAsync($\"SELECT * FROM t WHERE g = '{g}'\");")]
    [InlineData("return RedirectToAction(\"Index\", new { q });")]
    [InlineData("return Content(q);")]
    public void CSharp(string body) => Silent("ThingController.cs", "using Dapper;\npublic class ThingController : Controller {\n  private readonly string root = \"/srv/files/\";\n  public async Task<IActionResult> Show([FromServices] AppDb db, [FromServices] SqlConnection conn, string q, bool desc, List<int> list) {\n    " + body + "\n    return Ok();\n  }\n}\n");

    [Theory]
    [InlineData("const ids = req.query.ids.split(','); await pool.query(`SELECT * FROM t WHERE id IN (${ids.map((_, i) => `$${i + 1}`).join(', ')})`, ids);")]
    [InlineData("const ids = req.query.ids.split(',').map(Number); await pool.query(`SELECT * FROM t WHERE id IN (${ids.join(', ')})`);")]
    [InlineData("const COLS = { n: 'name', d: 'day' }; if (!(req.query.s in COLS)) return res.sendStatus(400); await pool.query(`SELECT * FROM t ORDER BY ${COLS[req.query.s]}`);")]
    [InlineData("const dir = req.query.d === 'desc' ? 'DESC' : 'ASC'; await pool.query(`SELECT * FROM t ORDER BY a ${dir}`);")]
    [InlineData("const sets = [], values = []; for (const k of ['name', 'phone']) { if (k in req.body) { values.push(req.body[k]); sets.push(`${k} = $${values.length}`); } } await pool.query(`UPDATE t SET ${sets.join(', ')} WHERE id = 1`, values);")]
    [InlineData("const limit = Math.min(parseInt(req.query.n, 10) || 20, 100); await pool.query(`SELECT * FROM t LIMIT ${limit}`);")]
    [InlineData("await users.findOne({ email: { $eq: req.body.email } });")]
    [InlineData("const { z } = require('zod'); const body = z.object({ email: z.string().email() }).parse(req.body); await users.findOne({ email: body.email });")]
    [InlineData("const { ObjectId } = require('mongodb'); await users.findOne({ _id: new ObjectId(req.body.id) });")]
    [InlineData("await users.updateOne({ _id: req.params.id }, { $set: { name: String(req.body.name) } });")]
    [InlineData("res.type('text/plain').send(String(req.query.q).length + '');")]
    [InlineData("const file = path.join('/srv/files', path.basename(req.params.f)); res.sendFile(file);")]
    [InlineData("const full = path.resolve('/srv/files', req.params.f); if (!full.startsWith('/srv/files' + path.sep)) return res.sendStatus(404); res.sendFile(full);")]
    [InlineData("const to = req.query.to; if (!/^\\/[a-z-]*$/.test(to)) return res.redirect('/'); res.redirect(to);")]
    [InlineData("const re = new RegExp(req.query.q.replace(/[.*+?^${}()|[\\]\\\\]/g, '\\\\$&'), 'i'); res.json(list.filter((x) => re.test(x)));")]
    public void JavaScript(string body) => Silent("app.js", "const app = require('express')(); const { Pool } = require('pg'); const pool = new Pool(); const path = require('path'); const { MongoClient } = require('mongodb'); const users = new MongoClient('x').db('d').collection('u');\napp.post('/x/:f', async (req, res) => { " + body + " });\n");

    /// <summary>The names under which templates' outputs are handed to the readers are ordinary names elsewhere.</summary>
    [Theory]
    [InlineData("a.js", "const app = require('express')(); app.get('/', (req, res) => { $$(req.query.a); res.json({}); });")]
    [InlineData("a.php", "<?php function _r($x) { return strlen($x); } _r($_GET['a']);")]
    [InlineData("a.py", "from flask import Flask, request\napp = Flask('a')\n@app.route('/')\ndef a():\n    return R(request.args['a'])\n")]
    public void Names_of_template_outputs_mean_nothing_elsewhere(string path, string code) => Silent(path, code);

    private static void Silent(string path, string code)
    {
        var found = Auditor.Run((path, code)).Findings.Where(f => f.Area == "injection").Select(f => $"{f.CheckId} {f.Certainty} {f.Message}");
        Assert.Empty(found);
    }
}
