using Bellator.Audit.Checks;

namespace Bellator.Core.Tests;

/// <summary>Values read back through each mapper and shown raw: the page's finding names the column. What the mappers' calls give is from their documentation, from memory.</summary>
public sealed class StoredSourceTests
{
    [Theory]
    [InlineData("Note.objects.filter(shown=True).order_by('id')", true)]
    [InlineData("Note.objects.all()", true)]
    [InlineData("[Note.objects.get(pk=1)]", true)]
    [InlineData("[get_object_or_404(Note, pk=1)]", true)]
    [InlineData("[Note.objects.count()]", false)]
    public void Django(string notes, bool found) => Expect(
        found,
        ("app/templates/index.html", "{% for n in notes %}<p>{{ n.body|safe }}</p>{% endfor %}"),
        ("app/models.py", "from django.db import models\nclass Note(models.Model):\n    body = models.TextField()\n"),
        ("app/views.py", $"from django.shortcuts import render, get_object_or_404\nfrom .models import Note\ndef index(request):\n    return render(request, 'index.html', {{'notes': {notes}}})\n"));

    [Theory]
    [InlineData("Note.query.filter_by(id=1).all()")]
    [InlineData("[Note.query.get(1)]")]
    [InlineData("db.session.execute(db.select(Note)).scalars().all()")]
    public void SqlAlchemy(string notes) => Expect(
        true,
        ("templates/index.html", "{% for n in notes %}<p>{{ n.body|safe }}</p>{% endfor %}"),
        ("app.py", $"from flask import Flask, render_template\nfrom flask_sqlalchemy import SQLAlchemy\napp = Flask(__name__)\ndb = SQLAlchemy(app)\nclass Note(db.Model):\n    body = db.Column(db.Text)\n@app.get('/')\ndef a():\n    return render_template('index.html', notes={notes})\n"));

    [Theory]
    [InlineData("Note.where(shown: true).order(:id)")]
    [InlineData("Note.all.limit(3)")]
    [InlineData("[Note.find(params[:id])]")]
    public void ActiveRecord(string notes) => Expect(
        true,
        ("app/views/notes/index.html.erb", "<% @notes.each do |n| %><p><%= raw n.body %></p><% end %>"),
        ("app/models/note.rb", "class Note < ApplicationRecord\nend\n"),
        ("app/controllers/notes_controller.rb", $"class NotesController < ApplicationController\n  def index\n    @notes = {notes}\n  end\nend\n"));

    [Theory]
    [InlineData("Note::where('shown', 1)->get()")]
    [InlineData("Note::all()")]
    [InlineData("[Note::findOrFail(1)]")]
    public void Eloquent(string notes) => Expect(
        true,
        ("resources/views/index.blade.php", "<html>@foreach ($notes as $n)\n<p>{!! $n->body !!}</p>\n@endforeach"),
        ("app/C.php", $"<?php class Note extends \\Illuminate\\Database\\Eloquent\\Model {{}} class C {{ function index() {{ return view('index', ['notes' => {notes}]); }} }}"));

    [Theory]
    [InlineData("await Note.findById(req.params.id)")]
    [InlineData("await prisma.note.findUnique({ where: { id: 1 } })")]
    public void Node(string note) => Expect(
        true,
        ("views/show.ejs", "<p><%- note.body %></p>"),
        ("app.js", $"const app = require('express')(); const mongoose = require('mongoose'); const Note = mongoose.model('Note', new mongoose.Schema({{ body: String }}));\napp.get('/:id', async (req, res) => {{ res.render('show', {{ note: {note} }}); }});"));

    [Theory]
    [InlineData("_db.Notes.Where(n => n.Id > 1).ToListAsync()", "foreach (var n in Model.Notes) { <p>@Html.Raw(n.Body)</p> }")]
    [InlineData("_db.Notes.OrderBy(n => n.Id).Take(3).ToListAsync()", "foreach (var n in Model.Notes) { <p>@Html.Raw(n.Body)</p> }")]
    public void EntityFramework(string notes, string page) => Expect(
        true,
        ("Pages/Index.cshtml", "@page\n@model IndexModel\n@" + page.Replace("{ <p>", "{\n<p>", StringComparison.Ordinal).Replace("</p> }", "</p>\n}", StringComparison.Ordinal)),
        ("Pages/Index.cshtml.cs", $"public class Note {{ public int Id {{ get; set; }} public string Body {{ get; set; }} }} public class AppDb : DbContext {{ public DbSet<Note> Notes {{ get; set; }} }} public class IndexModel : PageModel {{ private readonly AppDb _db; public IndexModel(AppDb db) {{ _db = db; }} public List<Note> Notes {{ get; set; }} public async Task OnGetAsync() {{ Notes = await {notes}; }} }}"));

    [Fact]
    public void A_stored_text_in_another_statement_of_the_same_file_is_second_order() =>
        Assert.Contains(
            Auditor.Run(("a.php", "<?php $db = mysqli_connect('a', 'b', 'c', 'd'); $row = mysqli_fetch_assoc(mysqli_query($db, 'SELECT nickname FROM members')); mysqli_query($db, \"SELECT id FROM hives WHERE keeper = '\" . $row['nickname'] . \"'\");")).Findings,
            f => f.CheckId == "injection/sql" && f.Certainty == Certainty.Matched);

