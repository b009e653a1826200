using Bellator.Analysis.Libraries;
using Bellator.Passwords;

namespace Bellator.Core.Tests;

/// <summary>The password checks on weak code and on correct code beside it.</summary>
public sealed class PasswordCheckTests
{
    private const string Db = "$db = new PDO('sqlite::memory:'); ";

    /// <summary>What the finding says of salts has to be true of nested hashes too.</summary>
    [Theory]
    [InlineData("sha1($_POST['password'])", "and without a salt")]
    [InlineData("sha1($salt . $_POST['password'])", "even with a salt")]
    [InlineData("digest($salt . digest($_POST['password']))", "and the result again with a salt")]
    public void A_fast_hash_tells_of_its_salt(string made, string said)
    {
        var result = Auditor.Run(("page.php", "<?php function digest($text) { return sha1($text); }\n" + Db + $"$salt = bin2hex(random_bytes(8)); $s = $db->prepare('INSERT INTO users (name, password) VALUES (?, ?)'); $s->execute([$_POST['name'], {made}]);"));
        Assert.Contains(result.Findings, f => f.CheckId == "passwords/fast-hash" && f.Message.Contains(said, StringComparison.Ordinal));
    }

    /// <summary>Protocols of other servers prescribe their digest (RFC 7616, RFC 2195); a function that is only called digest is any hash.</summary>
    [Theory]
    [InlineData("digest", true)]
    [InlineData("make_digest", true)]
    [InlineData("hmac_of_password", true)]
    [InlineData("digest_auth_response", false)]
    [InlineData("cram_md5", false)]
    public void Only_what_answers_a_challenge_is_a_protocol(string function, bool weak)
    {
        var result = Auditor.Run(("page.php", $"<?php function {function}($password) {{ return md5($password); }}\n" + Db + $"$s = $db->prepare('INSERT INTO users (name, password) VALUES (?, ?)'); $s->execute([$_POST['name'], {function}($_POST['password'])]);"));
        Assert.Equal(weak, result.Findings.Any(f => f.CheckId == "passwords/fast-hash"));
    }

