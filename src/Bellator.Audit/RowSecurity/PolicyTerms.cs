using Bellator.Analysis.Libraries;

namespace Bellator.Audit.RowSecurity;

/// <summary>How an expression knows who is asking.</summary>
public enum PersonKind
{
    /// <summary>It says nothing of the person.</summary>
    None,

    /// <summary>It is the person: a setting of the connection, a claim, a database role.</summary>
    Direct,

    /// <summary>It is looked up by the person: a branch, a role, a membership.</summary>
    LookedUp,
}

/// <summary>What is known of a value where nobody is signed in.</summary>
public enum Truth
{
    Unknown,
    Null,
    True,
    False,

    /// <summary>A value that is there, and neither true nor false.</summary>
    Present,
}

/// <summary>What conditions of policies say of the person who is asking. Three-valued as SQL is: a policy lets a row through only where its condition is true.</summary>
public sealed class PolicyTerms(RowSecurityModel model, IdentifierClassifier words)
{
    private const int MaxCalls = 6;

    public PersonKind KindOf(SqlExpression? expression, int depth = 0)
    {
        var kind = PersonKind.None;
        foreach (var part in expression?.All() ?? [])
        {
            if (part is SqlCall call)
            {
                kind = (PersonKind)Math.Max((int)kind, (int)KindOf(call, depth));
            }
            else if (part is SqlQuery { From.Count: > 0 } query && !ReferenceEquals(query, expression) && KindOf(query, depth) != PersonKind.None)
            {
                kind = PersonKind.LookedUp;
            }
        }

        return kind;
    }

    private PersonKind KindOf(SqlCall call, int depth)
    {
        if (words.IsSqlPerson(call.Name) || words.IsSqlPerson(call.ShortName))
        {
            return PersonKind.Direct;
        }

        if (depth >= MaxCalls || !model.Functions.TryGetValue(call.ShortName, out var function))
        {
            return PersonKind.None;
        }

        return function.Query is { From.Count: 0 } plain ? KindOf(plain, depth + 1)
            : function.Queries.Any(q => KindOf(q, depth + 1) != PersonKind.None) || function.Words.Any(words.IsSqlPerson) || CallsPerson(function, depth) ? PersonKind.LookedUp : PersonKind.None;
    }

    private bool CallsPerson(SqlFunction function, int depth) =>
        function.Words.Any(w => !w.Equals(function.Name, StringComparison.OrdinalIgnoreCase) && model.Functions.ContainsKey(w) && KindOf(new SqlCall(w, []), depth + 1) != PersonKind.None);

    /// <summary>The body asks who is there, in any way.</summary>
    public bool AsksForPerson(SqlFunction function) => function.Words.Any(words.IsSqlPerson) || CallsPerson(function, 0);

    /// <summary>Conditions of which each must hold.</summary>
    public static IEnumerable<SqlExpression> Conjuncts(SqlExpression? expression) => expression switch
    {
        null => [],
        SqlJunction { IsOr: false } and => and.Terms.SelectMany(Conjuncts),
        _ => [expression],
    };

    /// <summary>Conditions of which one is enough.</summary>
    public static IEnumerable<SqlExpression> Alternatives(SqlExpression? expression) => expression switch
    {
        null => [],
        SqlJunction { IsOr: true } or => or.Terms.SelectMany(Alternatives),
        _ => [expression],
    };

    /// <summary>Columns of the row that are held against the person itself: <c>keeper_id = app.person()</c>.</summary>
    public IEnumerable<string> OwnerColumns(SqlExpression? expression) => Equalities(expression).Where(e => e.Kind == PersonKind.Direct).Select(e => e.Column);

    /// <summary>Columns of the row that are held against something that is looked up by the person: <c>district_id = app.district()</c>.</summary>
    public IEnumerable<string> TenantColumns(SqlExpression? expression) => Equalities(expression).Where(e => e.Kind == PersonKind.LookedUp).Select(e => e.Column);

    private IEnumerable<(string Column, PersonKind Kind)> Equalities(SqlExpression? expression)
    {
        foreach (var part in expression is null ? [] : Terms(expression))
        {
            switch (part)
            {
                case SqlComparison { Operator: "=", Left: SqlColumn left } equal when KindOf(equal.Right) is not PersonKind.None and var kind:
                    yield return (left.Name, Shape(equal.Right, kind));
                    break;
                case SqlComparison { Operator: "=", Right: SqlColumn right } equal when KindOf(equal.Left) is not PersonKind.None and var kind:
                    yield return (right.Name, Shape(equal.Left, kind));
                    break;
                case SqlIn { Negated: false, Value: SqlColumn column } among when among.Among.Any(a => KindOf(a) != PersonKind.None):
                    yield return (column.Name, PersonKind.LookedUp);
                    break;
            }
        }

        // What is looked up in a table is no person, whatever it is found by.
        static PersonKind Shape(SqlExpression value, PersonKind kind) => value.All().Any(p => p is SqlQuery { From.Count: > 0 }) ? PersonKind.LookedUp : kind;
    }

