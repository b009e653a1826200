namespace Bellator.Core.Tests;

/// <summary>Stored cross-site scripting where nothing escapes by itself. That what people typed has to be escaped when it is printed is common practice.</summary>
public sealed class StoredOutputTests
{
    private const string Schema = "CREATE TABLE users (id int PRIMARY KEY, email varchar(200), password varchar(255));\nCREATE TABLE ponds (id int PRIMARY KEY, name varchar(80), remarks text, area int, code char(4));\n";

    private const string Database = """
        <?php
        $conn = mysqli_connect('db', getenv('U'), getenv('P'), 'ponds');
        function fetch_all(string $sql, string $types = '', ...$args): array {
            global $conn;
            $st = $conn->prepare($sql);
            if ($types !== '') $st->bind_param($types, ...$args);
            $st->execute();
            return $st->get_result()->fetch_all(MYSQLI_ASSOC);
        }
        """;

    [Theory]
    [InlineData("$_POST['remarks']", "$p['remarks']", true)]
    [InlineData("trim($_POST['remarks'])", "$p['remarks']", true)]
    [InlineData("htmlspecialchars($_POST['remarks'])", "$p['remarks']", false)]
    [InlineData("$_POST['remarks']", "htmlspecialchars($p['remarks'])", false)]
    [InlineData("$_POST['remarks']", "(int) $p['remarks']", false)]
    [InlineData("$_POST['remarks']", "$p['area']", false)]
    [InlineData("'none yet'", "$p['remarks']", false)]
    public void What_was_stored_as_it_was_sent_is_printed(string stored, string printed, bool isWeak)
    {
        var result = Auditor.Run(
            ("schema.sql", Schema),
            ("db.php", Database),
            ("save.php", $$"""
                <?php
                require 'db.php';
                $st = $conn->prepare('INSERT INTO ponds (name, remarks) VALUES (?, ?)');
                $remarks = {{stored}};
                $st->bind_param('ss', $_POST['name'], $remarks);
                $st->execute();
                """),
            ("list.php", $$"""
                <?php
                require 'db.php';
                foreach (fetch_all('SELECT * FROM ponds') as $p) { echo '<li>' . {{printed}} . '</li>'; }
                """));
        Assert.Equal(isWeak, result.Findings.Any(f => f.Check.Id == "injection/page-output"));
    }

    [Theory]
    [InlineData("<?= h($m['name']) ?> <?= h($m['place']) ?> <?= $m['motto'] ?>", true)]
    [InlineData("<?= h($m['name']) ?> <?= $m['motto'] ?>", false)]
    [InlineData("<?= h($m['name']) ?> <?= h($m['place']) ?> <?= $m['visits'] ?>", false)]
    public void A_page_that_escapes_has_forgotten_one(string page, bool isWeak)
    {
        var result = Auditor.Run(("list.php", $$"""
            <?php
            $conn = mysqli_connect('db', getenv('U'), getenv('P'), 'ponds');
            function h($s) { return htmlspecialchars((string) $s, ENT_QUOTES, 'UTF-8'); }
            $rows = mysqli_query($conn, 'SELECT name, place, motto, visits FROM keepers');
            while ($m = mysqli_fetch_assoc($rows)) { ?>
            <li>{{page}}</li>
            <?php } ?>
            """));
        Assert.Equal(isWeak, result.Findings.Any(f => f.Check.Id == "injection/page-output"));
    }

    [Fact]
    public void A_row_that_procedural_calls_fetched_keeps_its_statement()
    {
        var result = Auditor.Run(("schema.sql", Schema), ("login.php", """
            <?php
            session_start();
            $conn = mysqli_connect('db', getenv('U'), getenv('P'), 'ponds');
            $user = mysqli_fetch_assoc(mysqli_query($conn, 'SELECT * FROM users WHERE id = 3'));
            $_SESSION['user'] = $user;
            """));
        Assert.Contains(result.Findings, f => f.Check.Id == "passwords/in-session");
    }

    [Fact]
    public void What_stands_in_a_statement_that_is_prepared_limits_its_rows()
    {
        var result = Auditor.Run(("schema.sql", Schema.Replace("area int", "user_id int", StringComparison.Ordinal)), ("db.php", Database), ("mine.php", """
            <?php
            require 'db.php';
            session_start();
            fetch_all('SELECT name FROM ponds WHERE user_id = ' . (int) $_SESSION['user_id']);
            fetch_all('SELECT name FROM ponds WHERE id = ' . (int) $_GET['id']);
            """));
        var uses = result.Records.Uses.Where(u => u.Table == "ponds").ToList();
        Assert.Equal(["chosen", "own"], uses.Select(u => u.Rows).Order());
    }
}
