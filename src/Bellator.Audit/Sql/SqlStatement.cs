using System.Text.RegularExpressions;
using Bellator.Analysis.Domain;

namespace Bellator.Audit.Sql;

public enum SqlClause
{
    Other,
    Values,
    Set,
    Where,
    OrderOrGroup,
    Limit,
}

/// <summary>A place in a statement where a value comes in: a hole in its text, or a placeholder for a bound value.</summary>
/// <param name="Placeholder">Name or position of the placeholder; null for a hole.</param>
/// <param name="Position">How the value could break out there.</param>
/// <param name="Column">The column it is written to or compared with.</param>
/// <param name="Function">The SQL function it is given to.</param>
/// <param name="Like">It is part of a search pattern.</param>
public sealed record SqlSlot(string? Placeholder, Piece? Hole, OutputContext Position, string? Column, string? Function, SqlClause Clause, bool Like);

/// <summary>
/// What can be read from a statement whose text is known but for holes. This is a reader of shapes, not of SQL: it works on fragments
/// and on every dialect, and says only which column, function and clause each value belongs to.
/// </summary>
public sealed partial class SqlStatement
{
    private readonly List<SqlSlot> _slots = [];
    private readonly List<string> _insertColumns = [];
    private readonly List<string> _tables = [];
    private readonly Stack<string> _functions = new();
    private string _word = "";
    private string _previous = "";
    private string? _column;
    private string? _operator;
    private int _position;
    private int _placeholders;
    private int _depth;
    private int _valueDepth;
    private bool _inColumns;
    private SqlClause _clause;

    private SqlStatement()
    {
    }

    /// <summary>The first word in upper case: SELECT, INSERT, …</summary>
    public string Verb { get; private set; } = "";

    public string? Table { get; private set; }

    /// <summary>All tables it names, the first first.</summary>
    public IReadOnlyList<string> Tables => _tables;

    /// <summary>Columns that an INSERT lists.</summary>
    public IReadOnlyList<string> InsertColumns => _insertColumns;

    public IReadOnlyList<SqlSlot> Slots => _slots;

    /// <summary>The text it was read from.</summary>
    public IReadOnlyList<Piece> Pieces { get; private init; } = [];

    public bool Writes => Verb is "INSERT" or "UPDATE" or "REPLACE";

    public static SqlStatement Parse(IReadOnlyList<Piece> pieces)
    {
        var statement = new SqlStatement { Pieces = pieces };
        var quote = '\0';
        foreach (var piece in pieces)
        {
            if (piece.IsHole)
            {
                statement.AddHole(piece, quote);
            }
            else
            {
                quote = statement.Read(piece.Literal!, quote);
            }
        }

        statement.EndWord();
        return statement;
    }

    private char Read(string text, char quote)
    {
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (quote != '\0')
            {
                if (c == '\\' && quote != '`')
                {
                    i++;
                }
                else if (c == quote)
                {
                    if (i + 1 < text.Length && text[i + 1] == quote)
                    {
                        i++;
                    }
                    else
                    {
                        quote = '\0';
                    }
                }
                else if (quote != '\'')
                {
                    // Between other quotes a name may stand: keep it as a word.
                    _word += c;
                }

                continue;
            }

            if (c == '-' && i + 1 < text.Length && text[i + 1] == '-')
            {
                i = text.IndexOf('\n', i) is >= 0 and var end ? end : text.Length;
                continue;
            }

            if (c == '/' && i + 1 < text.Length && text[i + 1] == '*')
            {
                i = text.IndexOf("*/", i + 2, StringComparison.Ordinal) is >= 0 and var end ? end + 1 : text.Length;
                continue;
            }

            i = ReadOne(text, i, ref quote);
        }

