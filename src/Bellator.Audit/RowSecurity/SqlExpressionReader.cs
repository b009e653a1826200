using Bellator.Audit.Sql;
using Bellator.Text;

namespace Bellator.Audit.RowSecurity;

/// <summary>
/// Reads conditions and queries out of tokens: PostgreSQL's precedence of OR, AND, NOT, comparisons and the rest, as its manual gives it in
/// section 4.1.6 (from memory). Nothing is an error; every step takes a token.
/// </summary>
public sealed class SqlExpressionReader : SqlTokenReader
{
    /// <summary>Deeper expressions count as not understood.</summary>
    private const int MaxDepth = 60;

    private static readonly HashSet<string> ClauseEnds = new(StringComparer.OrdinalIgnoreCase) { "GROUP", "ORDER", "LIMIT", "HAVING", "UNION", "INTERSECT", "EXCEPT", "WINDOW", "OFFSET", "FETCH", "FOR", "RETURNING", "WITH" };

    private static readonly HashSet<string> JoinWords = new(StringComparer.OrdinalIgnoreCase) { "JOIN", "INNER", "LEFT", "RIGHT", "FULL", "CROSS", "OUTER", "LATERAL", "NATURAL", "ON", "USING", "WHERE" };

    /// <summary>What stands for the person or the time without brackets.</summary>
    private static readonly HashSet<string> BareCalls = new(StringComparer.OrdinalIgnoreCase) { "current_user", "session_user", "user", "current_role", "current_date", "current_timestamp", "now" };

    private int _depth;

    private SqlExpressionReader(List<SqlToken> tokens)
        : base(tokens)
    {
    }

    public static SqlExpression Condition(List<SqlToken> tokens) => new SqlExpressionReader(tokens).Or();

    /// <summary>The query that the tokens begin with; null if they begin with something else.</summary>
    public static SqlQuery? Query(List<SqlToken> tokens) => tokens.Count > 0 && tokens[0].IsWord("SELECT") ? new SqlExpressionReader(tokens).Select() : null;

    private bool AtEnd => Position >= Tokens.Count || Here.IsSign(')');

    private SqlExpression Or() => Junction("OR", () => Junction("AND", Not));

    private SqlExpression Junction(string word, Func<SqlExpression> next)
    {
        var first = next();
        if (!Here.IsWord(word))
        {
            return first;
        }

        var terms = new List<SqlExpression> { first };
        while (Skip(word))
        {
            terms.Add(next());
        }

        return new SqlJunction(word == "OR", terms);
    }

    private SqlExpression Not()
    {
        var negated = false;
        while (Skip("NOT"))
        {
            negated = !negated;
        }

        var term = Predicate();
        return negated ? new SqlNot(term) : term;
    }

    private SqlExpression Predicate()
    {
        var left = Value();
        while (!AtEnd)
        {
            var start = Position;
            if (Skip("IS"))
            {
                var not = Skip("NOT");
                if (Skip("DISTINCT"))
                {
                    Skip("FROM");
                    left = new SqlComparison(not ? "not distinct" : "distinct", left, Value());
                    continue;
                }

                var isNull = Here.IsWord("NULL");
                var tested = Here.Value;
                Position++;
                left = isNull ? new SqlIsNull(left, not) : new SqlComparison(not ? "<>" : "=", left, new SqlConstant(tested));
                continue;
            }

            var negated = Skip("NOT");
            if (Skip("IN"))
            {
                left = new SqlIn(left, Bracketed(), negated);
            }
            else if (Skip("BETWEEN"))
            {
                var from = Value();
                Skip("AND");
                left = new SqlOther([left, from, Value()]);
            }
            else if (Here.IsWord("LIKE") || Here.IsWord("ILIKE") || Here.IsWord("SIMILAR"))
            {
                Position++;
                Skip("TO");
                left = new SqlComparison("like", left, Value());
            }
            else if (Comparison() is { } sign)
            {
                var any = Here.IsWord("ANY") || Here.IsWord("SOME") || Here.IsWord("ALL");
                if (any)
                {
                    Position++;
                    left = new SqlIn(left, Bracketed(), sign != "=");
                }
                else
                {
                    left = new SqlComparison(sign, left, Value());
                }
            }
            else
            {
                Position = start;
                return left;
            }
        }

        return left;
    }

