using Bellator.Audit.Checks;

namespace Bellator.Core.Tests;

/// <summary>injection/sql on weak code and on correct code beside it.</summary>
public sealed class SqlInjectionTests
{
    private const string Db = "$db = new mysqli('h', 'u', getenv('P'), 'd');\n";

    [Theory]
    // Concatenation, interpolation, formatting, appending.
    [InlineData("$db->query('SELECT * FROM t WHERE a = ' . $_GET['a']);", true)]
    [InlineData("$a = $_GET['a']; $db->query(\"SELECT * FROM t WHERE a = '$a'\");", true)]
    [InlineData("$db->query(\"SELECT * FROM t WHERE a = '{$_POST['a']}'\");", true)]
    [InlineData("$db->query(sprintf(\"SELECT * FROM t WHERE a = '%s'\", $_GET['a']));", true)]
    [InlineData("$db->query(sprintf('SELECT * FROM t WHERE a = %d', $_GET['a']));", false)]
    [InlineData("$s = 'SELECT * FROM t'; $s .= ' WHERE a = ' . $_GET['a']; $db->query($s);", true)]
    [InlineData("$w = []; $w[] = \"a = '\" . $_GET['a'] . \"'\"; $db->query('SELECT * FROM t WHERE ' . implode(' AND ', $w));", true)]
    [InlineData("$db->query(<<<SQL\nSELECT * FROM t WHERE a = '{$_GET['a']}'\nSQL);", true)]
    // An escaping function helps between quotes and nowhere else.
    [InlineData("$a = $db->real_escape_string($_GET['a']); $db->query(\"SELECT * FROM t WHERE a = '$a'\");", false)]
    [InlineData("$a = $db->real_escape_string($_GET['a']); $db->query(\"SELECT * FROM t WHERE a = $a\");", true)]
    [InlineData("$a = $db->real_escape_string($_GET['a']); $db->query(\"SELECT * FROM t ORDER BY `$a`\");", true)]
    [InlineData("$a = htmlspecialchars($_GET['a']); $db->query(\"SELECT * FROM t WHERE a = '$a'\");", true)]
    // Numbers are harmless everywhere.
    [InlineData("$a = (int) $_GET['a']; $db->query(\"SELECT * FROM t WHERE a = $a LIMIT $a\");", false)]
    [InlineData("$a = intval($_GET['a']); $db->query('SELECT * FROM t WHERE a = ' . $a);", false)]
    [InlineData("$db->query('SELECT * FROM t LIMIT ' . ($_GET['page'] * 20));", false)]
    // Allow-lists are, after the test.
    [InlineData("$s = $_GET['s']; if (!in_array($s, ['a', 'b'], true)) { $s = 'a'; } $db->query(\"SELECT * FROM t ORDER BY $s\");", false)]
    [InlineData("$s = $_GET['s']; if (!in_array($s, ['a', 'b'])) { exit; } $db->query(\"SELECT * FROM t ORDER BY $s\");", false)]
    [InlineData("$s = $_GET['s']; if (in_array($s, ['a', 'b'])) { log_it($s); } $db->query(\"SELECT * FROM t ORDER BY $s\");", true)]
    [InlineData("$s = $_GET['s']; $db->query(\"SELECT * FROM t ORDER BY $s\"); if (!in_array($s, ['a'])) { exit; }", true)]
    [InlineData("$m = ['n' => 'name', 'd' => 'day']; $s = $m[$_GET['s']] ?? 'name'; $db->query(\"SELECT * FROM t ORDER BY $s\");", false)]
    [InlineData("switch ($_GET['s']) { case 'n': $s = 'name'; break; default: $s = 'day'; } $db->query(\"SELECT * FROM t ORDER BY $s\");", false)]
    [InlineData("$s = match ($_GET['s'] ?? '') { 'n' => 'name', default => 'day' }; $db->query(\"SELECT * FROM t ORDER BY $s\");", false)]
    [InlineData("$s = $_GET['s'] === 'desc' ? 'DESC' : 'ASC'; $db->query(\"SELECT * FROM t ORDER BY a $s\");", false)]
    [InlineData("if ($_GET['s'] == 'name') { $db->query('SELECT * FROM t ORDER BY ' . $_GET['s']); }", false)]
    [InlineData("if (preg_match('/^[a-z_]+$/', $_GET['s'])) { $db->query('SELECT * FROM t ORDER BY ' . $_GET['s']); }", false)]
    [InlineData("if (preg_match('/[a-z_]+/', $_GET['s'])) { $db->query('SELECT * FROM t ORDER BY ' . $_GET['s']); }", true)]
    [InlineData("if (!is_numeric($_GET['a'])) { die('no'); } $db->query('SELECT * FROM t WHERE a = ' . $_GET['a']);", false)]
    [InlineData("if (preg_match('|[^a-z0-9_]|i', $_GET['s'])) { die('no'); } $db->query('SELECT * FROM ' . $_GET['s'] . 'posts');", false)]
    [InlineData("if (preg_match('|[^a-z0-9_]|i', $_GET['s'])) { $db->query('SELECT * FROM ' . $_GET['s'] . 'posts'); }", true)]
    // Doubling the quote escapes it; a quote chosen by a condition is the same on both sides.
    [InlineData("$a = str_replace('`', '``', $_GET['a']); $db->query(\"SELECT * FROM `$a` WHERE b = 1\");", false)]
    [InlineData("$a = str_replace(\"'\", \"''\", $_GET['a']); $db->query(\"SELECT * FROM t WHERE a = '$a'\");", false)]
    [InlineData("$q = $c ? '`' : '\"'; $n = $q . 'name' . $q; $a = $db->real_escape_string($_GET['a']); $db->query('SELECT ' . $n . \" FROM t WHERE a = '$a'\");", false)]
    [InlineData("$a = preg_replace('/[^a-z_]+/', '', $_GET['a']); $db->query(\"SELECT * FROM t ORDER BY $a\");", false)]
    [InlineData("$a = preg_replace('/[a-z_]+/', '', $_GET['a']); $db->query(\"SELECT * FROM t ORDER BY $a\");", true)]
    [InlineData("foreach ($_POST as $k => $v) { $db->query(\"UPDATE t SET $k = 1\"); }", true)]
    // An escaper with a case in which there is nothing to escape; a test before a call that never comes back.
    [InlineData("function esc($db, $s) { if (!$db) { return $s; } return $db->real_escape_string($s); } $a = esc($db, $_GET['a']); $db->query(\"SELECT * FROM t WHERE a = '$a'\");", false)]
    [InlineData("function fail($m) { echo $m; exit; } if (!in_array($_GET['s'], ['a', 'b'])) { fail('no'); } $db->query('SELECT * FROM t ORDER BY ' . $_GET['s']);", false)]
    [InlineData("function note($m) { echo $m; } if (!in_array($_GET['s'], ['a', 'b'])) { note('no'); } $db->query('SELECT * FROM t ORDER BY ' . $_GET['s']);", true)]
    // Second order: stored, then used.
    [InlineData("$r = $db->query('SELECT name FROM m')->fetch_assoc(); $db->query(\"INSERT INTO log (who) VALUES ('{$r['name']}')\");", true)]
    [InlineData("$r = $db->query('SELECT id FROM m')->fetch_assoc(); $db->query(\"INSERT INTO log (who) VALUES ('{$r['id']}')\");", false)]
    [InlineData("$r = $db->query('SELECT name FROM m')->fetch_assoc(); $n = $db->real_escape_string($r['name']); $db->query(\"INSERT INTO log (who) VALUES ('$n')\");", false)]
    // Bound values are never part of the text.
    [InlineData("$st = $db->prepare('SELECT * FROM t WHERE a = ?'); $st->bind_param('s', $_GET['a']); $st->execute();", false)]
    [InlineData("$st = $db->prepare(\"SELECT * FROM t WHERE a = '$_GET[a]'\"); $st->execute();", true)]
    // Not the visitor's.
    [InlineData("$db->query('SELECT * FROM t WHERE a = ' . $_SESSION['id']);", false)]
    [InlineData("$db->query('SELECT * FROM ' . $_SERVER['DOCUMENT_ROOT']);", false)]
    [InlineData("$db->query('SELECT * FROM t WHERE h = ' . $_SERVER['HTTP_HOST']);", true)]
    [InlineData("$f = $_FILES['f']['tmp_name']; $db->query(\"INSERT INTO t (f) VALUES ('$f')\");", false)]
    [InlineData("$f = $_FILES['f']['name']; $db->query(\"INSERT INTO t (f) VALUES ('$f')\");", true)]
    public void Php(string code, bool found) => Assert.Equal(found, Auditor.Php(Db + code).Any(f => f.StartsWith("injection/sql", StringComparison.Ordinal)));

