namespace Bellator.Core.Tests;

/// <summary>The other injections, in all languages: weak code, and correct code beside it.</summary>
public sealed class InjectionTests
{
    private const string Flask = "from flask import Flask, request, redirect, render_template_string, send_file\nimport subprocess, os, sqlite3, pickle, yaml, re\nfrom markupsafe import Markup\napp = Flask(__name__)\nconn = sqlite3.connect('x.db')\nALLOWED = {'name', 'day'}\nCOLUMNS = {'n': 'name'}\n@app.route('/x/<ref>')\ndef view(ref):\n";
    private const string Rails = "class ThingsController < ApplicationController\n  ORDERS = { 'n' => 'name' }.freeze\n  def show\n    ";
    private const string Mvc = "using Microsoft.AspNetCore.Mvc; using Dapper;\nnamespace A;\npublic class ThingController : Controller {\n  private readonly AppDb _db; private readonly SqlConnection _conn;\n  public ThingController(AppDb db, SqlConnection conn) { _db = db; _conn = conn; }\n  public async Task<IActionResult> Show(string q, int id, string back) {\n    ";

    [Theory]
    [InlineData("cur = conn.cursor(); cur.execute(\"SELECT * FROM t WHERE a = '%s'\" % request.args['a'])", "injection/sql")]
    [InlineData("cur = conn.cursor(); cur.execute('SELECT * FROM t WHERE a = %s' % int(request.args['a']))", null)]
    [InlineData("cur = conn.cursor(); cur.execute('SELECT * FROM t WHERE a = ?', (request.args['a'],))", null)]
    [InlineData("cur = conn.cursor(); cur.execute(f\"SELECT * FROM t WHERE a LIKE '%{request.form.get('a')}%'\")", "injection/sql")]
    [InlineData("conn.execute('SELECT * FROM t ORDER BY {}'.format(request.args.get('s', 'name')))", "injection/sql")]
    [InlineData("s = request.args.get('s', 'name')\n    if s not in ALLOWED:\n        s = 'name'\n    conn.execute(f'SELECT * FROM t ORDER BY {s}')", null)]
    [InlineData("s = COLUMNS.get(request.args.get('s'), 'name')\n    conn.execute(f'SELECT * FROM t ORDER BY {s}')", null)]
    [InlineData("w = [f\"{k} = '{v}'\" for k, v in request.args.items()]\n    conn.execute('SELECT * FROM t WHERE ' + ' AND '.join(w))", "injection/sql")]
    [InlineData("conn.execute('SELECT * FROM t WHERE a = ' + ref)", "injection/sql")]
    [InlineData("if not re.fullmatch(r'[a-z]+', ref):\n        return 'no'\n    conn.execute('SELECT * FROM t WHERE a = ' + ref)", null)]
    [InlineData("subprocess.run('convert ' + request.args['f'], shell=True)", "injection/command")]
    [InlineData("subprocess.run(['convert', request.args['f']])", null)]
    [InlineData("os.system(f\"ping {request.args['h']}\")", "injection/command")]
    [InlineData("import shlex\n    os.system('ping ' + shlex.quote(request.args['h']))", null)]
    [InlineData("return eval(request.form['e'])", "injection/code")]
    [InlineData("return render_template_string('<b>' + request.args['n'] + '</b>')", "injection/template")]
    [InlineData("return render_template_string('<b>{{ n }}</b>', n=request.args['n'])", null)]
    [InlineData("return send_file(os.path.join('files', request.args['f']))", "injection/path")]
    [InlineData("from werkzeug.utils import secure_filename\n    return send_file(os.path.join('files', secure_filename(request.args['f'])))", null)]
    [InlineData("full = os.path.realpath(os.path.join('files', ref))\n    if not full.startswith(base):\n        abort(404)\n        return None\n    return send_file(full)", null)]
    [InlineData("return redirect(request.args.get('next') or '/')", "injection/redirect")]
    [InlineData("return redirect('/things?tab=' + request.args.get('tab'))", null)]
    [InlineData("t = request.args.get('next', '/')\n    if not t.startswith('/') or t.startswith('//'):\n        t = '/'\n    return redirect(t)", null)]
    [InlineData("pickle.loads(request.data)", "injection/deserialise")]
    [InlineData("yaml.safe_load(request.data)", null)]
    [InlineData("yaml.load(request.data, Loader=yaml.SafeLoader)", null)]
    [InlineData("yaml.load(request.data, Loader=yaml.Loader)", "injection/deserialise")]
    [InlineData("return Markup('<b>' + request.args['n'] + '</b>')", "injection/page-output")]
    [InlineData("re.search(request.args['p'], text)", "injection/pattern-from-input")]
    [InlineData("re.search(re.escape(request.args['p']), text)", null)]
    public void Python(string body, string? expected) => Check("app.py", Flask + "    " + body + "\n", expected);