    /// <summary>The signs that stand together; their number is where the next token is.</summary>
    private string Operator(out int next)
    {
        next = Position;
        var text = "";
        while (next < Tokens.Count && Tokens[next] is { Kind: SqlTokenKind.Sign, Value: [var c] } && "<>=!+-*/|%@#&?~^".Contains(c, StringComparison.Ordinal) && (next == Position || Tokens[next].Span.Start == Tokens[next - 1].Span.End))
        {
            text += c;
            next++;
        }

        return text;
    }

    private string? Comparison()
    {
        var text = Operator(out var next);
        if (text is not ("=" or "<>" or "!=" or "<" or ">" or "<=" or ">="))
        {
            return null;
        }

        Position = next;
        return text == "!=" ? "<>" : text;
    }

    private SqlExpression Value()
    {
        var value = Primary();
        while (!AtEnd)
        {
            if (SkipSign(':') && SkipSign(':'))
            {
                SkipType();
                continue;
            }

            if (SkipSign('['))
            {
                value = new SqlOther([value, Or()]);
                SkipSign(']');
                continue;
            }

            if (Operator(out var next) is { Length: > 0 } sign and not ("=" or "<>" or "!=" or "<" or ">" or "<=" or ">="))
            {
                Position = next;
                value = new SqlOther([value, Primary()]);
                continue;
            }

            if (Skip("COLLATE") || Skip("AT"))
            {
                Position++;
                continue;
            }

            return value;
        }

        return value;
    }

    private void SkipType()
    {
        while (Here.IsName)
        {
            Position++;
            if (!SkipSign('.'))
            {
                break;
            }
        }

        if (Here.IsSign('('))
        {
            _ = Bracketed();
        }

        while (SkipSign('['))
        {
            SkipSign(']');
        }
    }

    private SqlExpression Primary()
    {
        if (++_depth > MaxDepth)
        {
            _depth--;
            Position = Tokens.Count;
            return new SqlOther([]);
        }

        var value = PrimaryHere();
        _depth--;
        return value;
    }

    private SqlExpression PrimaryHere()
    {
        var token = Here;
        if (token.IsSign('('))
        {
            return Bracketed() is [var only] ? only : new SqlOther([]);
        }

        Position++;
        if (token.Kind is SqlTokenKind.Text or SqlTokenKind.Number)
        {
            return new SqlConstant(token.Value);
        }

        if (!token.IsName)
        {
            return token.IsSign('-') || token.IsSign('+') ? Value() : new SqlOther([]);
        }

        if (token.IsWord("TRUE") || token.IsWord("FALSE"))
        {
            return new SqlConstant(token.Value);
        }

        if (token.IsWord("NULL"))
        {
            return new SqlConstant(null);
        }

        if (token.IsWord("EXISTS") && Here.IsSign('('))
        {
            return Bracketed() is [SqlQuery query] ? new SqlExists(query) : new SqlOther([]);
        }

        if (token.IsWord("CASE"))
        {
            return Cases();
        }

        if ((token.IsWord("ARRAY") || token.IsWord("ROW")) && (Here.IsSign('[') || Here.IsSign('(')))
        {
            return new SqlOther(Bracketed());
        }

        if (token.IsWord("INTERVAL") || token.IsWord("DATE") || token.IsWord("TIMESTAMP") || token.IsWord("DISTINCT"))
        {
            return Here.Kind == SqlTokenKind.Text ? Primary() : token.IsWord("DISTINCT") ? Value() : new SqlColumn(null, token.Value, token.Span);
        }

        var names = new List<string> { token.Value };
        var end = token.Span.End;
        while (Here.IsSign('.') && Position + 1 < Tokens.Count && (Tokens[Position + 1].IsName || Tokens[Position + 1].IsSign('*')))
        {
            names.Add(Tokens[Position + 1].Value);
            end = Tokens[Position + 1].Span.End;
            Position += 2;
        }

        if (Here.IsSign('('))
        {
            return new SqlCall(string.Join('.', names).ToLowerInvariant(), Bracketed());
        }

        return names.Count == 1 && token.Kind == SqlTokenKind.Word && BareCalls.Contains(token.Value)
            ? new SqlCall(token.Value.ToLowerInvariant(), [])
            : new SqlColumn(names.Count > 1 ? names[^2] : null, names[^1], new Span(token.Span.Start, end));
    }