    [Theory]
    [InlineData("app.get('/', (req, res) => { pool.query(`SELECT * FROM t WHERE a = '${req.query.a}'`); });", true)]
    [InlineData("app.get('/', (req, res) => { pool.query('SELECT * FROM t WHERE a = $1', [req.query.a]); });", false)]
    [InlineData("app.get('/', (req, res) => { pool.query({ text: 'SELECT * FROM t WHERE a = ' + req.params.a, values: [] }); });", true)]
    [InlineData("app.post('/', async (req, res) => { const { a } = req.body; await pool.query('DELETE FROM t WHERE a = ' + a); });", true)]
    [InlineData("app.post('/', async ({ body: { a } }, res) => { await pool.query('DELETE FROM t WHERE a = ' + a); });", true)]
    [InlineData("app.get('/', (req, res) => { const n = Number(req.query.n); pool.query(`SELECT * FROM t LIMIT ${n}`); });", false)]
    [InlineData("const S = { n: 'name' }; app.get('/', (req, res) => { pool.query(`SELECT * FROM t ORDER BY ${S[req.query.s] || 'day'}`); });", false)]
    [InlineData("const S = ['n', 'd']; app.get('/', (req, res) => { if (!S.includes(req.query.s)) return res.sendStatus(400); pool.query(`SELECT * FROM t ORDER BY ${req.query.s}`); });", false)]
    [InlineData("const ok = (s) => ['n', 'd'].includes(s); app.get('/', (req, res) => { if (!ok(req.query.s)) return res.sendStatus(400); pool.query(`SELECT * FROM t ORDER BY ${req.query.s}`); });", false)]
    [InlineData("app.get('/', (req, res) => { const w = []; w.push(`a = '${req.query.a}'`); pool.query('SELECT * FROM t WHERE ' + w.join(' AND ')); });", true)]
    [InlineData("function run(sql) { return pool.query(sql); } app.get('/', (req, res) => run('SELECT * FROM t WHERE a = ' + req.query.a));", true)]
    [InlineData("const find = (a) => pool.query(`SELECT * FROM t WHERE a = ${a}`); app.get('/', (req, res) => find(req.query.a)); app.get('/b', (req, res) => find(3));", true)]
    [InlineData("const find = (a) => pool.query(`SELECT * FROM t WHERE a = ${a}`); app.get('/', (req, res) => find(parseInt(req.query.a, 10)));", false)]
    [InlineData("function season(req) { const s = req.query.s || String(1); if (!/^\\d{4}$/.test(s)) { return '2026'; } return s; } app.get('/', (req, res) => pool.query(`SELECT * FROM t WHERE s = '${season(req)}'`));", false)]
    [InlineData("function season(req) { const s = req.query.s || String(1); if (!/^\\d{4}$/.test(s)) { log(s); } return s; } app.get('/', (req, res) => pool.query(`SELECT * FROM t WHERE s = '${season(req)}'`));", true)]
    [InlineData("class Repo { constructor(p) { this.p = p; } find(a) { return this.p.query('SELECT * FROM t WHERE a = ' + a); } } const repo = new Repo(pool); app.get('/', (req, res) => repo.find(req.query.a));", true)]
    [InlineData("app.get('/', (req, res) => { let s = 'SELECT * FROM t'; for (const k of ['a', 'b']) { s += ` AND ${k} = '${req.query[k]}'`; } pool.query(s); });", true)]
    public void JavaScript(string code, bool found) => Assert.Equal(found, Auditor.Js(code).Any(f => f.StartsWith("injection/sql", StringComparison.Ordinal)));

