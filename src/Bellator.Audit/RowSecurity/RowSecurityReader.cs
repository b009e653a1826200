using System.Text;
using Bellator.Audit.Sql;
using Bellator.Text;

namespace Bellator.Audit.RowSecurity;

/// <summary>Reads the statements of PostgreSQL that say who gets which rows: policies, owners, functions, views, grants and roles.</summary>
public sealed class RowSecurityReader : SqlTokenReader
{
    private readonly RowSecurityModel _model;
    private readonly Func<Span, Location> _place;

    private RowSecurityReader(RowSecurityModel model, Func<Span, Location> place)
        : base([]) => (_model, _place) = (model, place);

    /// <summary>What the SQL files of a tree say, in the order of their names: the order in which most tools run them.</summary>
    /// <param name="undoes">Tells by its name that a file takes back what others did.</param>
    public static RowSecurityModel Read(SourceTree tree, Func<string, bool> undoes)
    {
        var model = new RowSecurityModel();
        for (var i = 0; i < tree.Files.Count; i++)
        {
            var file = tree.Files[i];
            if (file.Language == Language.Sql && !undoes(System.IO.Path.GetFileNameWithoutExtension(file.Path)))
            {
                var number = i;
                Read(model, Encoding.Latin1.GetString(file.Content), span => new Location(number, span.Start, span.End));
            }
        }

        return model;
    }

    /// <summary>Adds what the text says.</summary>
    /// <param name="place">Where a part of the text stands.</param>
    public static void Read(RowSecurityModel model, string text, Func<Span, Location> place)
    {
        if (text.Contains("POLICY", StringComparison.OrdinalIgnoreCase) || text.Contains("ROW LEVEL", StringComparison.OrdinalIgnoreCase) || text.Contains("SECURITY", StringComparison.OrdinalIgnoreCase)
            || text.Contains("GRANT", StringComparison.OrdinalIgnoreCase) || text.Contains("BYPASSRLS", StringComparison.OrdinalIgnoreCase) || text.Contains("VIEW", StringComparison.OrdinalIgnoreCase) || text.Contains("FUNCTION", StringComparison.OrdinalIgnoreCase))
        {
            new RowSecurityReader(model, place).ReadAll(text);
        }
    }

    private void ReadAll(string text)
    {
        List<SqlToken> statement = [];
        foreach (var token in SqlTokens.Of(text))
        {
            if (!token.IsSign(';'))
            {
                statement.Add(token);
                continue;
            }

            ReadStatement(statement);
            statement = [];
        }

        ReadStatement(statement);
    }

    private void ReadStatement(List<SqlToken> tokens)
    {
        (Tokens, Position) = (tokens, 0);
        _model.EnablesByName |= tokens.Exists(t => t.Kind == SqlTokenKind.Text && t.Value.Contains("ENABLE ROW LEVEL SECURITY", StringComparison.OrdinalIgnoreCase));
        if (Skip("CREATE"))
        {
            if (Skip("OR"))
            {
                Skip("REPLACE");
            }

            var materialized = Skip("MATERIALIZED");
            Skip("RECURSIVE");
            if (Skip("POLICY"))
            {
                ReadPolicy();
            }
            else if (Skip("FUNCTION"))
            {
                ReadFunction();
            }
            else if (Skip("VIEW"))
            {
                ReadView(materialized);
            }
            else if (Skip("ROLE") || Skip("USER"))
            {
                ReadRole();
            }
        }
        else if (Skip("ALTER"))
        {
            ReadAlter();
        }
        else if (Skip("DROP"))
        {
            if (Skip("POLICY"))
            {
                SkipExists();
                var name = Name();
                var table = Skip("ON") ? Name() : "";
                _model.Policies.RemoveAll(p => p.Name == name && p.Table.Equals(table, StringComparison.OrdinalIgnoreCase));
            }
        }
        else if (Skip("GRANT"))
        {
            ReadGrant();
        }
        else if (Skip("REVOKE"))
        {
            ReadRevoke();
        }
    }

    private Location Whole => _place(new Span(Tokens[0].Span.Start, Tokens[^1].Span.End));

    private string Name() => ReadName() ?? "";

    private List<string> Names()
    {
        List<string> names = [];
        while (Here.IsName && Name() is { Length: > 0 } name)
        {
            names.Add(name);
            if (Here.IsSign('('))
            {
                _ = Bracketed();
            }

            if (!Here.IsSign(','))
            {
                break;
            }

            Position++;
        }

        return names;
    }