    [Theory]
    [InlineData("stored-plain", "$s = $db->prepare('INSERT INTO users (name, password) VALUES (?, ?)'); $s->execute([$_POST['name'], $_POST['password']]);", true)]
    [InlineData("stored-plain", "$s = $db->prepare('INSERT INTO users (name, password) VALUES (:n, :p)'); $s->bindValue(':p', $_POST['password']); $s->execute();", true)]
    [InlineData("encoded", "$s = $db->prepare('UPDATE users SET password = ? WHERE id = ?'); $s->execute([base64_encode($_POST['password']), 3]);", true)]
    [InlineData("encoded", "$s = $db->prepare('UPDATE users SET password = ? WHERE id = ?'); $s->execute([base64_encode(password_hash($_POST['password'], PASSWORD_DEFAULT)), 3]);", false)]
    [InlineData("stored-plain", "$s = $db->prepare('UPDATE users SET password = ? WHERE id = ?'); $s->execute([base64_encode($_POST['password']), 3]);", false)]
    [InlineData("stored-plain", "$h = password_hash($_POST['password'], PASSWORD_DEFAULT); $s = $db->prepare('INSERT INTO users (name, password) VALUES (?, ?)'); $s->execute([$_POST['name'], $h]);", false)]
    [InlineData("stored-plain", "$s = $db->prepare('INSERT INTO settings (name, password_hint) VALUES (?, ?)'); $s->execute([$_POST['name'], $_POST['password_hint']]);", false)]
    [InlineData("fast-hash", "$h = md5($_POST['password']);", true)]
    [InlineData("fast-hash", "$h = password_hash(base64_encode(hash_hmac('sha384', $_POST['password'], 'for-storage', true)), PASSWORD_BCRYPT);", false)]
    [InlineData("fast-hash", "$h = md5(hash('sha512', $_POST['password']));", true)]
    [InlineData("fast-hash", "$h = hash('sha512', 'pepper' . $_POST['pwd']);", true)]
    [InlineData("fast-hash", "function hash_pw($password) { return sha1($password); } hash_pw($_POST['password']);", true)]
    [InlineData("fast-hash", "$key = md5('page' . $_GET['page']); $etag = sha1_file('x');", false)]
    [InlineData("fast-hash", "$file = md5($_FILES['picture']['name']); // password", false)]
    [InlineData("fast-hash", "$t = hash('sha256', $_GET['reset_token']);", false)]
    [InlineData("no-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], '', 600000);", true)]
    [InlineData("fixed-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], 'fernhollow', 600000);", true)]
    [InlineData("no-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], 'fernhollow', 600000);", false)]
    [InlineData("fixed-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], random_bytes(16), 600000);", false)]
    [InlineData("fixed-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], '', 600000);", false)]
    [InlineData("encrypted-not-hashed", "$s = $db->prepare('INSERT INTO users (name, password) VALUES (?, ?)'); $s->execute([$_POST['name'], openssl_encrypt($_POST['password'], 'aes-256-gcm', $key)]);", true)]
    [InlineData("encrypted-not-hashed", "$s = $db->prepare('INSERT INTO users (name, iban) VALUES (?, ?)'); $s->execute([$_POST['name'], openssl_encrypt($_POST['iban'], 'aes-256-gcm', $key)]);", false)]
    [InlineData("compare-timing", "$row = $db->query('SELECT * FROM users')->fetch(); if ($row['password'] == sha1($_POST['password'])) { go(); }", true)]
    [InlineData("compare-timing", "$row = $db->query('SELECT * FROM users')->fetch(); if (hash_equals($row['password'], sha1($_POST['password']))) { go(); }", false)]
    [InlineData("compare-timing", "$row = $db->query('SELECT * FROM users')->fetch(); if ($row['etag'] == sha1($_GET['page'])) { go(); }", false)]
    [InlineData("logged", "error_log('sign-in of ' . $_POST['name'] . ' with ' . $_POST['password']);", true)]
    [InlineData("logged", "error_log('sign-in of ' . $_POST['name'] . ' failed');", false)]
    [InlineData("logged", "error_log('hash is ' . password_hash($_POST['password'], PASSWORD_DEFAULT));", false)]
    [InlineData("mailed", "mail($_POST['email'], 'Welcome', 'Your password is ' . $_POST['password']);", true)]
    [InlineData("mailed", "mail($_POST['email'], 'Welcome', 'Your name is ' . $_POST['name']);", false)]
    [InlineData("truncated-input", "$p = $_POST['password']; $h = password_hash(substr($p, 0, 8), PASSWORD_DEFAULT);", true)]
    [InlineData("truncated-input", "$p = $_POST['password']; $h = password_hash($p, PASSWORD_DEFAULT); $n = substr($_POST['name'], 0, 8);", false)]
    [InlineData("no-salt", "$h = hash_pbkdf2('sha256', $_POST['password'], random_bytes(16), 600000);", false)]
    [InlineData("low-work-factor", "$h = password_hash($_POST['password'], PASSWORD_BCRYPT, ['cost' => 8]);", true)]
    [InlineData("low-work-factor", "$h = password_hash($_POST['password'], PASSWORD_BCRYPT, ['cost' => 12]);", false)]
    [InlineData("low-work-factor", "$h = password_hash($_POST['password'], PASSWORD_DEFAULT);", false)]
    [InlineData("low-work-factor", "$h = hash_pbkdf2('sha256', $_POST['password'], random_bytes(16), 10000);", true)]
    [InlineData("low-work-factor", "$k = hash_pbkdf2('sha256', $secret, $salt, 1000);", false)]
    [InlineData("compare-plain", "$row = $db->query('SELECT * FROM users')->fetch(); if ($row['password'] == $_POST['password']) { go(); }", true)]
    [InlineData("compare-plain", "function find($db, $name) { $s = $db->prepare('SELECT id, password FROM users WHERE name = ?'); $s->execute([$name]); return $s->fetch(); } $row = find($db, $_POST['name']); if ($row['password'] == $_POST['password']) { go(); }", true)]
    [InlineData("compare-plain", "$s = $db->prepare('SELECT id FROM users WHERE name = ? AND password = ?'); $s->execute([$_POST['name'], $_POST['password']]);", true)]
    [InlineData("compare-plain", "if ($_POST['password'] !== $_POST['password_confirm']) { exit; }", false)]
    [InlineData("compare-plain", "$row = $db->query('SELECT * FROM users')->fetch(); if (password_verify($_POST['password'], $row['password'])) { go(); }", false)]
    [InlineData("compare-plain", "if ($_POST['password'] === '') { exit('empty'); }", false)]
    [InlineData("hashed-in-query", "$p = $_POST['password']; $s = $db->prepare('SELECT id FROM users WHERE name = ? AND password = SHA1(?)'); $s->execute(['a', $p]);", true)]
    [InlineData("hashed-in-query", "$s = $db->prepare('SELECT MD5(?) AS k'); $s->execute([$_GET['page']]);", false)]
    [InlineData("empty-database-password", "$c = mysqli_connect('localhost', 'root', '');", true)]
    [InlineData("empty-database-password", "$c = mysqli_connect('localhost', 'root', getenv('DB_PASSWORD'));", false)]
    [InlineData("empty-database-password", "$c = new PDO('sqlite:/tmp/x');", false)]
    [InlineData("hard-coded-credential", "$c = new PDO('mysql:host=h', 'app', 'Linden7');", true)]
    [InlineData("hard-coded-credential", "define('PW', 'Linden7'); $c = mysqli_connect('h', 'app', PW);", true)]
    [InlineData("hard-coded-credential", "$c = new PDO('mysql:host=h', 'app', $_ENV['DB_PASSWORD']);", false)]
    [InlineData("hard-coded-credential", "if ($_POST['admin_password'] === 'Linden7') { go(); }", true)]
    [InlineData("hard-coded-credential", "if ($_POST['pw'] === 'keep') { a(); } elseif ($_POST['pw'] === 'generate') { b(); }", false)]
    public void Php(string check, string code, bool found) => Assert.Equal(found, Auditor.Php(Db + code).Any(f => f.StartsWith("passwords/" + check, StringComparison.Ordinal)));

