using Bellator.Audit.Auditing;

namespace Bellator.Core.Tests;

/// <summary>
/// Values that are bound to a statement before it is run, one by one or by a wrapper of the program's own. What ADO.NET's and PDO's calls mean
/// is their documentation, from memory; the wrappers are common practice.
/// </summary>
public sealed class BoundValueTests
{
    private const string Wrappers = """
        using Npgsql;
        namespace Register;
        public class Db(NpgsqlDataSource source) {
          public async Task<object> Ranged(string sql, params NpgsqlParameter[] args) { await using var cmd = source.CreateCommand(sql); cmd.Parameters.AddRange(args); return await cmd.ExecuteScalarAsync(); }
          public async Task<object> Added(string sql, params NpgsqlParameter[] args) { await using var cmd = source.CreateCommand(sql); foreach (var p in args) cmd.Parameters.Add(p); return await cmd.ExecuteScalarAsync(); }
          public async Task<object> Keyed(string sql, Dictionary<string, object> args) { await using var cmd = source.CreateCommand(sql); foreach (var p in args) cmd.Parameters.AddWithValue(p.Key, p.Value); return await cmd.ExecuteScalarAsync(); }
          public async Task<object> Paired(string sql, params (string Name, object Value)[] args) { await using var connection = await source.OpenConnectionAsync(); await using var cmd = new NpgsqlCommand(sql, connection); foreach (var (name, value) in args) cmd.Parameters.AddWithValue(name, value); return await cmd.ExecuteReaderAsync(); }
        }
        [ApiController, Authorize, Route("hives")]
        public class Hives(Db db, NpgsqlDataSource source) : ControllerBase {
          private string Me => User.FindFirstValue(ClaimTypes.NameIdentifier)!;

        """;

    [Theory]
    [InlineData("await db.Ranged(\"select name from hives where id = @id\", new NpgsqlParameter(\"id\", id))", "chosen")]
    [InlineData("await db.Ranged(\"select name from hives where id = @id and keeper_id = @me\", new NpgsqlParameter(\"id\", id), new NpgsqlParameter(\"me\", User.FindFirstValue(ClaimTypes.NameIdentifier)))", "own")]
    [InlineData("await db.Added(\"select name from hives where id = @id\", new NpgsqlParameter { ParameterName = \"id\", Value = id })", "chosen")]
    [InlineData("await db.Keyed(\"select name from hives where id = @id\", new() { [\"id\"] = id })", "chosen")]
    [InlineData("await db.Paired(\"select name from hives where id = @id\", (\"id\", id))", "chosen")]
    [InlineData("await db.Paired(\"select name from hives where id = @id and keeper_id = @me\", (\"id\", id), (\"me\", User.FindFirstValue(ClaimTypes.NameIdentifier)))", "own")]
    [InlineData("await db.Paired(\"select name from hives where id = @id and keeper_id = @me\", (\"id\", id), (\"me\", Elsewhere.Of(id)))", "unclear")]
    [InlineData("await db.Paired(\"select name from hives where id = @id and keeper_id = @me\", (\"id\", id))", "unclear")]
    public void Wrappers_of_commands(string call, string rows) =>
        Assert.Equal([rows], Rows(("Db.cs", Wrappers + "  [HttpGet(\"{id}\")] public async Task<object> One(int id) => " + call + ";\n}\n")));

    [Theory]
    [InlineData("cmd.Parameters.AddWithValue(\"id\", id);", "select name from hives where id = @id", "chosen")]
    [InlineData("cmd.Parameters.AddWithValue(\"id\", id); cmd.Parameters.AddWithValue(\"me\", User.FindFirstValue(ClaimTypes.NameIdentifier));", "select name from hives where id = @id and keeper_id = @me", "own")]
    [InlineData("cmd.Parameters.AddWithValue(\"me\", User.FindFirstValue(ClaimTypes.NameIdentifier)); cmd.Parameters.AddWithValue(\"id\", id);", "select name from hives where id = @id and keeper_id = @me", "own")]
    [InlineData("cmd.Parameters.Add(new NpgsqlParameter(\"id\", id));", "select name from hives where id = @id", "chosen")]
    [InlineData("cmd.Parameters.Add(new() { Value = id }); cmd.Parameters.Add(new() { Value = User.FindFirstValue(ClaimTypes.NameIdentifier) });", "select name from hives where id = $1 and keeper_id = $2", "own")]
    [InlineData("", "select name from hives", "all")]
    public void Commands(string bindings, string text, string rows) =>
        Assert.Equal([rows], Rows(("Db.cs", Wrappers + "  [HttpGet(\"{id}\")] public async Task<object> One(int id) { await using var cmd = source.CreateCommand(\"" + text + "\"); " + bindings + " return await cmd.ExecuteScalarAsync(); }\n}\n")));