    /// <summary>The parts of a condition outside of the queries in it.</summary>
    private static IEnumerable<SqlExpression> Terms(SqlExpression expression)
    {
        var open = new Stack<SqlExpression>([expression]);
        while (open.TryPop(out var next))
        {
            yield return next;
            if (next is SqlJunction or SqlNot)
            {
                foreach (var part in next.Parts)
                {
                    open.Push(part);
                }
            }
        }
    }

    /// <summary>The condition asks for a role or a right beside who owns the row: a column called role, or a function that answers yes or no about the person.</summary>
    public bool AsksForRole(SqlExpression? expression) =>
        expression is not null && (expression.All().Any(p => p is SqlColumn { Name: var name } && name.Contains("role", StringComparison.OrdinalIgnoreCase))
            || Terms(expression).Any(t => t is SqlCall call && !words.IsSqlPerson(call.Name)));

    /// <summary>What the expression is where nobody is signed in, so that the settings and claims of the person are NULL.</summary>
    public Truth WithoutPerson(SqlExpression? expression, int depth = 0)
    {
        switch (expression)
        {
            case SqlConstant constant:
                return constant.Value is null ? Truth.Null : constant.IsTrue ? Truth.True : constant.IsFalse ? Truth.False : Truth.Present;
            case SqlNot not:
                return WithoutPerson(not.Term, depth) switch { Truth.True => Truth.False, Truth.False => Truth.True, var other => other };
            case SqlJunction junction:
                var (decides, other2) = junction.IsOr ? (Truth.True, Truth.False) : (Truth.False, Truth.True);
                var terms = junction.Terms.Select(t => WithoutPerson(t, depth)).ToList();
                return terms.Contains(decides) ? decides : terms.Contains(Truth.Unknown) ? Truth.Unknown : terms.Contains(Truth.Null) ? Truth.Null : terms.TrueForAll(t => t == other2) ? other2 : Truth.Unknown;
            case SqlIsNull test:
                return WithoutPerson(test.Value, depth) switch { Truth.Unknown => Truth.Unknown, Truth.Null => test.Negated ? Truth.False : Truth.True, _ => test.Negated ? Truth.True : Truth.False };
            case SqlComparison { Operator: not ("distinct" or "not distinct") } comparison:
                return WithoutPerson(comparison.Left, depth) == Truth.Null || WithoutPerson(comparison.Right, depth) == Truth.Null ? Truth.Null : Truth.Unknown;
            case SqlIn among:
                return WithoutPerson(among.Value, depth) == Truth.Null ? Truth.Null : Truth.Unknown;
            case SqlExists exists:
                return FindsNothing(exists.Query, depth) ? Truth.False : Truth.Unknown;
            case SqlQuery query:
                return query.From.Count == 0 && query.Items.Count == 1 ? WithoutPerson(query.Items[0], depth) : FindsNothing(query, depth) ? Truth.Null : Truth.Unknown;
            case SqlCall call:
                return OfCall(call, depth);
            default:
                return Truth.Unknown;
        }
    }

    private bool FindsNothing(SqlQuery query, int depth) => WithoutPerson(query.Where, depth) is Truth.Null or Truth.False;

    private Truth OfCall(SqlCall call, int depth)
    {
        switch (call.ShortName)
        {
            case "coalesce":
                var values = call.Arguments.Select(a => WithoutPerson(a, depth)).SkipWhile(v => v == Truth.Null).ToList();
                return values.Count == 0 ? Truth.Null : values[0];
            case "nullif":
                return call.Arguments.Count > 0 ? WithoutPerson(call.Arguments[0], depth) : Truth.Unknown;
            case "current_user" or "session_user" or "user" or "current_role":
                // The connection always has a role; whether it is a person's is not known.
                return Truth.Present;
        }

        if (KindOf(call, depth) == PersonKind.Direct && !model.Functions.ContainsKey(call.ShortName))
        {
            return Truth.Null;
        }

        return depth < MaxCalls && model.Functions.TryGetValue(call.ShortName, out var function) && function.Query is { } query ? WithoutPerson(query, depth + 1) : Truth.Unknown;
    }

    /// <summary>The condition lets every row through, whoever asks: it is the constant, or compares a thing with itself.</summary>
    public static bool IsAlwaysTrue(SqlExpression? expression) => expression switch
    {
        SqlConstant constant => constant.IsTrue,
        SqlJunction { IsOr: true } or => or.Terms.Any(IsAlwaysTrue),
        SqlJunction and => and.Terms.All(IsAlwaysTrue),
        SqlComparison { Operator: "=", Left: SqlConstant { Value: { } left }, Right: SqlConstant { Value: { } right } } => left == right,
        SqlComparison { Operator: "=", Left: SqlColumn left, Right: SqlColumn right } => left.Name.Equals(right.Name, StringComparison.OrdinalIgnoreCase) && string.Equals(left.Of, right.Of, StringComparison.OrdinalIgnoreCase),
        _ => false,
    };
}