    [Theory]
    [InlineData("from django.shortcuts import redirect\nfrom django.db import connection\ndef show(request, pk):\n    with connection.cursor() as c:\n        c.execute('SELECT * FROM t WHERE a = ' + request.GET['a'])\n", "injection/sql")]
    [InlineData("from django.shortcuts import redirect\ndef show(request):\n    return redirect(request.GET.get('next'))\n", "injection/redirect")]
    [InlineData("from django.utils.http import url_has_allowed_host_and_scheme\nfrom django.shortcuts import redirect\ndef show(request):\n    n = request.GET.get('next', '/')\n    if not url_has_allowed_host_and_scheme(n, None):\n        n = '/'\n    return redirect(n)\n", null)]
    [InlineData("from django.views import View\nfrom .models import Thing\nclass Show(View):\n    def get(self, request):\n        return Thing.objects.raw('SELECT * FROM t WHERE a = %s' % request.GET['a'])\n", "injection/sql")]
    [InlineData("from django.views import View\nfrom .models import Thing\nclass Show(View):\n    def get(self, request):\n        return Thing.objects.raw('SELECT * FROM t WHERE a = %s', [request.GET['a']])\n", null)]
    [InlineData("from django.utils.safestring import mark_safe\nfrom django.http import HttpResponse\ndef show(request):\n    return HttpResponse(mark_safe(request.GET['a']))\n", "injection/page-output")]
    [InlineData("from fastapi import FastAPI, Depends\nfrom sqlalchemy import text\napp = FastAPI()\n@app.get('/x')\ndef x(q: str, n: int, db=Depends(get_db)):\n    return db.execute(text(f\"SELECT * FROM t WHERE a = '{q}'\"))\n", "injection/sql")]
    [InlineData("from fastapi import FastAPI, Depends\nfrom sqlalchemy import text\napp = FastAPI()\n@app.get('/x')\ndef x(q: str, n: int, db=Depends(get_db)):\n    return db.execute(text(f'SELECT * FROM t LIMIT {n}'))\n", null)]
    [InlineData("from fastapi import FastAPI\nfrom pydantic import BaseModel\nimport subprocess\nclass Job(BaseModel):\n    name: str\n    size: int\napp = FastAPI()\n@app.post('/x')\ndef x(job: Job):\n    subprocess.run(f'make {job.name}', shell=True)\n", "injection/command")]
    [InlineData("from fastapi import FastAPI\nfrom pydantic import BaseModel\nimport subprocess\nclass Job(BaseModel):\n    name: str\n    size: int\napp = FastAPI()\n@app.post('/x')\ndef x(job: Job):\n    subprocess.run(f'make {job.size}', shell=True)\n", null)]
    public void Python_frameworks(string code, string? expected) => Check("views.py", code, expected);

    [Theory]
    [InlineData("Thing.where(\"name LIKE '%#{params[:q]}%'\")", "injection/sql")]
    [InlineData("Thing.where('name LIKE ?', \"%#{params[:q]}%\")", null)]
    [InlineData("Thing.where(name: params[:q])", null)]
    [InlineData("Thing.where(\"year = #{params[:y].to_i}\")", null)]
    [InlineData("Thing.order(\"#{params[:s]} ASC\")", "injection/sql")]
    [InlineData("Thing.order(ORDERS.fetch(params[:s], 'name'))", null)]
    [InlineData("s = %w[name day].include?(params[:s]) ? params[:s] : 'name'\n    Thing.order(s)", null)]
    [InlineData("sql = \"SELECT * FROM t\"\n    sql << \" WHERE a = '#{params[:a]}'\" if params[:a].present?\n    ActiveRecord::Base.connection.execute(sql)", "injection/sql")]
    [InlineData("Thing.find_by_sql([\"SELECT * FROM t WHERE a = ?\", params[:a]])", null)]
    [InlineData("system(\"convert #{params[:f]}\")", "injection/command")]
    [InlineData("system('convert', params[:f])", null)]
    [InlineData("`ping #{params[:h]}`", "injection/command")]
    [InlineData("params[:type].constantize.new", "injection/code")]
    [InlineData("redirect_to params[:back]", "injection/redirect")]
    [InlineData("redirect_to url_from(params[:back]) || root_path", null)]
    [InlineData("redirect_to thing_path(params[:id])", null)]
    [InlineData("send_file Rails.root.join('files', params[:f])", "injection/path")]
    [InlineData("send_file \"files/#{File.basename(params[:f])}\"", null)]
    [InlineData("Marshal.load(Base64.decode64(params[:s]))", "injection/deserialise")]
    [InlineData("Thing.find(params[:id]).update(params[:thing].permit!)", "injection/mass-assignment")]
    [InlineData("Thing.new(params.require(:thing).permit(:name, :role))", "injection/mass-assignment")]
    [InlineData("Thing.new(params.require(:thing).permit(:name, :phone))", null)]
    [InlineData("render inline: params[:t]", "injection/template")]
    [InlineData("return redirect_to(root_path) unless params[:a] == 'x'\n    Thing.where(\"a = '#{params[:a]}'\")", null)]
    public void Ruby(string body, string? expected) => Check("app/controllers/things_controller.rb", Rails + body + "\n  end\nend\nclass Thing < ApplicationRecord\nend\n", expected);

