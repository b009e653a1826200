using System.Runtime.CompilerServices;
using Bellator.Analysis.Domain;

namespace Bellator.Audit.Sql;

/// <summary>A column that a statement gives, or with <c>*</c> for its name all columns of a table.</summary>
/// <param name="Table">The table it is of, as far as an alias or the only table tells; null where it may be any of them.</param>
/// <param name="As">The name under which it is given.</param>
public readonly record struct SelectedColumn(string? Table, string Name, string As);

/// <summary>
/// The columns of the rows that a statement gives: its outermost list behind SELECT or RETURNING. Columns that a function or an
/// operator makes something else of are left out, and so is everything from the first place on where a value is put into the text.
/// </summary>
public sealed class SelectedColumns : SqlTokenReader
{
    /// <summary>More columns are no longer looked at: statements that are made by programs can be of any length.</summary>
    private const int MostTokens = 4_000;

    /// <summary>Answers in lists are asked about again and again.</summary>
    private static readonly ConditionalWeakTable<AbstractValue, IReadOnlyList<SelectedColumn>> Read = [];

    private readonly List<SelectedColumn> _columns = [];
    private readonly Dictionary<string, string> _aliases = new(StringComparer.OrdinalIgnoreCase);
    private string? _only;

    private SelectedColumns(List<SqlToken> tokens)
        : base(tokens)
    {
    }

    /// <summary>What the statements give that a text may be.</summary>
    public static IReadOnlyList<SelectedColumn> Of(AbstractValue statement) => Read.GetValue(statement, static s => [.. Texts(s).SelectMany(Of).Distinct()]);

    /// <summary>What one statement gives.</summary>
    public static IReadOnlyList<SelectedColumn> Of(string statement) => new SelectedColumns([.. SqlTokens.Of(statement).Take(MostTokens)]).ReadAll();

    private static IEnumerable<string> Texts(AbstractValue statement) => statement.Constant is { } known ? [known]
        : (statement.Text?.Alternatives ?? []).Select(pieces => string.Concat(pieces.Select(p => p.Literal ?? " ? ")));

    private List<SelectedColumn> ReadAll()
    {
        ReadTables();
        var begin = Tokens.FindIndex(t => t.IsWord("SELECT") || t.IsWord("RETURNING"));
        if (Tokens.Count > 0 && Tokens[0].IsWord("WITH"))
        {
            // What is named before is used by the last statement, which stands outside of all brackets.
            begin = Outermost("SELECT");
        }
        else if (Tokens.Count > 0 && !Tokens[0].IsWord("SELECT"))
        {
            begin = Outermost("RETURNING");
        }

        if (begin < 0)
        {
            return [];
        }

        Position = begin + 1;
        if (Skip("DISTINCT") && Skip("ON"))
        {
            SkipBrackets();
        }

        while (Position < Tokens.Count && !Here.IsWord("FROM") && !Here.IsSign(';'))
        {
            ReadColumn();
        }

        return _columns;
    }

    private int Outermost(string word)
    {
        var depth = 0;
        for (var i = 0; i < Tokens.Count; i++)
        {
            depth += Tokens[i].IsSign('(') ? 1 : Tokens[i].IsSign(')') ? -1 : 0;
            if (depth == 0 && Tokens[i].IsWord(word))
            {
                return i;
            }
        }

        return -1;
    }

    /// <summary>The tables, wherever they are named, and what they are called in the statement.</summary>
    private void ReadTables()
    {
        var tables = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        for (var i = 0; i + 1 < Tokens.Count; i++)
        {
            if (!(Tokens[i].IsWord("FROM") || Tokens[i].IsWord("JOIN") || Tokens[i].IsWord("INTO") || Tokens[i].IsWord("UPDATE") || (Tokens[i].IsSign(',') && tables.Count > 0 && _only is not null)))
            {
                continue;
            }

            Position = i + 1;
            if (ReadName() is not { } table || Words.Contains(table))
            {
                continue;
            }

            tables.Add(table);
            _aliases[table] = table;
            Skip("AS");
            if (Here.IsName && !Words.Contains(Here.Value))
            {
                _aliases[Here.Value] = table;
            }

            _only = tables.Count == 1 ? table : null;
        }
    }

    /// <summary>Words that may follow a table and are no name for it.</summary>
    private static readonly HashSet<string> Words = new(StringComparer.OrdinalIgnoreCase)
    {
        "WHERE", "JOIN", "INNER", "LEFT", "RIGHT", "FULL", "CROSS", "NATURAL", "OUTER", "ON", "USING", "GROUP", "ORDER", "LIMIT", "OFFSET", "FETCH", "HAVING", "UNION", "SET", "VALUES", "SELECT", "LATERAL", "FOR", "RETURNING",
        "DEFAULT", "WITH", "EXCEPT", "INTERSECT", "WINDOW", "ONLY",
    };

    private void ReadColumn()
    {
        var first = Position;
        while (Position < Tokens.Count && !Here.IsSign(',') && !Here.IsWord("FROM") && !Here.IsSign(';'))
        {
            if (Here.IsSign('('))
            {
                SkipBrackets();
            }
            else
            {
                Position++;
            }
        }

        var parts = Tokens[first..Position];
        SkipSign(',');
        var path = parts.TakeWhile((t, i) => t.IsName || t.IsSign('*') || t.IsSign('.')).ToList();
        var length = 0;
        while (length < path.Count && (length % 2 == 0 ? path[length].IsName || path[length].IsSign('*') : path[length].IsSign('.')))
        {
            length++;
        }

        length -= length % 2 == 0 ? 1 : 0;
        if (length <= 0)
        {
            return;
        }

        // Behind the column only another name for it may stand.
        var name = path[length - 1].Value;
        string? given = name;
        if (parts.Count > length)
        {
            var rest = parts[length..];
            given = rest is [{ IsName: true } only] ? only.Value : rest is [var mark, { IsName: true } named] && mark.IsWord("AS") ? named.Value : null;
        }

        if (given is not null)
        {
            var table = length >= 3 ? _aliases.GetValueOrDefault(path[length - 3].Value) : _only;
            _columns.Add(new SelectedColumn(table, name, given));
            if (table is null && name == "*")
            {
                _columns.AddRange(_aliases.Values.Distinct(StringComparer.OrdinalIgnoreCase).Select(t => new SelectedColumn(t, "*", "*")));
            }
        }
    }
}