    [Theory]
    [InlineData("function kept($password, $salt) { $h = ''; for ($i = 0; $i < 50000; $i++) { $h = hash('sha512', $h . $salt . $password); } return $h; }", "", true)]
    [InlineData("function kept($password, $salt) { $h = ''; for ($i = 0; $i < 50000; $i++) { $h = hash('sha512', $h . $salt . $password); } return $h; }", "if (strlen($_POST['password']) > 200) { exit('too long'); }", false)]
    [InlineData("function kept($password, $salt) { $h = hash('sha512', $salt . $password); for ($i = 0; $i < 50000; $i++) { $h = hash('sha512', $h . $salt); } return $h; }", "", false)]
    [InlineData("function kept($password, $salt) { return hash('sha512', $salt . $password); }", "", false)]
    [InlineData("function kept($password, $salt) { return password_hash($password, PASSWORD_ARGON2ID); }", "", false)]
    [InlineData("function kept($password, $salt) { if (strlen($password) > 4096) { return '*'; } $h = ''; for ($i = 0; $i < 50000; $i++) { $h = hash('sha512', $h . $salt . $password); } return $h; }", "", false)]
    public void Every_round_reads_it(string function, string before, bool found) => Assert.Equal(found, Auditor.Run(("join.php",
        "<?php $db = new mysqli('localhost', 'a', getenv('P'), 'bees'); " + function + " if ($_SERVER['REQUEST_METHOD'] === 'POST') { " + before
        + " $salt = bin2hex(random_bytes(16)); $hash = kept($_POST['password'], $salt); $q = $db->prepare('INSERT INTO members (email, password_hash, salt) VALUES (?, ?, ?)'); $q->bind_param('sss', $_POST['email'], $hash, $salt); $q->execute(); }\n"))
        .Findings.Any(f => f.CheckId == "passwords/no-upper-length"));