    [Theory]
    [InlineData("var rows = await _conn.QueryAsync<Row>($\"SELECT * FROM t WHERE a = '{q}'\");", "injection/sql")]
    [InlineData("var rows = await _conn.QueryAsync<Row>(\"SELECT * FROM t WHERE a = @q\", new { q });", null)]
    [InlineData("var rows = await _conn.QueryAsync<Row>($\"SELECT * FROM t WHERE a = {id}\");", null)]
    [InlineData("var rows = _db.Things.FromSqlRaw(\"SELECT * FROM t WHERE a = '\" + q + \"'\").ToList();", "injection/sql")]
    [InlineData("var rows = _db.Things.FromSqlInterpolated($\"SELECT * FROM t WHERE a = {q}\").ToList();", null)]
    [InlineData("using var cmd = new SqlCommand(); cmd.CommandText = \"SELECT * FROM t WHERE a = '\" + q + \"'\"; cmd.ExecuteReader();", "injection/sql")]
    [InlineData("using var cmd = new SqlCommand(\"SELECT * FROM t WHERE a = @a\", _conn); cmd.Parameters.AddWithValue(\"@a\", q); cmd.ExecuteReader();", null)]
    [InlineData("var sql = new StringBuilder(\"SELECT * FROM t WHERE 1 = 1\"); if (q != null) sql.Append(\" AND a = '\" + q + \"'\"); await _conn.ExecuteAsync(sql.ToString());", "injection/sql")]
    [InlineData("var col = q switch { \"n\" => \"name\", _ => \"day\" }; await _conn.ExecuteAsync($\"SELECT * FROM t ORDER BY {col}\");", null)]
    [InlineData("if (q is not (\"name\" or \"day\")) return BadRequest(); await _conn.ExecuteAsync($\"SELECT * FROM t ORDER BY {q}\");", null)]
    [InlineData("Process.Start(\"convert\", \"-size 10 \" + q);", "injection/command")]
    [InlineData("return Redirect(back);", "injection/redirect")]
    [InlineData("return LocalRedirect(back);", null)]
    [InlineData("if (Url.IsLocalUrl(back)) { return Redirect(back); } return Ok();", null)]
    [InlineData("return File(System.IO.File.ReadAllBytes(Path.Combine(\"files\", q)), \"text/plain\");", null)]
    [InlineData("var text = File.ReadAllText(Path.Combine(\"files\", q));", "injection/path")]
    [InlineData("var text = File.ReadAllText(Path.Combine(\"files\", Path.GetFileName(q)));", null)]
    public void CSharp(string body, string? expected) => Check("ThingController.cs", Mvc + body + "\n    return Ok();\n  }\n}\npublic class Row { public string Name { get; set; } }\n", expected);

