using Bellator.Text;

namespace Bellator.Audit.RowSecurity;

/// <summary>An expression of SQL, as far as it matters to who gets which rows. What has no form of its own is <see cref="SqlOther"/>, with its parts.</summary>
public abstract record SqlExpression
{
    /// <summary>The expressions directly in it; those of a query in it are its items and its condition.</summary>
    public abstract IEnumerable<SqlExpression> Parts { get; }

    /// <summary>It and all that is in it, the outermost first.</summary>
    public IEnumerable<SqlExpression> All()
    {
        var open = new Stack<SqlExpression>([this]);
        while (open.TryPop(out var next))
        {
            yield return next;
            foreach (var part in next.Parts)
            {
                open.Push(part);
            }
        }
    }
}

/// <summary>All of them, or one of them.</summary>
public sealed record SqlJunction(bool IsOr, IReadOnlyList<SqlExpression> Terms) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => Terms;
}

public sealed record SqlNot(SqlExpression Term) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [Term];
}

/// <param name="Operator">=, &lt;&gt;, &lt;, like, any, distinct, …</param>
public sealed record SqlComparison(string Operator, SqlExpression Left, SqlExpression Right) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [Left, Right];
}

public sealed record SqlIsNull(SqlExpression Value, bool Negated) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [Value];
}

/// <summary>Is the value among those of a list, or of a query.</summary>
public sealed record SqlIn(SqlExpression Value, IReadOnlyList<SqlExpression> Among, bool Negated) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [Value, .. Among];
}

public sealed record SqlExists(SqlQuery Query) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [Query];
}

/// <summary>A query within an expression, or the body of a view.</summary>
/// <param name="From">Tables with the names they go by.</param>
/// <param name="Where">Its condition, with those of its joins.</param>
public sealed record SqlQuery(IReadOnlyList<SqlExpression> Items, IReadOnlyList<(string Table, string Alias)> From, SqlExpression? Where) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => Where is null ? Items : [.. Items, Where];
}

/// <param name="Name">In lower case, with its schema if it is written.</param>
public sealed record SqlCall(string Name, IReadOnlyList<SqlExpression> Arguments) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => Arguments;

    public string ShortName => Name[(Name.LastIndexOf('.') + 1)..];
}

/// <param name="Of">The table or its alias; null where the name stands alone.</param>
public sealed record SqlColumn(string? Of, string Name, Span Span) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [];
}

/// <param name="Value">The text; null for NULL.</param>
public sealed record SqlConstant(string? Value) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => [];

    public bool IsTrue => "true".Equals(Value, StringComparison.OrdinalIgnoreCase);

    public bool IsFalse => "false".Equals(Value, StringComparison.OrdinalIgnoreCase);
}

/// <summary>Arithmetic, cases, arrays and whatever else was not understood.</summary>
public sealed record SqlOther(IReadOnlyList<SqlExpression> Terms) : SqlExpression
{
    public override IEnumerable<SqlExpression> Parts => Terms;
}
