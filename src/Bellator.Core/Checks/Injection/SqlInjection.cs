using Bellator.Core.Application;
using Bellator.Core.Flow;

namespace Bellator.Core.Checks.Injection;

/// <summary>A request value stands in a statement's text where it can change what the statement does.</summary>
public sealed class SqlInjection : Check
{
    public override string Id => "injection/sql";

    public override string Title => "Request value becomes part of a statement";

    public override IReadOnlyList<int> Cwes => [89];

    public override IReadOnlyList<string> Asvs => ["V1.2.4"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:L";

    public override string Why =>
        "The database cannot tell which part of the text the program meant and which part a visitor sent. A visitor who ends the value early can read other people's rows, sign in without a password or change data.";

    public override string FalseAlarm =>
        "The value can only be one of a few the program chose, or is a number, and the test for that lies outside of the code that was read.";

    public override string Mend(string language) => language switch
    {
        "python" => "Bind the value: cursor.execute('… WHERE name = %s', (name,)), or text('… = :name') with its parameters. A column name or sort direction cannot be bound: choose it from a fixed dict.",
        "ruby" => "Bind the value: where('name LIKE ?', \"%#{sanitize_sql_like(text)}%\") or where(name: name). A column name or sort direction cannot be bound: choose it from a fixed hash.",
        "csharp" => "Bind the value: command.Parameters.AddWithValue(\"@name\", name), new { name } with Dapper, FromSql($\"… {name}\") with Entity Framework. A column name or sort direction cannot be bound: choose it with a switch.",
        "php" => "Bind the value: $db->prepare('… WHERE name = ?') and execute([$name]). A column name or sort direction cannot be bound: choose it from a fixed list, such as $columns[$_GET['sort']] ?? 'name'.",
        _ => "Bind the value: query('… WHERE name = $1', [name]), or ? with mysql2 and better-sqlite3. A column name or sort direction cannot be bound: choose it from a fixed object of allowed names.",
    };

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var happening in context.EventsOf(EventKind.Query))
        {
            foreach (var statement in Statements.Of(happening.Role("text")))
            {
                foreach (var slot in statement.Slots.Where(s => s.Hole is not null))
                {
                    var open = slot.Hole!.Taints.Where(t => t.Origin.Kind == OriginKind.Request && (t.Safe & slot.Position) == 0 && t.Hiding == Hiding.Plain).ToList();
                    if (open.Count == 0 && slot.Position == Position.SqlText && SecondOrder(context, slot.Hole) is { } stored)
                    {
                        open.Add(stored);
                    }

                    if (open.Count > 0)
                    {
                        yield return Found(happening, statement, slot, open);
                    }
                }
            }
        }
    }

    /// <summary>A stored text that goes into another statement unescaped: whoever could write it decides what that statement does. Numbers and dates, by their names, cannot.</summary>
    private static Taint? SecondOrder(CheckContext context, Piece hole) => hole.Taints.FirstOrDefault(t =>
        t.Origin is { Kind: OriginKind.Stored, Name: { } name } && (t.Safe & Position.SqlText) == 0 && t.Hiding == Hiding.Plain && name != Origin.AnyName && !context.Words.IsNumberColumn(name));

    private Finding Found(FlowEvent happening, SqlStatement statement, SqlSlot slot, List<Taint> open)
    {
        var best = open.OrderBy(t => t.Guessed).ThenBy(t => t.Altered).First();
        var witness = SqlWitness.For(statement.Pieces, slot, (best.Safe & Position.SqlText) != 0);
        var place = slot.Hole!.At.IsKnown ? slot.Hole.At : happening.At;
        var names = string.Join(", ", open.Select(t => CheckContext.Describe(t.Origin)).Distinct().Take(3));
        var verb = open.Count == 1 ? "stands" : "stand";
        return new Finding
        {
            Check = this,
            At = place,
            Certainty = CheckContext.WithWitness(CheckContext.CertaintyOf(best, happening.Guessed), witness, best),
            Witness = witness,
            Message = $"{char.ToUpperInvariant(names[0])}{names[1..]} {verb} in a statement {Where(slot, best)}.",
            Steps = CheckContext.Steps(best, happening.At, "sent to the database"),
            Related = [happening.At],
            Subject = best.Origin.Name ?? best.Origin.Part,
        };
    }

    private static string Where(SqlSlot slot, Taint taint)
    {
        var escaped = (taint.Safe & Position.SqlText) != 0 && slot.Position != Position.SqlText;
        return slot.Position switch
        {
            Position.SqlText when slot.Like => "inside the quotes of a search pattern, unescaped",
            Position.SqlText => "inside quotes, unescaped",
            Position.SqlIdentifier => "as a quoted name, without a list of allowed names",
            _ when escaped => "without quotes; it is escaped, which only helps between quotes",
            _ when slot.Clause == SqlClause.OrderOrGroup => "as a column or direction to sort by, without a list of allowed ones",
            _ when slot.Clause == SqlClause.Limit => "as a limit, without being made a number",
            _ => "without quotes, and nothing makes it a number or checks it against a list",
        };
    }
}