    private SqlOther Cases()
    {
        var parts = new List<SqlExpression>();
        var forward = new ForwardOnly(nameof(SqlExpressionReader));
        while (!AtEnd && !Here.IsWord("END") && forward.At(Position))
        {
            if (!(Skip("WHEN") || Skip("THEN") || Skip("ELSE")))
            {
                parts.Add(Or());
            }
        }

        Skip("END");
        return new SqlOther(parts);
    }

    /// <summary>What stands between brackets: one query, or expressions with commas between them.</summary>
    private List<SqlExpression> Bracketed()
    {
        var parts = new List<SqlExpression>();
        if (!Here.IsSign('(') && !Here.IsSign('['))
        {
            return parts;
        }

        Position++;
        var forward = new ForwardOnly(nameof(SqlExpressionReader));
        while (Position < Tokens.Count && !Here.IsSign(')') && !Here.IsSign(']') && forward.At(Position))
        {
            if (Here.IsWord("SELECT"))
            {
                parts.Add(Select());
            }
            else if (!SkipSign(','))
            {
                parts.Add(Or());
                if (!AtEnd && !Here.IsSign(',') && !Here.IsSign(']'))
                {
                    // ORDER BY in an aggregate, FROM in an extract, and the like.
                    Position++;
                }
            }
        }

        Position++;
        return parts;
    }

    private SqlQuery Select()
    {
        Position++;
        var items = new List<SqlExpression>();
        var from = new List<(string, string)>();
        var conditions = new List<SqlExpression>();
        Skip("DISTINCT");
        var forward = new ForwardOnly(nameof(SqlExpressionReader));
        while (!AtEnd && !Here.IsWord("FROM") && !ClauseEnds.Contains(Here.Value) && !Here.IsWord("WHERE") && forward.At(Position))
        {
            if (SkipSign(','))
            {
                continue;
            }

            items.Add(SkipSign('*') ? new SqlColumn(null, "*", default) : Or());
            if (Skip("AS") || (Here.IsName && !Here.IsWord("FROM") && !ClauseEnds.Contains(Here.Value)))
            {
                Position++;
            }
        }

        if (Skip("FROM"))
        {
            ReadFrom(from, conditions);
        }

        if (Skip("WHERE"))
        {
            conditions.Add(Or());
        }

        while (!AtEnd)
        {
            // Orders and limits say nothing of whose rows they are.
            if (Here.IsSign('('))
            {
                _ = Bracketed();
            }
            else
            {
                Position++;
            }
        }

        return new SqlQuery(items, from, conditions.Count switch { 0 => null, 1 => conditions[0], _ => new SqlJunction(false, conditions) });
    }

    private void ReadFrom(List<(string, string)> from, List<SqlExpression> conditions)
    {
        var forward = new ForwardOnly(nameof(SqlExpressionReader));
        while (!AtEnd && !Here.IsWord("WHERE") && !ClauseEnds.Contains(Here.Value) && forward.At(Position))
        {
            if (Skip("ON"))
            {
                conditions.Add(Or());
            }
            else if (Skip("USING"))
            {
                _ = Bracketed();
            }
            else if (Here.IsSign('('))
            {
                foreach (var inner in Bracketed().OfType<SqlQuery>())
                {
                    from.AddRange(inner.From);
                    conditions.AddRange(inner.Where is { } where ? [where] : []);
                }
            }
            else if (Here.IsName && !JoinWords.Contains(Here.Value) && !Here.IsWord("AS") && !Here.IsWord("ONLY"))
            {
                var name = ReadName()!;
                if (Here.IsSign('('))
                {
                    conditions.Add(new SqlCall(name.ToLowerInvariant(), Bracketed()));
                }

                Skip("AS");
                var alias = Here.IsName && !JoinWords.Contains(Here.Value) && !ClauseEnds.Contains(Here.Value) ? Here.Value : name;
                Position += ReferenceEquals(alias, name) ? 0 : 1;
                from.Add((name, alias));
            }
            else
            {
                Position++;
            }
        }
    }
}