    [Theory]
    [InlineData("stored-plain", "app.post('/', async (req, res) => { await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, req.body.password]); });", true)]
    [InlineData("encoded", "app.post('/', async (req, res) => { const p = Buffer.from(req.body.password).toString('base64'); await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, p]); });", true)]
    [InlineData("encoded", "app.post('/', async (req, res) => { await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, btoa(req.body.password)]); });", true)]
    [InlineData("encoded", "app.post('/', async (req, res) => { await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, req.body.password.toString()]); });", false)]
    [InlineData("encoded", "app.post('/', async (req, res) => { const h = await bcrypt.hash(Buffer.from(req.body.password).toString('base64'), 12); await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, h]); });", false)]
    [InlineData("stored-plain", "app.post('/', async (req, res) => { const h = await bcrypt.hash(req.body.password, 12); await pool.query('INSERT INTO m (name, password) VALUES ($1, $2)', [req.body.name, h]); });", false)]
    [InlineData("fast-hash", "app.post('/', (req, res) => { const h = crypto.createHash('sha1').update(req.body.password).digest('hex'); res.json(h); });", true)]
    [InlineData("fast-hash", "app.get('/', (req, res) => { const etag = crypto.createHash('md5').update(JSON.stringify(req.query)).digest('hex'); res.set('ETag', etag); });", false)]
    [InlineData("low-work-factor", "const R = 6; app.post('/', (req, res) => { bcrypt.hash(req.body.password, R, (e, h) => res.json(1)); });", true)]
    [InlineData("low-work-factor", "app.post('/', (req, res) => { const s = bcrypt.genSaltSync(4); bcrypt.hashSync(req.body.password, s); });", true)]
    [InlineData("low-work-factor", "app.post('/', (req, res) => { bcrypt.hash(req.body.password, 12); });", false)]
    [InlineData("fixed-salt", "app.post('/', (req, res) => { crypto.pbkdf2Sync(req.body.password, 'salt', 600000, 32, 'sha256'); });", true)]
    [InlineData("compare-plain", "app.post('/', async (req, res) => { const u = (await pool.query('SELECT * FROM m')).rows[0]; if (u.password === req.body.password) res.json(1); });", true)]
    [InlineData("compare-plain", "app.post('/', async (req, res) => { const u = (await pool.query('SELECT * FROM m')).rows[0]; if (await bcrypt.compare(req.body.password, u.password)) res.json(1); });", false)]
    [InlineData("empty-database-password", "require('mysql2').createConnection({ host: 'h', user: 'root', password: '' });", true)]
    [InlineData("hard-coded-credential", "new Pool({ user: 'app', password: 'Linden7' });", true)]
    [InlineData("hard-coded-credential", "new Pool({ user: 'app', password: process.env.PW || 'dev' });", false)]
    public void JavaScript(string check, string code, bool found) => Assert.Equal(found, Auditor.Js(code).Any(f => f.StartsWith("passwords/" + check, StringComparison.Ordinal)));

    [Theory]
    [InlineData("password", true)]
    [InlineData("newPassword", true)]
    [InlineData("user_pwd", true)]
    [InlineData("$pass", true)]
    [InlineData("password_hash", false)]
    [InlineData("resetPasswordToken", false)]
    [InlineData("passport", false)]
    [InlineData("bypass", false)]
    [InlineData("compass", false)]
    [InlineData("passwordLength", false)]
    public void Names_of_passwords_are_told_from_names_about_passwords(string name, bool expected) =>
        Assert.Equal(expected, new IdentifierClassifier(LibraryModels.Shipped).IsPassword(name));