    /// <summary>The tokens between the bracket here and the one that closes it.</summary>
    private List<SqlToken> Bracketed()
    {
        var start = ++Position;
        for (var depth = 1; Position < Tokens.Count; Position++)
        {
            depth += Here.IsSign('(') ? 1 : Here.IsSign(')') ? -1 : 0;
            if (depth == 0)
            {
                return Tokens[start..Position++];
            }
        }

        return Tokens[Math.Min(start, Tokens.Count)..];
    }

    private void ReadPolicy()
    {
        SkipExists();
        var name = Name();
        if (!Skip("ON") || Name() is not { Length: > 0 } table)
        {
            return;
        }

        var restrictive = false;
        PolicyCommand? command = null;
        List<string> roles = [];
        SqlExpression? condition = null;
        SqlExpression? check = null;
        while (Position < Tokens.Count)
        {
            if (Skip("AS"))
            {
                restrictive = Here.IsWord("RESTRICTIVE");
            }
            else if (Skip("FOR"))
            {
                command = Enum.TryParse<PolicyCommand>(Here.Value, true, out var known) && Here.Kind == SqlTokenKind.Word ? known : null;
            }
            else if (Skip("TO"))
            {
                roles = Names();
                continue;
            }
            else if (Here.IsSign('('))
            {
                var isCheck = Tokens[Position - 1].IsWord("CHECK");
                var expression = SqlExpressionReader.Condition(Bracketed());
                (condition, check) = isCheck ? (condition, expression) : (expression, check);
                continue;
            }

            Position++;
        }

        _model.Policies.RemoveAll(p => p.Name == name && p.Table.Equals(table, StringComparison.OrdinalIgnoreCase));
        _model.Policies.Add(new RowPolicy(name, table, restrictive, command, roles, condition, check, Whole));
    }

    private void ReadAlter()
    {
        if (Skip("TABLE"))
        {
            SkipExists();
            Skip("ONLY");
            var table = Name();
            for (; Position < Tokens.Count; Position++)
            {
                if (Here.IsWord("OWNER") && Position + 2 < Tokens.Count)
                {
                    Position += 2;
                    _model.Table(table).Owner = (Here.Value, Whole);
                }
                else if (Here.IsWord("ROW") && Position + 1 < Tokens.Count && Tokens[Position + 1].IsWord("LEVEL"))
                {
                    var verb = Tokens[Position - 1];
                    if (verb.IsWord("FORCE"))
                    {
                        _model.Table(table).IsForced = !(Position > 1 && Tokens[Position - 2].IsWord("NO"));
                    }
                    else
                    {
                        _model.Table(table).Enabled = verb.IsWord("ENABLE") ? Whole : null;
                    }
                }
            }
        }
        else if (Skip("VIEW"))
        {
            SkipExists();
            if (_model.Views.TryGetValue(Name(), out var view) && IsInvoker())
            {
                view.IsInvoker = true;
            }
        }
        else if (Skip("ROLE") || Skip("USER"))
        {
            ReadRole();
        }
    }

    /// <summary>The rest of the statement says that the view reads with the rights of whoever asks.</summary>
    private bool IsInvoker() => Tokens.FindIndex(t => t.IsWord("security_invoker")) is >= 0 and var at && !Tokens.Skip(at + 1).Take(2).Any(t => t.Value.ToLowerInvariant() is "false" or "off" or "0");

    private void ReadView(bool materialized)
    {
        SkipExists();
        var name = Name();
        var start = Tokens.FindIndex(Position, t => t.IsWord("AS"));
        if (name.Length > 0 && start >= 0)
        {
            _model.Views[name] = new SqlView(name, materialized, SqlExpressionReader.Query(Tokens[(start + 1)..]), Whole) { IsInvoker = IsInvoker() };
        }
    }