    [Fact]
    public void A_value_is_followed_through_functions_and_files()
    {
        var result = Auditor.Run(
            ("index.php", "<?php\nrequire 'lib/find.php';\n$rows = find($db, trim($_GET['q']));"),
            ("lib/find.php", "<?php\nrequire_once __DIR__ . '/db.php';\nfunction find($db, $text) {\n  $like = '%' . $text . '%';\n  return run($db, \"SELECT * FROM t WHERE n LIKE '$like'\");\n}"),
            ("lib/db.php", "<?php\n$db = new PDO('sqlite::memory:');\nfunction run($db, $statement) { return $db->query($statement)->fetchAll(); }"));
        var finding = Assert.Single(result.Findings);
        Assert.Equal(Certainty.Proved, finding.Certainty);
        Assert.Equal(("lib/find.php", 5), (finding.Path, finding.Region.StartLine));
        Assert.Equal(["index.php", "lib/find.php", "lib/db.php"], finding.Steps.Select(s => s.Path).Distinct().OrderBy(p => p == "index.php" ? 0 : p == "lib/find.php" ? 1 : 2));
        Assert.Equal("source", finding.Steps[0].Kind);
        Assert.Equal(("sink", "lib/db.php"), (finding.Steps[^1].Kind, finding.Steps[^1].Path));
    }

    [Fact]
    public void A_router_in_another_module_is_known_by_its_type()
    {
        var result = Auditor.Run(
            ("app.ts", "import express from 'express';\nimport { members } from './members';\nconst app = express();\napp.use('/m', members);"),
            ("members.ts", "import { Router, Request, Response } from 'express';\nimport { list } from './store.js';\nexport const members = Router();\nasync function show(req: Request, res: Response) { res.json(await list(req.query.by as string)); }\nmembers.get('/', show);"),
            ("store.ts", "import { Pool } from 'pg';\nconst pool = new Pool();\nexport const list = async (by: string) => (await pool.query(`SELECT * FROM m ORDER BY ${by}`)).rows;"));
        Assert.Equal("store.ts", Assert.Single(result.Findings).Path);
    }

    [Fact]
    public void What_rests_on_a_guess_is_only_matched()
    {
        // Nothing says what $conn is but its name.
        var finding = Assert.Single(Auditor.Run(("a.php", "<?php\nfunction f($conn) { $conn->query('SELECT * FROM t WHERE a = ' . $_GET['a']); }")).Findings);
        Assert.Equal(Certainty.Matched, finding.Certainty);
    }
}
