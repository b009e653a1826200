using Bellator.Analysis.Events;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A request value stands in a statement's text where it can change what the statement does.</summary>
public sealed class SqlInjection : StatementCheck
{
    public override string Id => "injection/sql";

    public override string Title => "SQL injection";

    public override IReadOnlyList<int> Cwes => [89];

    public override IReadOnlyList<string> Asvs => ["V1.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:L";

    public override string Why =>
        "The database cannot tell which part of the text the program meant and which part a visitor sent. A visitor who ends the value early can read other people's rows, sign in without a password or change data.";

    public override string FalsePositiveIf =>
        "The value can only be one of a few the program chose, or is a number, and the test for that lies outside of the code that was read.";

    public override string HowToFix(string language) => language switch
    {
        "python" => "Bind the value: cursor.execute('… WHERE name = %s', (name,)), or text('… = :name') with its parameters. A column name or sort direction cannot be bound: choose it from a fixed dict.",
        "ruby" => "Bind the value: where('name LIKE ?', \"%#{sanitize_sql_like(text)}%\") or where(name: name). A column name or sort direction cannot be bound: choose it from a fixed hash.",
        "csharp" => "Bind the value: command.Parameters.AddWithValue(\"@name\", name), new { name } with Dapper, FromSql($\"… {name}\") with Entity Framework. A column name or sort direction cannot be bound: choose it with a switch.",
        "php" => "Bind the value: $db->prepare('… WHERE name = ?') and execute([$name]). A column name or sort direction cannot be bound: choose it from a fixed list, such as $columns[$_GET['sort']] ?? 'name'.",
        _ => "Bind the value: query('… WHERE name = $1', [name]), or ? with mysql2 and better-sqlite3. A column name or sort direction cannot be bound: choose it from a fixed object of allowed names.",
    };

    protected override string What => "a statement";

    protected override bool Covers(AnalysisEvent happening) => happening.Fact?.Query?.Objects != true;
}