    [Theory]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = :id AND keeper_id = :me'); $st->bindValue(':id', $_GET['id']); $st->bindValue(':me', $_SESSION['user_id']); $st->execute(); echo json_encode($st->fetchAll());", "own")]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = ? AND keeper_id = ?'); $st->bindValue(1, $_GET['id']); $st->bindValue(2, $_SESSION['user_id']); $st->execute(); echo json_encode($st->fetchAll());", "own")]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = :id'); $st->bindValue(':id', $_GET['id']); $st->execute(); echo json_encode($st->fetch());", "chosen")]
    [InlineData("echo json_encode(rows($db, 'SELECT name FROM hives WHERE id = :id', [':id' => $_GET['id']]));", "chosen")]
    [InlineData("echo json_encode(rows($db, 'SELECT name FROM hives WHERE id = :id AND keeper_id = :me', [':id' => $_GET['id'], ':me' => $_SESSION['user_id']]));", "own")]
    [InlineData("echo json_encode(rows($db, 'SELECT name FROM hives WHERE id = :id AND keeper_id = :me', [':id' => $_GET['id']]));", "unclear")]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = :id'); foreach ($_SESSION['marked'] as $one) { $st->bindValue(':id', $_GET['id']); $st->execute(); } echo json_encode($st->fetch());", "chosen")]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = :id AND keeper_id = :me'); foreach ($_GET['marks'] as $mark) { $st->bindValue(':id', $mark['id']); $st->bindValue(':me', $_SESSION['user_id']); $st->execute(); } echo json_encode($st->fetch());", "own")]
    [InlineData("$st = $db->prepare('SELECT name FROM hives WHERE id = ? AND keeper_id = ?'); $i = 1; foreach ([$_GET['id'], $_SESSION['user_id']] as $v) { $st->bindValue($i++, $v); } $st->execute(); echo json_encode($st->fetch());", "own")]
    public void Statements_of_Pdo(string code, string rows) =>
        Assert.Equal([rows], Rows(("page.php", "<?php session_start(); $db = new PDO('x');\nfunction rows($db, $sql, $params = []) { $st = $db->prepare($sql); foreach ($params as $k => $v) { $st->bindValue($k, $v); } $st->execute(); return $st->fetchAll(); }\n" + code)));

    /// <summary>What is bound is harmless; what is written into the text of the command is not.</summary>
    [Theory]
    [InlineData("source.CreateCommand(\"select name from hives where id = \" + id)", true)]
    [InlineData("source.CreateCommand(\"select name from hives where id = @id\")", false)]
    public void Texts_of_commands(string command, bool isWeak)
    {
        var code = Wrappers + "  [HttpGet(\"{id}\")] public async Task<object> One(string id) { await using var cmd = " + command + "; cmd.Parameters.AddWithValue(\"id\", id); return await cmd.ExecuteScalarAsync(); }\n}\n";
        Assert.Equal(isWeak, Auditor.Run(("Db.cs", code)).Findings.Any(f => f.CheckId == "injection/sql"));
    }

    /// <summary>Each value is held against its own column, also where a wrapper spreads a list over the arguments.</summary>
    [Theory]
    [InlineData("mysqli_stmt_bind_param($st, $types, ...$args);")]
    [InlineData("$st->bind_param($types, ...$args);")]
    public void Lists_that_are_spread(string binding)
    {
        var code = "<?php session_start(); function run($sql, $types, $args) { $st = mysqli_prepare(mysqli_connect(), $sql); " + binding + " mysqli_stmt_execute($st); }\nrun('DELETE FROM hives WHERE id = ? AND keeper_id = ?', 'ii', array((int) $_POST['id'], $_SESSION['user_id']));";
        var use = Assert.Single(Auditor.Run(("page.php", code)).Records.Uses, u => u.Table == "hives");
        Assert.Equal(("own", "record.keeper_id = subject.user_id AND record.id = request.id"), (use.Rows, use.Condition));
    }

    private static IEnumerable<string> Rows((string, string) file) => Auditor.Run(file).Records.Uses.Where(u => u.Table == "hives").Select(u => u.Rows).Distinct();
}