        return quote;
    }

    private int ReadOne(string text, int i, ref char quote)
    {
        var c = text[i];
        if (char.IsLetterOrDigit(c) || c is '_' or '$' or '.' or '\\')
        {
            _word += c;
            return i;
        }

        if (c is '\'' or '"' or '`')
        {
            if (c == '\'')
            {
                EndWord();
            }

            quote = c;
            return i;
        }

        EndWord();
        switch (c)
        {
            case '(':
                Open();
                break;
            case ')':
                Close();
                break;
            case ',':
                Comma();
                break;
            case '=' or '<' or '>' or '!' or '~':
                Compare(c.ToString());
                break;
            case '?':
                AddPlaceholder((_placeholders++).ToString(System.Globalization.CultureInfo.InvariantCulture));
                break;
            case ':' or '@' when i + 1 < text.Length && (char.IsLetter(text[i + 1]) || text[i + 1] == '_') && (i == 0 || text[i - 1] != ':'):
                var end = i + 1;
                while (end < text.Length && (char.IsLetterOrDigit(text[end]) || text[end] == '_'))
                {
                    end++;
                }

                AddPlaceholder(text[(i + 1)..end]);
                return end - 1;
            case '%' when FormatPlaceholder().Match(text, i) is { Success: true } format:
                // PEP 249, paramstyle "format" and "pyformat"; WordPress has %d, %f and %i beside %s.
                AddPlaceholder(format.Groups[1].Success ? format.Groups[1].Value : (_placeholders++).ToString(System.Globalization.CultureInfo.InvariantCulture));
                return i + format.Length - 1;
        }

        return i;
    }

    [GeneratedRegex(@"\G%(?:\((\w+)\))?[sdfib](?![A-Za-z0-9_])", RegexOptions.None, 200)]
    private static partial Regex FormatPlaceholder();

    private void EndWord()
    {
        if (_word.Length == 0)
        {
            return;
        }

        var word = _word;
        _word = "";
        if (word[0] == '$' && word.Length > 1 && int.TryParse(word.AsSpan(1), out var number))
        {
            AddPlaceholder((number - 1).ToString(System.Globalization.CultureInfo.InvariantCulture));
            return;
        }

        var upper = word.ToUpperInvariant();
        if (Verb.Length == 0)
        {
            Verb = upper;
        }

        if (_inColumns && !char.IsAsciiDigit(word[0]))
        {
            _insertColumns.Add(Last(word));
        }

        switch (upper)
        {
            case "VALUES" or "VALUE":
                _clause = SqlClause.Values;
                _valueDepth = _depth;
                _position = 0;
                break;
            case "SET":
                _clause = SqlClause.Set;
                _column = null;
                break;
            case "WHERE" or "HAVING" or "ON":
                _clause = SqlClause.Where;
                _column = null;
                break;
            case "AND" or "OR":
                _column = null;
                _operator = null;
                break;
            case "ORDER" or "GROUP":
                _clause = SqlClause.OrderOrGroup;
                break;
            case "LIMIT" or "OFFSET":
                _clause = SqlClause.Limit;
                break;
            case "LIKE" or "ILIKE" or "IN" or "REGEXP" or "RLIKE" or "IS" or "BETWEEN":
                Compare(upper);
                break;
            case "NOT" or "BINARY" or "ANY":
                break;
            default:
                if (_previous is "INTO" or "UPDATE" or "FROM" or "JOIN" && upper is not ("SELECT" or "ONLY" or "LATERAL"))
                {
                    Table ??= _previous == "JOIN" ? null : Last(word);
                    if (!_tables.Contains(Last(word)))
                    {
                        _tables.Add(Last(word));
                    }
                }

                _lastName = word;
                break;
        }

        _previous = upper;
    }

    private string _lastName = "";

    private void Open()
    {
        _depth++;
        var name = _previous is "VALUES" or "VALUE" or "IN" or "SELECT" or "WHERE" or "AND" or "OR" or "SET" or "ON" or "NOT" ? "" : _previous;
        if (Verb is "INSERT" or "REPLACE" && _clause == SqlClause.Other && Table is not null && _insertColumns.Count == 0)
        {
            _inColumns = true;
            name = "";
        }

        if (_clause == SqlClause.Values && _depth == _valueDepth + 1)
        {
            _position = 0;
            name = "";
        }

        _functions.Push(name);
        _previous = "(";
    }

    private void Close()
    {
        _inColumns = false;
        _depth = Math.Max(0, _depth - 1);
        if (_functions.Count > 0)
        {
            _functions.Pop();
        }

        _previous = ")";
    }

    private void Comma()
    {
        if (_clause == SqlClause.Values && _depth == _valueDepth + 1)
        {
            _position++;
        }
        else if (_clause == SqlClause.Set && _depth == 0)
        {
            _column = null;
            _operator = null;
        }

        _previous = ",";
    }

    private void Compare(string op)
    {
        if (_operator is null || _column is null || op.Length > 1)
        {
            _column ??= _lastName.Length > 0 ? Last(_lastName) : null;
        }

        _operator = op;
        _previous = op;
    }

    private void AddPlaceholder(string name)
    {
        Add(new SqlSlot(name, null, OutputContext.None, ColumnHere(), FunctionHere(), _clause, _operator is "LIKE" or "ILIKE"));
        _previous = "?";
    }

    private void AddHole(Piece hole, char quote)
    {
        if (quote == '\0' && _word.Length > 0 && !hole.Taints.Any())
        {
            // Part of a name, such as a table prefix.
            _word += "_";
            return;
        }

        if (quote == '\0')
        {
            EndWord();
        }

        var position = quote switch { '\'' or '"' => OutputContext.SqlString, '`' => OutputContext.SqlIdentifier, _ => OutputContext.SqlUnquoted };
        Add(new SqlSlot(null, hole, position, ColumnHere(), FunctionHere(), _clause, _operator is "LIKE" or "ILIKE"));
        if (quote == '\0')
        {
            if (_previous is "INTO" or "UPDATE" or "FROM")
            {
                Table ??= "?";
            }

            _previous = "?";
        }
    }

    private void Add(SqlSlot slot) => _slots.Add(slot);

    private string? FunctionHere() => _functions.Count > 0 && _functions.Peek() is { Length: > 0 } name && name != "?" && char.IsLetter(name[0]) ? name : null;

    private string? ColumnHere()
    {
        if (_clause == SqlClause.Values)
        {
            return _position < _insertColumns.Count ? _insertColumns[_position] : null;
        }

        return _clause is SqlClause.Set or SqlClause.Where && _operator is not null ? _column : null;
    }

    private static string Last(string name) => name[(name.LastIndexOfAny(['.', '\\']) + 1)..];
}