    [Theory]
    [InlineData("app.MapGet(\"/x\", (string q, SqlConnection conn) => conn.Query<Row>($\"SELECT * FROM t WHERE a = '{q}'\"));", "injection/sql")]
    [InlineData("app.MapGet(\"/x\", (int q, SqlConnection conn) => conn.Query<Row>($\"SELECT * FROM t WHERE a = {q}\"));", null)]
    [InlineData("app.MapPost(\"/x\", (Entry dto, Store store) => store.Find(dto.Name)); public record Entry(string Name); public class Store(SqlConnection conn) { public object Find(string n) => conn.Query<Row>(\"SELECT * FROM t WHERE a = '\" + n + \"'\"); }", "injection/sql")]
    [InlineData("public class IndexModel : PageModel { [BindProperty] public string Name { get; set; } private readonly SqlConnection _c; public void OnPost() { _c.Execute($\"DELETE FROM t WHERE a = '{Name}'\"); } }", "injection/sql")]
    [InlineData("public interface IRepo { object Find(string n); } public class Repo : IRepo { private readonly SqlConnection _c; public object Find(string n) { return _c.Query<Row>(\"SELECT * FROM t WHERE a = '\" + n + \"'\"); } } [ApiController] public class C : ControllerBase { private readonly IRepo _r; public C(IRepo r) => _r = r; [HttpGet] public object Get([FromQuery] string n) => _r.Find(n); }", "injection/sql")]
    public void CSharp_programs(string code, string? expected) => Check("Program.cs", code, expected);

    [Theory]
    [InlineData("system('convert ' . $_GET['f']);", "injection/command")]
    [InlineData("system('convert ' . escapeshellarg($_GET['f']));", null)]
    [InlineData("echo `ping {$_GET['h']}`;", "injection/command")]
    [InlineData("eval($_POST['c']);", "injection/code")]
    [InlineData("include 'pages/' . $_GET['p'] . '.php';", "injection/path")]
    [InlineData("$p = $_GET['p']; if (!in_array($p, ['a', 'b'], true)) { exit; } include 'pages/' . $p . '.php';", null)]
    [InlineData("readfile('files/' . $_GET['f']);", "injection/path")]
    [InlineData("readfile('files/' . basename($_GET['f']));", null)]
    [InlineData("header('Location: ' . $_GET['to']);", "injection/redirect")]
    [InlineData("header('Location: /things.php?id=' . $_GET['id']);", null)]
    [InlineData("header('Location: https://fernhollow.example/' . $_GET['id']);", null)]
    [InlineData("unserialize($_COOKIE['c']);", "injection/deserialise")]
    [InlineData("unserialize($_COOKIE['c'], ['allowed_classes' => false]);", null)]
    [InlineData("echo '<b>' . $_GET['n'] . '</b>';", "injection/page-output")]
    [InlineData("echo '<b>' . htmlspecialchars($_GET['n']) . '</b>';", null)]
    [InlineData("echo '<b>' . (int) $_GET['n'] . '</b>';", null)]
    [InlineData("?><p><?= $_GET['n'] ?></p><?php", "injection/page-output")]
    [InlineData("?><p><?= htmlspecialchars($_GET['n']) ?></p><?php", null)]
    [InlineData("header('Content-Type: application/json'); echo json_encode($_GET);", null)]
    [InlineData("mail('a@fernhollow.example', 'Hello', 'Text', 'From: ' . $_POST['from']);", "injection/header")]
    [InlineData("function go($to) { header('Location: ' . $to); exit; } if (!is_numeric($_GET['a'])) { go('/'); } $db = new PDO('x'); $db->query('SELECT * FROM t WHERE a = ' . $_GET['a']);", null)]
    public void Php(string body, string? expected) => Check("page.php", "<?php\n" + body + "\n", expected);

    [Theory]
    [InlineData("use Illuminate\\Http\\Request; use Illuminate\\Support\\Facades\\DB; class C extends \\Illuminate\\Routing\\Controller { public function show(Request $request) { return DB::select(\"SELECT * FROM t WHERE a = '\" . $request->input('a') . \"'\"); } }", "injection/sql")]
    [InlineData("use Illuminate\\Http\\Request; use Illuminate\\Support\\Facades\\DB; class C extends \\Illuminate\\Routing\\Controller { public function show(Request $request) { return DB::select('SELECT * FROM t WHERE a = ?', [$request->input('a')]); } }", null)]
    [InlineData("use Illuminate\\Http\\Request; class Thing extends \\Illuminate\\Database\\Eloquent\\Model { protected $guarded = []; } class C { public function store(Request $request) { return Thing::create($request->all()); } }", "injection/mass-assignment")]
    [InlineData("use Illuminate\\Http\\Request; class Thing extends \\Illuminate\\Database\\Eloquent\\Model { protected $fillable = ['name', 'phone']; } class C { public function store(Request $request) { return Thing::create($request->all()); } }", null)]
    [InlineData("use Illuminate\\Http\\Request; class Thing extends \\Illuminate\\Database\\Eloquent\\Model { protected $guarded = []; } class C { public function store(Request $request) { return Thing::create($request->only(['name'])); } }", null)]
    [InlineData("use Illuminate\\Http\\Request; class C { public function find(Request $request) { return Thing::whereRaw('a = ' . $request->a)->get(); } }", "injection/sql")]
    public void Php_frameworks(string body, string? expected) => Check("app/C.php", "<?php\n" + body + "\n", expected);