    private void ReadFunction()
    {
        SkipExists();
        var name = Name();
        if (name.Length == 0 || !Here.IsSign('('))
        {
            return;
        }

        var arguments = Bracketed();
        var body = Tokens.FindLast(t => t.Kind == SqlTokenKind.Text && Tokens.IndexOf(t) > 0 && t.Value.Contains(' ', StringComparison.Ordinal)).Value ?? "";
        var inner = body.StartsWith('$') && body.IndexOf('$', 1) is > 0 and var open ? body[(open + 1)..Math.Max(open + 1, body.LastIndexOf('$', body.Length - 2))] : body;
        List<SqlToken> tokens = inner.Length > 0 ? [.. SqlTokens.Of(inner)] : Tokens[Position..];
        var queries = Queries(tokens).ToList();
        var header = Tokens.Where(t => t.Kind == SqlTokenKind.Word).Select(t => t.Value.ToLowerInvariant()).ToList();
        _model.Functions[name] = new SqlFunction(
            name,
            header.Contains("definer"),
            Follows(header, "set", "search_path"),
            Follows(header, "returns", "trigger"),
            arguments.Count == 0 ? 0 : arguments.Count(t => t.IsSign(',')) + 1,
            tokens.Find(t => !t.IsWord("BEGIN")).IsWord("SELECT") && queries.Count > 0 ? queries[0] : null,
            tokens.Where(t => t.IsName).Select(t => t.Value.ToLowerInvariant()).ToHashSet(),
            queries,
            Whole);
    }

    private static bool Follows(List<string> words, string first, string second) => Enumerable.Range(0, Math.Max(0, words.Count - 1)).Any(i => words[i] == first && words[i + 1] == second);

    /// <summary>The queries of a body that stand by themselves or in a RETURN: not those within others.</summary>
    private static IEnumerable<SqlQuery> Queries(List<SqlToken> tokens)
    {
        for (var i = 0; i < tokens.Count; i++)
        {
            if (tokens[i].IsWord("SELECT") && (i == 0 || !tokens[i - 1].IsSign('(')))
            {
                var end = tokens.FindIndex(i, t => t.IsSign(';'));
                var part = tokens[i..(end < 0 ? tokens.Count : end)];
                if (SqlExpressionReader.Query(part) is { } query)
                {
                    yield return query;
                }

                i += part.Count - 1;
            }
        }
    }

    private void ReadRole()
    {
        SkipExists();
        if (Name() is { Length: > 0 } name)
        {
            _model.Roles.TryGetValue(name, out var known);
            bool Has(string word) => Tokens.Exists(t => t.IsWord(word));
            _model.Roles[name] = new SqlRole(
                name,
                Has("LOGIN") || (known?.CanLogIn ?? Tokens[1].IsWord("USER")),
                !Has("NOBYPASSRLS") && (Has("BYPASSRLS") || Has("SUPERUSER") || (known?.BypassesRowSecurity ?? false)),
                Whole);
        }
    }

    private void ReadGrant()
    {
        List<(string Privilege, List<string> Columns)> privileges = [];
        while (Position < Tokens.Count && !Here.IsWord("ON") && !Here.IsWord("TO"))
        {
            var privilege = Here.Value.ToUpperInvariant();
            Position++;
            List<string> columns = Here.IsSign('(') ? [.. Bracketed().Where(t => t.IsName).Select(t => t.Value)] : [];
            if (privilege is not ("," or "PRIVILEGES"))
            {
                privileges.Add((privilege, columns));
            }
        }

        if (!Skip("ON"))
        {
            return;
        }

        if (!Skip("TABLE") && (Skip("ALL") || Skip("SCHEMA") || Skip("FUNCTION") || Skip("SEQUENCE") || Skip("DATABASE") || Skip("TYPE") || Skip("LANGUAGE") || Skip("PROCEDURE") || Skip("ROUTINE")))
        {
            return;
        }

        var objects = Names();
        var roles = Skip("TO") ? Names() : [];
        foreach (var (privilege, columns) in privileges)
        {
            foreach (var name in objects)
            {
                foreach (var role in roles)
                {
                    _model.Grants.Add(new SqlGrant(privilege, columns, name, role, Whole));
                }
            }
        }
    }

    private void ReadRevoke()
    {
        while (Position < Tokens.Count && !Here.IsWord("ON"))
        {
            Position++;
        }

        Skip("ON");
        Skip("TABLE");
        var objects = Names();
        var roles = Skip("FROM") ? Names() : [];
        var whole = Tokens.Count > 1 && Tokens[1].IsWord("ALL");
        var named = Tokens.Skip(1).TakeWhile(t => !t.IsWord("ON")).Select(t => t.Value.ToUpperInvariant()).ToHashSet();
        _model.Grants.RemoveAll(g => objects.Contains(g.Object, StringComparer.OrdinalIgnoreCase) && roles.Contains(g.Role, StringComparer.OrdinalIgnoreCase) && (whole || named.Contains(g.Privilege)));
    }
}
