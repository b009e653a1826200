namespace Bellator.Core.Tests;

/// <summary>Weaknesses that packages have by themselves, before any request: defaults, escapers, folder tests, comparisons.</summary>
public sealed class LibraryCodeTests
{
    [Theory]
    [InlineData("a.js", "class Derive { }\nDerive.defaults = { keySize: 4, hasher: SHA1, iterations: 1 };\n", true)]
    [InlineData("a.js", "exports.derive = (password, salt, iterations = 1000) => inner(password, salt, iterations);\n", true)]
    [InlineData("a.py", "def derive(password, salt, iterations=20_000, digest='sha256'):\n    return inner(password, salt, iterations, digest)\n", true)]
    [InlineData("a.js", "exports.defaults = { hash: 'SHA-512', iterations: 210000 };\n", false)]
    [InlineData("a.js", "exports.defaults = { iterations: 5, warmup: 2 };\n", false)]
    [InlineData("a.py", "def settle(model, iterations=100):\n    return inner(model, iterations)\n", false)]
    public void Few_rounds_by_default(string path, string code, bool isFound) => Assert.Equal(isFound, IsFound(path, code, "passwords/low-default-work-factor"));

    [Theory]
    [InlineData("a.js", "exports.name = v => `[${v.replace(/\\[/g, '[')}]`;", true)]
    [InlineData("a.js", "exports.name = v => `'${v.replace(\"'\", \"''\")}'`;", true)]
    [InlineData("a.js", "exports.name = v => v.replace(/</, '&lt;');", true)]
    [InlineData("a.php", "<?php function name($v) { return '\"' . str_replace('\"', '\"', $v) . '\"'; }", true)]
    [InlineData("a.js", "exports.name = v => `[${v.replace(/\\]/g, ']]')}]`;", false)]
    [InlineData("a.js", "exports.name = v => v.replaceAll(\"'\", \"''\");", false)]
    [InlineData("a.js", "exports.name = v => v.replace('{name}', 'hive').replace(/[<>]/g, '');", false)]
    [InlineData("a.py", "def name(v):\n    return v.replace(\"'\", \"''\")\n", false)]
    public void Escaping_that_leaves_the_sign(string path, string code, bool isFound) => Assert.Equal(isFound, IsFound(path, code, "injection/escape-incomplete"));

    [Theory]
    [InlineData("a.py", "import os\ndef target(folder, name):\n    base = os.path.abspath(folder)\n    path = os.path.abspath(os.path.join(base, name))\n    if not path.startswith(base):\n        raise ValueError(name)\n    return path\n", true)]
    [InlineData("a.js", "const path = require('path');\nexports.target = (folder, name) => { const base = path.resolve(folder); const to = path.resolve(base, name); if (!to.startsWith(base)) throw new Error(); return to; };", true)]
    [InlineData("a.php", "<?php function target($name) { $to = realpath('/srv/data/' . $name); if (strpos($to, '/srv/data') !== 0) { return null; } return $to; }", true)]
    [InlineData("a.rb", "class Store\n  def target(name)\n    to = File.expand_path(name, '/srv/data')\n    raise 'no' unless to.start_with?('/srv/data')\n    to\n  end\nend\n", true)]
    [InlineData("A.cs", "public class A { public string Target(string folder, string name) { var at = Path.GetFullPath(folder); var to = Path.GetFullPath(Path.Combine(at, name)); if (!to.StartsWith(at)) throw new Exception(); return to; } }", true)]
    [InlineData("a.py", "import os\ndef target(folder, name):\n    base = os.path.abspath(folder)\n    path = os.path.abspath(os.path.join(base, name))\n    if not path.startswith(base + os.sep):\n        raise ValueError(name)\n    return path\n", false)]
    [InlineData("a.js", "const path = require('path');\nexports.target = (folder, name) => { const base = path.resolve(folder) + path.sep; const to = path.resolve(base, name); if (!to.startsWith(base)) throw new Error(); return to; };", false)]
    [InlineData("a.php", "<?php function target($name) { $to = realpath('/srv/data/' . $name); if (strpos($to, '/srv/data/') !== 0) { return null; } return $to; }", false)]
    [InlineData("a.py", "def target(name):\n    return name.startswith('/srv/data')\n", false)]
    public void Folders_told_by_how_a_path_begins(string path, string code, bool isFound) => Assert.Equal(isFound, IsFound(path, code, "injection/path-prefix-open"));

    [Theory]
    [InlineData("function same($oldPassword, $storedPassword) { return $oldPassword == $storedPassword; }", true)]
    [InlineData("class P { function compare($curpwd, $newpwd) { return $curpwd != $newpwd ? 1 : 0; } }", true)]
    [InlineData("function same($oldPassword, $storedPassword) { return $oldPassword === $storedPassword; }", false)]
    [InlineData("function same($password, $passwordConfirm) { return $password == $passwordConfirm; }", false)]
    [InlineData("function same($password1, $password2) { return $password1 == $password2; }", false)]
    [InlineData("function none($password) { return $password == ''; }", false)]
    public void Passwords_taken_for_numbers(string code, bool isFound) => Assert.Equal(isFound, IsFound("a.php", "<?php " + code, "passwords/compare-loose"));

    [Fact]
    public void Texts_are_not_taken_for_numbers_everywhere() =>
        Assert.False(IsFound("a.js", "exports.same = (oldPassword, storedPassword) => oldPassword == storedPassword;", "passwords/compare-loose"));

    [Theory]
    [InlineData("a.php", "<?php function run($text, $attrs) { $code = strtr($text, array_map('addslashes', $attrs)); return eval(\"return ($code);\"); }", true)]
    [InlineData("a.py", "def run(name, rows):\n    return eval('rows.' + name.strip() + '()')\n", true)]
    [InlineData("a.php", "<?php function run() { return eval('return 1;'); }", false)]
    [InlineData("a.php", "<?php function run($n) { return eval('return ' . (int) $n . ' + 1;'); }", false)]
    [InlineData("a.php", "<?php function run($code) { return eval($code); }", false)]
    public void Code_put_together(string path, string code, bool isFound) => Assert.Equal(isFound, IsFound(path, code, "injection/code"));

    [Theory]
    [InlineData("const jws = require('jws');\nexports.check = (token, key) => jws.verify(token, key);", true)]
    [InlineData("const jws = require('jws');\nexports.check = (token, key) => jws.verify(token, 'HS256', key);", false)]
    [InlineData("const jws = require('jws');\nexports.check = (token, key) => { const { header } = jws.decode(token); if (header.alg !== 'HS256') { throw new Error(); } return jws.verify(token, key); };", false)]
    public void The_algorithm_of_a_token(string code, bool isFound) => Assert.Equal(isFound, IsFound("a.js", code, "sessions/token-algorithm-open"));

    private static bool IsFound(string path, string code, string check) => Auditor.Run((path, code)).Findings.Any(f => f.CheckId == check);
}
