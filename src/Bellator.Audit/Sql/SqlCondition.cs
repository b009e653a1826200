namespace Bellator.Audit.Sql;

/// <summary>The condition of a statement as AND and OR put it together: AND binds before OR.</summary>
public sealed class SqlCondition : SqlTokenReader
{
    /// <summary>Conditions nested deeper are not told apart.</summary>
    private const int MaxDepth = 12;

    private readonly HashSet<string> _columns;
    private readonly List<string> _widening = [];

    private SqlCondition(List<SqlToken> tokens, HashSet<string> columns)
        : base(tokens) => _columns = columns;

    /// <summary>
    /// The columns of alternatives that let rows through whatever the given columns hold, in a statement that holds these against something
    /// in another alternative. Empty where every row that comes through was held against one of them, or none is mentioned.
    /// </summary>
    public static IReadOnlyList<string> Widening(string statement, IReadOnlyList<string> columns)
    {
        var tokens = SqlTokens.Of(statement).ToList();
        var where = tokens.FindIndex(t => t.IsWord("WHERE"));
        if (where < 0 || !tokens.Exists(t => t.IsWord("OR")))
        {
            return [];
        }

        var reader = new SqlCondition(tokens, [.. columns.Select(c => c[(c.LastIndexOf('.') + 1)..])]) { Position = where + 1 };
        return reader.ReadAny(0) == Holding.Yes ? [] : reader._widening;
    }

    private enum Holding
    {
        /// <summary>The columns are not mentioned.</summary>
        No,

        /// <summary>One of the alternatives holds rows against them, another does not.</summary>
        Partly,
        Yes,
    }

    private bool AtEnd => Position >= Tokens.Count || Here.IsSign(')') || Here.IsSign(';') || Ends.Any(w => Here.IsWord(w));

    private static readonly string[] Ends = ["GROUP", "ORDER", "LIMIT", "RETURNING", "HAVING", "UNION", "EXCEPT", "INTERSECT", "FOR", "OFFSET", "FETCH", "WINDOW"];

    /// <summary>Alternatives: rows are held if every one of them holds.</summary>
    private Holding ReadAny(int depth)
    {
        var alternatives = new List<(Holding Holds, int From, int To)>();
        do
        {
            var from = Position;
            alternatives.Add((ReadAll(depth), from, Position));
        }
        while (Skip("OR"));

        if (alternatives.TrueForAll(a => a.Holds == Holding.Yes))
        {
            return Holding.Yes;
        }

        if (alternatives.TrueForAll(a => a.Holds == Holding.No))
        {
            return Holding.No;
        }

        foreach (var (_, from, to) in alternatives.Where(a => a.Holds == Holding.No))
        {
            _widening.AddRange(Tokens[from..to].Where((t, i) => t.IsName && !(from + i + 1 < Tokens.Count && (Tokens[from + i + 1].IsSign('.') || Tokens[from + i + 1].IsSign('('))) && !Operators.Contains(t.Value)).Select(t => t.Value));
        }

        return Holding.Partly;
    }

    private static readonly HashSet<string> Operators = new(StringComparer.OrdinalIgnoreCase) { "AND", "OR", "NOT", "IS", "NULL", "IN", "LIKE", "ILIKE", "BETWEEN", "EXISTS", "TRUE", "FALSE", "SELECT", "FROM", "WHERE", "ANY", "ALL" };

    /// <summary>What must hold together: rows are held if one of the parts holds.</summary>
    private Holding ReadAll(int depth)
    {
        var held = Holding.No;
        do
        {
            var (before, part) = (_widening.Count, ReadOne(depth));
            held = (Holding)Math.Max((int)held, (int)part);
            if (part != Holding.Partly)
            {
                _widening.RemoveRange(before, _widening.Count - before);
            }
        }
        while (Skip("AND"));

        return held;
    }

    private Holding ReadOne(int depth)
    {
        var mentions = false;
        var isBetween = false;
        while (!AtEnd && !Here.IsWord("OR") && (!Here.IsWord("AND") || isBetween))
        {
            if (Here.IsSign('('))
            {
                // A bracket that begins the part is a condition of its own, any other holds values or a subquery.
                var begins = Position == 0 || Tokens[Position - 1].IsSign('(') || Tokens[Position - 1].IsWord("WHERE") || Tokens[Position - 1].IsWord("AND") || Tokens[Position - 1].IsWord("OR");
                if (begins && depth < MaxDepth && !(Position + 1 < Tokens.Count && Tokens[Position + 1].IsWord("SELECT")))
                {
                    Position++;
                    var inner = ReadAny(depth + 1);
                    SkipSign(')');
                    return mentions ? Holding.Yes : inner;
                }

                var from = Position;
                SkipBrackets();
                mentions |= Tokens[from..Position].Exists(t => t.IsName && _columns.Contains(t.Value));
                continue;
            }

            isBetween = Here.IsWord("BETWEEN") || (isBetween && !Here.IsWord("AND"));
            mentions |= Here.IsName && _columns.Contains(Here.Value);
            Position++;
        }

        return mentions ? Holding.Yes : Holding.No;
    }
}
