namespace Bellator.Core.Tests;

/// <summary>Signing in, weak and right.</summary>
public sealed class SessionCheckTests
{
    private const string Find = "$s = $db->prepare('SELECT * FROM users WHERE name = ?'); $s->execute([$_POST['name']]); $user = $s->fetch(); ";

    [Theory]
    [InlineData("login.php", "<?php " + Find + "if (!$user) { die('No such user'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong password'); }", true)]
    [InlineData("auth.php", "<?php function login($db) { " + Find + "if ($user === false) { return 'No such user'; } elseif (password_verify($_POST['password'], $user['password_hash'])) { return ''; } else { return 'Wrong password'; } }", true)]
    [InlineData("login.php", "<?php " + Find + "if (!$user || !password_verify($_POST['password'], $user['password_hash'])) { die('Wrong name or password'); }", false)]
    [InlineData("login.php", "<?php " + Find + "if (!$user) { die('Wrong name or password'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong name or password'); }", false)]
    [InlineData("change.php", "<?php " + Find + "if (!$user) { die('No such user'); } if (!password_verify($_POST['password'], $user['password_hash'])) { die('Wrong password'); }", false)]
    [InlineData("app.js", "app.post('/login', async (req, res) => { const user = await users.find(req.body.name); if (user == null) return res.status(404).end(); if (!await bcrypt.compare(req.body.password, user.passwordHash)) return res.status(401).end(); res.end(); });", true)]
    [InlineData("app.js", "app.post('/login', async (req, res) => { const user = await users.find(req.body.name); const ok = user && await bcrypt.compare(req.body.password, user.passwordHash); if (!ok) return res.status(401).end(); res.end(); });", false)]
    [InlineData("app.py", "def login():\n    user = find(request.form['name'])\n    if user is None:\n        return 'no such user', 404\n    if not check_password_hash(user.password_hash, request.form['password']):\n        return 'wrong password', 401\n    return 'ok'\n", true)]
    public void Account_enumeration(string path, string code, bool found) =>
        Assert.Equal(found, Auditor.Run((path, code)).Findings.Any(f => f.CheckId == "sessions/account-enumeration"));
}