    [Theory]
    [InlineData("const cp = require('child_process'); app.get('/', (req, res) => cp.exec('ls ' + req.query.d));", "injection/command")]
    [InlineData("const { execFile } = require('node:child_process'); app.get('/', (req, res) => execFile('ls', [req.query.d]));", null)]
    [InlineData("app.get('/', (req, res) => eval(req.query.e));", "injection/code")]
    [InlineData("const fs = require('fs'), path = require('path'); app.get('/:f', (req, res) => fs.readFile(path.join('files', req.params.f), () => {}));", "injection/path")]
    [InlineData("const fs = require('fs'), path = require('path'); app.get('/:f', (req, res) => fs.readFile(path.join('files', path.basename(req.params.f)), () => {}));", null)]
    [InlineData("app.get('/', (req, res) => res.redirect(req.query.to));", "injection/redirect")]
    [InlineData("app.get('/', (req, res) => res.redirect('/m/' + req.query.to));", null)]
    [InlineData("app.get('/', (req, res) => res.send('<h1>' + req.query.n + '</h1>'));", "injection/page-output")]
    [InlineData("app.get('/', (req, res) => res.json({ n: req.query.n }));", null)]
    [InlineData("const { MongoClient } = require('mongodb'); const users = new MongoClient('x').db('d').collection('u'); app.post('/', async (req, res) => { await users.findOne({ name: req.body.name, password: req.body.password }); });", "injection/nosql-operator")]
    [InlineData("const { MongoClient } = require('mongodb'); const users = new MongoClient('x').db('d').collection('u'); app.post('/', async (req, res) => { await users.findOne({ name: String(req.body.name) }); });", null)]
    [InlineData("const { MongoClient } = require('mongodb'); const users = new MongoClient('x').db('d').collection('u'); app.post('/', async (req, res) => { const { name } = req.body; if (typeof name !== 'string') return res.sendStatus(400); await users.findOne({ name }); });", null)]
    [InlineData("const mongoose = require('mongoose'); const U = mongoose.model('U', s); app.post('/', async (req, res) => { await U.create(req.body); });", "injection/mass-assignment")]
    [InlineData("const mongoose = require('mongoose'); const U = mongoose.model('U', s); app.post('/', async (req, res) => { const { name, phone } = req.body; await U.create({ name, phone }); });", null)]
    [InlineData("const mongoose = require('mongoose'); const U = mongoose.model('U', s); app.post('/', async (req, res) => { await new U({ ...req.body, at: 1 }).save(); });", "injection/mass-assignment")]
    [InlineData("const mongoose = require('mongoose'); const U = mongoose.model('U', s); app.get('/:id', async (req, res) => { await U.findOne({ _id: req.params.id }); });", null)]
    [InlineData("app.get('/', (req, res) => new RegExp(req.query.p).test('x'));", "injection/pattern-from-input")]
    [InlineData("const { sql } = require('drizzle-orm'); app.get('/', (req, res) => db.execute(sql.raw('SELECT * FROM t WHERE a = ' + req.query.a)));", "injection/sql")]
    [InlineData("const { sql } = require('drizzle-orm'); app.get('/', (req, res) => db.execute(sql`SELECT * FROM t WHERE a = ${req.query.a}`));", null)]
    [InlineData("app.get('/', (req, res) => prisma.$queryRawUnsafe(`SELECT * FROM t WHERE a = '${req.query.a}'`));", "injection/sql")]
    [InlineData("app.get('/', (req, res) => prisma.$queryRaw`SELECT * FROM t WHERE a = ${req.query.a}`);", null)]
    public void JavaScript(string body, string? expected) => Check("app.js", "const app = require('express')();\n" + body + "\n", expected);

