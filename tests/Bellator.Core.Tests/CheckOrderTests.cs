using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// A check protects a change where it comes before it, on the same way, and where its answer decides (CWE-696, CWE-252, CWE-639; OWASP ASVS 5.0,
/// V8.2.2). Common practice, no published list.
/// </summary>
public sealed class CheckOrderTests
{
    private const string Schema = "create table apiaries (id int primary key, district_id int not null, name text); create table duties (keeper_id int not null, district_id int not null); create table notes (id int primary key, keeper_id int not null, text text);\n";

    private const string Php = """
        <?php
        session_start();
        $pdo = new PDO('pgsql:dbname=register');
        if (!isset($_SESSION['keeper_id'])) { http_response_code(401); exit; }
        function one(string $sql, array $args) { global $pdo; $s = $pdo->prepare($sql); $s->execute($args); return $s->fetch(); }
        function on_duty($district): bool { return (bool) one('SELECT 1 FROM duties WHERE keeper_id = ? AND district_id = ?', [$_SESSION['keeper_id'], $district]); }
        function demand_duty($district): void { if (!on_duty($district)) { http_response_code(403); exit; } }
        $id = (int) $_POST['id'];

        """;

    private const string Mine = "<?php\nsession_start();\n$pdo = new PDO('pgsql:dbname=register');\nif (!isset($_SESSION['keeper_id'])) { exit; }\n$s = $pdo->prepare('SELECT text FROM notes WHERE keeper_id = ?'); $s->execute([$_SESSION['keeper_id']]);\n$a = $pdo->prepare('SELECT a.name FROM apiaries a WHERE a.district_id = ?'); $a->execute([$_SESSION['district_id']]);\necho json_encode($s->fetchAll());\n";

    [Theory]
    [InlineData("$a = one('SELECT * FROM apiaries WHERE id = ?', [$id]); demand_duty($a['district_id']); one('UPDATE apiaries SET name = ? WHERE id = ?', [$_POST['name'], $id]);")]
    [InlineData("$a = one('SELECT * FROM apiaries WHERE id = ?', [$id]); if (!on_duty($a['district_id'])) { exit; } one('UPDATE apiaries SET name = ? WHERE id = ?', [$_POST['name'], $id]);")]
    [InlineData("$n = one('SELECT * FROM notes WHERE id = ?', [$id]); if ($n['keeper_id'] !== $_SESSION['keeper_id']) { exit; } one('DELETE FROM notes WHERE id = ?', [$id]);")]
    [InlineData("$n = one('SELECT * FROM notes WHERE id = ?', [$id]); if ($n['keeper_id'] === $_SESSION['keeper_id']) { one('DELETE FROM notes WHERE id = ?', [$id]); }")]
    [InlineData("$n = one('SELECT * FROM notes WHERE id = ?', [$id]); $mine = $n['keeper_id'] === $_SESSION['keeper_id']; if ($mine) { one('DELETE FROM notes WHERE id = ?', [$id]); }")]
    [InlineData("$n = one('SELECT * FROM notes WHERE id = ?', [$id]); if ($n['keeper_id'] !== $_SESSION['keeper_id'] && $_SESSION['role'] !== 'inspector') { exit; } one('DELETE FROM notes WHERE id = ?', [$id]);")]
    public void Before_the_change(string code) => Assert.Empty(Records(code));

    [Theory]
    [InlineData("$a = one('SELECT * FROM apiaries WHERE id = ?', [$id]); if ($_SERVER['REQUEST_METHOD'] === 'GET') { demand_duty($a['district_id']); echo json_encode($a); exit; } one('UPDATE apiaries SET name = ? WHERE id = ?', [$_POST['name'], $id]);", "records/no-owner-condition")]
    [InlineData("one('DELETE FROM notes WHERE id = ?', [$id]); $n = one('SELECT * FROM notes WHERE id = ?', [$id]); if ($n['keeper_id'] !== $_SESSION['keeper_id']) { exit; }", "records/no-owner-condition")]
    [InlineData("$n = one('SELECT * FROM notes WHERE id = ?', [$id]); if ($n['keeper_id'] !== $_SESSION['keeper_id']) error_log('not theirs'); one('DELETE FROM notes WHERE id = ?', [$id]);", "records/no-owner-condition")]
    [InlineData("on_duty((int) $_POST['district']); one('UPDATE apiaries SET name = ? WHERE id = ?', [$_POST['name'], $id]);", "records/check-ignored")]
    public void Not_before_it(string code, string check) => Assert.Contains(check, Records(code));

    private static IEnumerable<string> Records(string code) => Auditor.Run(("change.php", Php + code), ("mine.php", Mine), ("schema.sql", Schema))
        .Findings.Select(f => f.CheckId).Where(c => c.StartsWith("records/", StringComparison.Ordinal)).Distinct();
}