    [Theory]
    [InlineData("a.php", "<?php session_start(); $_SESSION['pw'] = $_POST['password'];", true)]
    [InlineData("a.php", "<?php session_start(); $_SESSION['user'] = ['name' => $_POST['name'], 'pw' => base64_encode($_POST['password'])];", true)]
    [InlineData("a.php", "<?php session_start(); $_SESSION['name'] = $_POST['name']; $_SESSION['password_reset'] = true;", false)]
    [InlineData("a.py", "from flask import session, request, Flask\napp = Flask(__name__)\n@app.post('/')\ndef a():\n    session['p'] = request.form['password']\n", true)]
    [InlineData("a.py", "from flask import session, request, Flask\napp = Flask(__name__)\n@app.post('/')\ndef a():\n    session['name'] = request.form['name']\n", false)]
    [InlineData("a.js", "const app = require('express')(); app.post('/', (req, res) => { req.session.password = req.body.password; });", true)]
    [InlineData("a.js", "const app = require('express')(); app.post('/', (req, res) => { req.session.userId = 3; });", false)]
    [InlineData("C.cs", "public class C : Controller { public IActionResult A(string password) { HttpContext.Session.SetString(\"p\", password); return Ok(); } }", true)]
    public void In_session(string path, string code, bool found) =>
        Assert.Equal(found, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "passwords/in-session"));

    private const string Entity = "<?php use Doctrine\\ORM\\Mapping as ORM; #[ORM\\Entity] class Member { #[ORM\\Column(length: 64)] private string $password = ''; function setPassword(string $p) { $this->password = $p; } }";

    [Theory]
    [InlineData("$m = new Member(); $m->setPassword($_POST['password']);", "passwords/stored-plain")]
    [InlineData("$m = new Member(); $m->setPassword(password_hash($_POST['password'], PASSWORD_BCRYPT));", "")]
    [InlineData("$m = new Member(); $m->setPassword(password_hash($_POST['password'], PASSWORD_ARGON2ID));", "passwords/column-too-narrow")]
    public void Records_of_a_mapper(string code, string found) =>
        Assert.Equal(found, string.Join(' ', Auditor.Run(("Member.php", Entity), ("page.php", "<?php if (strlen($_POST['password']) < 12) exit; " + code)).Findings.Select(f => f.CheckId)));

    [Theory]
    [InlineData("VARCHAR(64)", "PASSWORD_ARGON2ID", true)]
    [InlineData("VARCHAR(255)", "PASSWORD_ARGON2ID", false)]
    [InlineData("TEXT", "PASSWORD_ARGON2ID", false)]
    [InlineData("CHAR(60)", "PASSWORD_BCRYPT", false)]
    [InlineData("CHAR(40)", "PASSWORD_BCRYPT", true)]
    [InlineData("TINYINT(1)", "PASSWORD_BCRYPT", false)]
    public void Width_of_the_column(string type, string scheme, bool found) => Assert.Equal(
        found,
        Auditor.Run(("schema.sql", $"CREATE TABLE users (id INT PRIMARY KEY, password_hash {type} NOT NULL);"), ("page.php", $"<?php $h = password_hash($_POST['password'], {scheme});"))
            .Findings.Any(f => f.CheckId == "passwords/column-too-narrow" && f.Path == "schema.sql" && f.Region.StartLine == 1));

    /// <summary>One sign that somebody looks at the length or quality of passwords is enough to be quiet.</summary>
    [Theory]
    [InlineData("a.php", "<?php $h = password_hash($_POST['password'], PASSWORD_DEFAULT);", true)]
    [InlineData("a.php", "<?php if (strlen($_POST['password']) < 12) exit; $h = password_hash($_POST['password'], PASSWORD_DEFAULT);", false)]
    [InlineData("a.php", "<?php $p = trim($_POST['password']); if (mb_strlen($p) < 12) exit; $h = password_hash($p, PASSWORD_DEFAULT);", false)]
    [InlineData("a.php", "<?php if (!preg_match('/^.{12,}$/', $_POST['password'])) exit; $h = password_hash($_POST['password'], PASSWORD_DEFAULT);", false)]
    [InlineData("a.php", "<?php if (password_verify($_POST['password'], $row['hash'])) go();", false)]
    [InlineData("a.php", "<?php $request->validate(['password' => 'required|min:12']); $h = password_hash($_POST['password'], PASSWORD_DEFAULT);", false)]
    [InlineData("a.js", "const bcrypt = require('bcrypt'); const app = require('express')(); app.post('/', async (req, res) => { await bcrypt.hash(req.body.password, 12); });", true)]
    [InlineData("a.js", "const bcrypt = require('bcrypt'); const app = require('express')(); app.post('/', async (req, res) => { if (req.body.password.length < 12) return; await bcrypt.hash(req.body.password, 12); });", false)]
    [InlineData("a.js", "const { z } = require('zod'); const s = z.object({ password: z.string().min(12) }); const bcrypt = require('bcrypt'); const app = require('express')(); app.post('/', async (req, res) => { await bcrypt.hash(req.body.password, 12); });", false)]
    [InlineData("a.js", "const { body } = require('express-validator'); body('password').isLength({ min: 12 }); const bcrypt = require('bcrypt'); const app = require('express')(); app.post('/', async (req, res) => { await bcrypt.hash(req.body.password, 12); });", false)]
    [InlineData("a.js", "const bcrypt = require('bcrypt'); const app = require('express')(); app.post('/', async (req, res) => { if (!isAcceptablePassword(req.body.password)) return; await bcrypt.hash(req.body.password, 12); });", false)]
    public void Any_password(string path, string code, bool found) =>
        Assert.Equal(found, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "passwords/weak-policy"));

    /// <summary>The audit rates settings as the bench rates stored values: there is one rating. The OWASP cheat sheet's equivalents are its edge.</summary>
    [Theory]
    [InlineData(47104, 1)]
    [InlineData(47103, 1)]
    [InlineData(19456, 2)]
    [InlineData(19455, 2)]
    [InlineData(12288, 3)]
    [InlineData(9216, 4)]
    [InlineData(9215, 4)]
    [InlineData(7168, 5)]
    [InlineData(7168, 4)]
    [InlineData(4096, 20)]
    public void Argon2_is_rated_in_code_as_in_a_stored_value(int memory, int passes)
    {
        var isLow = HashRating.Argon2("argon2id", memory, passes, 1).Strength == Strength.BelowMinimum;
        foreach (var (path, code) in new[]
        {
            ("a.js", $"const argon2 = require('argon2');\nrequire('express')().post('/', async (req, res) => res.json(await argon2.hash(req.body.password, {{ type: argon2.argon2id, memoryCost: {memory}, timeCost: {passes} }})));"),
            ("a.php", $"<?php $h = password_hash($_POST['password'], PASSWORD_ARGON2ID, ['memory_cost' => {memory}, 'time_cost' => {passes}]);"),
        })
        {
            var low = Auditor.Run((path, code)).Findings.Where(f => f.CheckId == "passwords/low-work-factor").ToList();
            Assert.Equal(isLow, low.Count == 1);
            Assert.All(low, f => Assert.Contains($"Argon2 is used with {HashRating.Spell(memory)} KiB, {passes} {(passes == 1 ? "pass" : "passes")}", f.Message, StringComparison.Ordinal));
        }
    }

    /// <summary>What is left out has the library's own value: 3 passes of 64 MiB in the npm package, 4 in PHP (their documentation, from memory).</summary>
    [Theory]
    [InlineData("a.js", "{ memoryCost: 12288 }", false)]
    [InlineData("a.js", "{ memoryCost: 12287 }", true)]
    [InlineData("a.js", "{ timeCost: 1 }", false)]
    [InlineData("a.js", "options", false)]
    [InlineData("a.php", "['memory_cost' => 9216]", false)]
    [InlineData("a.php", "['memory_cost' => 9215]", true)]
    public void An_option_that_is_left_out_has_the_librarys_value(string path, string options, bool isLow)
    {
        var code = path.EndsWith("js", StringComparison.Ordinal)
            ? $"const argon2 = require('argon2'); const options = require('./options');\nrequire('express')().post('/', async (req, res) => res.json(await argon2.hash(req.body.password, {options})));"
            : $"<?php $h = password_hash($_POST['password'], PASSWORD_ARGON2ID, {options});";
        Assert.Equal(isLow, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "passwords/low-work-factor"));
    }
}