    [Theory]
    [InlineData("import { Controller, Get, Query } from '@nestjs/common'; import { DataSource } from 'typeorm';\n@Controller('x') export class C { constructor(private dataSource: DataSource) {} @Get() find(@Query('q') q: string) { return this.dataSource.query(`SELECT * FROM t WHERE a = '${q}'`); } }", "injection/sql")]
    [InlineData("import { Controller, Get, Query } from '@nestjs/common'; import { DataSource } from 'typeorm';\n@Controller('x') export class C { constructor(private dataSource: DataSource) {} @Get() find(@Query('q') q: string) { return this.dataSource.query('SELECT * FROM t WHERE a = $1', [q]); } }", null)]
    [InlineData("import Koa from 'koa'; import Router from '@koa/router'; import { exec } from 'child_process';\nconst r = new Router(); r.get('/', async (ctx) => { exec('ls ' + ctx.query.d); });", "injection/command")]
    [InlineData("import Fastify from 'fastify'; import { exec } from 'child_process';\nconst app = Fastify(); app.get('/', async (request, reply) => { exec('ls ' + request.query.d); });", "injection/command")]
    [InlineData("export default defineEventHandler(async (event) => { const { to } = getQuery(event); return sendRedirect(event, to); });", "injection/redirect")]
    public void TypeScript_frameworks(string code, string? expected) => Check("server/api/x.ts", code, expected);

    [Theory]
    [InlineData("views/a.ejs", "<p><%- name %></p>", "views/a.js", "const app = require('express')(); app.get('/', (req, res) => res.render('a', { name: req.query.n }));", "injection/page-output")]
    [InlineData("views/a.ejs", "<p><%= name %></p>", "views/a.js", "const app = require('express')(); app.get('/', (req, res) => res.render('a', { name: req.query.n }));", null)]
    [InlineData("templates/a.html", "{% if x %}<p>{{ name|safe }}</p>{% endif %}", "app.py", "from flask import Flask, request, render_template\napp = Flask('a')\n@app.get('/')\ndef a():\n    return render_template('a.html', name=request.args['n'])\n", "injection/page-output")]
    [InlineData("templates/a.html", "{% if x %}<p>{{ name }}</p>{% endif %}", "app.py", "from flask import Flask, request, render_template\napp = Flask('a')\n@app.get('/')\ndef a():\n    return render_template('a.html', name=request.args['n'])\n", null)]
    [InlineData("templates/a.html", "{% for t in things %}<p>{{ t.note|safe }}</p>{% endfor %}", "app.py", "from flask import Flask, request, render_template\nimport sqlite3\napp = Flask('a')\n@app.get('/')\ndef a():\n    return render_template('a.html', things=sqlite3.connect('x').execute('SELECT * FROM t').fetchall())\n", "injection/page-output")]
    [InlineData("app/views/things/show.html.erb", "<p><%= raw @note %></p>", "app/controllers/things_controller.rb", "class ThingsController < ApplicationController\n  def show\n    @note = params[:n]\n  end\nend\n", "injection/page-output")]
    [InlineData("app/views/things/show.html.erb", "<% @notes.each do |n| %><p><%= n %></p><% end %>", "app/controllers/things_controller.rb", "class ThingsController < ApplicationController\n  def show\n    @notes = [params[:n]]\n  end\nend\n", null)]
    [InlineData("Views/Thing/Show.cshtml", "@model string\n<p>@Html.Raw(Model)</p>", "ThingController.cs", "public class ThingController : Controller { public IActionResult Show(string n) { return View(\"Show\", n); } }", "injection/page-output")]
    [InlineData("Views/Thing/Show.cshtml", "@model string\n@if (Model != null) {\n <p>@Model</p>\n}", "ThingController.cs", "public class ThingController : Controller { public IActionResult Show(string n) { return View(\"Show\", n); } }", null)]
    [InlineData("resources/views/thing/show.blade.php", "<html>@if ($n)\n<p>{!! $n !!}</p>\n@endif", "app/C.php", "<?php use Illuminate\\Http\\Request; class C { function show(Request $request) { return view('thing.show', ['n' => $request->input('n')]); } }", "injection/page-output")]
    [InlineData("resources/views/thing/show.blade.php", "<html>@if ($n)\n<p>{{ $n }}</p>\n@endif", "app/C.php", "<?php use Illuminate\\Http\\Request; class C { function show(Request $request) { return view('thing.show', ['n' => $request->input('n')]); } }", null)]
    public void Templates(string page, string markup, string path, string code, string? expected)
    {
        var found = Auditor.Run((page, markup), (path, code)).Findings.Select(f => f.CheckId).Distinct().ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
    }

    private static void Check(string path, string code, string? expected)
    {
        var found = Auditor.Run((path, code)).Findings.Where(f => f.Area == "injection").Select(f => f.CheckId).Distinct().ToList();
        Assert.Equal(expected is null ? [] : [expected], found);
    }
}