    [Theory]
    [InlineData("$f = 'up/' . $_FILES['f']['name']; unlink($f);", false)]
    [InlineData("move_uploaded_file($_FILES['f']['tmp_name'], 'up/' . $_FILES['f']['name']);", true)]
    [InlineData("foreach ($_POST['w'] as $k => $v) { echo '<b id=\"' . $k . '\">'; }", false)]
    [InlineData("foreach ($_POST as $k => $v) { echo '<b id=\"' . $k . '\">'; }", true)]
    [InlineData("header('Content-Type: text/xml; charset=' . CHARSET); echo '<a>' . $_GET['a'] . '</a>';", false)]
    [InlineData("function send($kind) { header('Content-Type: ' . $kind); } send('image/png'); echo $_GET['a'];", false)]
    [InlineData("function send($kind) { header('Content-Type: ' . $kind); } send('text/html'); echo $_GET['a'];", true)]
    [InlineData("function check() { if ($_GET['ajax']) { header('Content-Type: application/json'); } } check(); echo $_GET['a'];", true)]
    [InlineData("function send() { header('Content-Type: application/json'); } send(); echo $_GET['a'];", false)]
    [InlineData("if ($_GET['c'] && !preg_match('/^[a-z]+$/', $_GET['c'])) { exit; } if ($_GET['c']) { echo '/**/' . $_GET['c']; }", false)]
    [InlineData("define('PLAIN', 'plain'); if ($_GET['m'] !== PLAIN) { exit; } echo $_GET['m'];", false)]
    [InlineData("if (SHOW_ALL) { echo $_GET['m']; }", true)]
    [InlineData("preg_match('/row-([a-z]+)/', $_GET['r'], $m); echo '<b>' . $m[1] . '</b>';", false)]
    [InlineData("preg_match('/row-(.+)/', $_GET['r'], $m); echo '<b>' . $m[1] . '</b>';", true)]
    [InlineData("function part($x) { if ($x === '') { return $x; } return $x; } echo part($_GET['a']);", true)]
    [InlineData("function part($x, $raw) { if ($raw) { return $x; } return htmlspecialchars($x); } echo part($_GET['a'], false);", false)]
    [InlineData("$to = BASE . '/things?tab=' . $_GET['tab']; header('Location: ' . $to);", false)]
    [InlineData("$to = BASE . $_GET['to']; header('Location: ' . $to);", true)]
    [InlineData("$to = $_GET['to']; if (!preg_match('#^/[^/]#', $to)) { exit; } header('Location: ' . $to);", false)]
    [InlineData("$to = $_GET['to']; if (!preg_match('#^/#', $to)) { exit; } header('Location: ' . $to);", true)]
    [InlineData("function show($x) { if ($x instanceof Note) { echo '<p>' . $x . '</p>'; } } show($_GET['n']);", false)]
    [InlineData("$p = strtolower($_GET['p']); if (!in_array($p, ['a', 'b'], true)) { exit; } include 'pages/' . $p . '.php';", false)]
    public void What_was_said_wrongly_of_real_code(string code, bool found) =>
        Assert.Equal(found, Auditor.Run(("a.php", "<?php\n" + code)).Findings.Any(f => f.Area == "injection"));

    [Theory]
    [InlineData("templates/note.html", "{% if 1 %}<p>{{ text|safe }}</p>{% endif %}", "templates/page.html", "<h1>x</h1>{% include \"note.html\" %}", "app.py", "from flask import Flask, request, render_template\napp = Flask('a')\n@app.get('/')\ndef a():\n    return render_template('page.html', text=request.args['t'])\n")]
    [InlineData("views/note.ejs", "<p><%- text %></p>", "views/page.ejs", "<h1>x</h1><%- include('note', { other: 1 }) %>", "app.js", "const app = require('express')(); app.get('/', (req, res) => res.render('page', { text: req.query.t }));")]
    [InlineData("views/note.ejs", "<p><%- mine %></p>", "views/page.ejs", "<h1>x</h1><%- include('note', { mine: text }) %>", "app.js", "const app = require('express')(); app.get('/', (req, res) => res.render('page', { text: req.query.t }));")]
    public void A_page_that_is_put_in_sees_what_the_outer_one_sees(string part, string partText, string page, string pageText, string code, string codeText)
    {
        var found = Assert.Single(Auditor.Run((part, partText), (page, pageText), (code, codeText)).Findings);
        Assert.Equal((part, "injection/page-output"), (found.Path, found.CheckId));
        Assert.Contains("from the request", found.Message, StringComparison.Ordinal);
    }

    private static void Expect(bool found, params (string Path, string Code)[] files)
    {
        var findings = Auditor.Run(files).Findings.Where(f => f.CheckId == "injection/page-output").Select(f => f.Message).ToList();
        Assert.Equal(found ? 1 : 0, findings.Count);
        Assert.All(findings, m => Assert.StartsWith("What was read from a record", m, StringComparison.Ordinal));
    }
}
