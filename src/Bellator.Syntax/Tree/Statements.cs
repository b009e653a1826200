using Bellator.Text;

namespace Bellator.Syntax;

public abstract class Statement(Span span) : Node(span);

public sealed class ExpressionStatement(Expression expression, Span span) : Statement(span)
{
    public Expression Expression { get; } = expression;
}

public sealed class Block(IReadOnlyList<Statement> statements, Span span) : Statement(span)
{
    public IReadOnlyList<Statement> Statements { get; } = statements;

    /// <summary>What the binder declared in this block; set once.</summary>
    public object? Scope { get; set; }
}

/// <summary>A declaration of one variable or destructuring pattern; function-wide for <c>var</c>, else of its block.</summary>
public sealed class VariableDeclaration(Expression target, Expression? value, bool functionWide, Span span) : Statement(span)
{
    public Expression Target { get; } = target;

    public Expression? Value { get; } = value;

    public bool FunctionWide { get; } = functionWide;
}

public sealed class If(Expression condition, Statement then, Statement? otherwise, Span span) : Statement(span)
{
    public Expression Condition { get; } = condition;

    public Statement Then { get; } = then;

    public Statement? Otherwise { get; } = otherwise;
}

/// <summary><c>for</c>, <c>while</c> and, when the test comes last, <c>do</c>.</summary>
public sealed class Loop(Statement? initial, Expression? condition, Expression? update, Statement body, bool testLast, Span span) : Statement(span)
{
    public Statement? Initial { get; } = initial;

    public Expression? Condition { get; } = condition;

    public Expression? Update { get; } = update;

    public Statement Body { get; } = body;

    public bool TestLast { get; } = testLast;
}

public sealed class ForEach(Expression? key, Expression value, Expression source, Statement body, bool declares, bool overKeys, Span span) : Statement(span)
{
    public Expression? Key { get; } = key;

    public Expression Value { get; } = value;

    public Expression Source { get; } = source;

    public Statement Body { get; } = body;

    public bool Declares { get; } = declares;

    /// <summary>It declares its variable for the whole function (JavaScript's <c>var</c>), not for itself.</summary>
    public bool FunctionWide { get; init; }

    /// <summary>The loop runs over the keys (<c>for … in</c>), not the values.</summary>
    public bool OverKeys { get; } = overKeys;
}

public sealed record SwitchCase(Expression? Value, IReadOnlyList<Statement> Body);

public sealed class Switch(Expression subject, IReadOnlyList<SwitchCase> cases, Span span) : Statement(span)
{
    public Expression Subject { get; } = subject;

    public IReadOnlyList<SwitchCase> Cases { get; } = cases;
}

public sealed record CatchClause(Expression? Target, Block Body);

public sealed class Try(Block body, IReadOnlyList<CatchClause> catches, Block? last, Span span) : Statement(span)
{
    public Block Body { get; } = body;

    public IReadOnlyList<CatchClause> Catches { get; } = catches;

    public Block? Finally { get; } = last;
}

public sealed class Return(Expression? value, Span span) : Statement(span)
{
    public Expression? Value { get; } = value;
}

public sealed class Break(string? label, int levels, Span span) : Statement(span)
{
    public string? Label { get; } = label;

    public int Levels { get; } = levels;
}

public sealed class Continue(string? label, int levels, Span span) : Statement(span)
{
    public string? Label { get; } = label;

    public int Levels { get; } = levels;
}

public sealed class Labeled(string label, Statement body, Span span) : Statement(span)
{
    public string Label { get; } = label;

    public Statement Body { get; } = body;
}

/// <summary>Writes to the page or the standard output.</summary>
public sealed class Output(IReadOnlyList<Expression> values, Span span) : Statement(span)
{
    public IReadOnlyList<Expression> Values { get; } = values;
}

/// <summary>Makes variables of the whole program usable in a function (PHP's <c>global</c>).</summary>
public sealed class GlobalDeclaration(IReadOnlyList<Name> names, Span span) : Statement(span)
{
    public IReadOnlyList<Name> Names { get; } = names;
}

public sealed class FunctionStatement(FunctionDeclaration function, Span span) : Statement(span)
{
    public FunctionDeclaration Function { get; } = function;

    /// <summary>The variable it declares, for languages whose functions are values; set by the binder.</summary>
    public object? Binding { get; set; }
}

public sealed class ClassStatement(ClassDeclaration declaration, Span span) : Statement(span)
{
    public ClassDeclaration Declaration { get; } = declaration;

    public object? Binding { get; set; }
}

/// <summary>One name taken from a module: its name there (<c>default</c>, <c>*</c> for all) and here.</summary>
public sealed record ImportedName(string Imported, Name Local);

public sealed class Import(string module, IReadOnlyList<ImportedName> names, Span span) : Statement(span)
{
    public string Module { get; } = module;

    public IReadOnlyList<ImportedName> Names { get; } = names;
}

/// <summary>Makes a value visible to other modules; <c>*</c> with a module passes everything of it on.</summary>
public sealed class Export(string exported, Expression? value, string? module, Span span) : Statement(span)
{
    public string Exported { get; } = exported;

    public Expression? Value { get; } = value;

    public string? Module { get; } = module;
}

/// <summary>A name for a type with what is said of its values: <c>Session = Annotated[AsyncSession, Depends(get_session)]</c>.</summary>
public sealed class TypeStatement(string name, NamedType type, Span span) : Statement(span)
{
    public string Name { get; } = name;

    public NamedType Type { get; } = type;
}

/// <summary>The namespace and the aliases that hold for the names after it (PHP).</summary>
public sealed class NamespaceStatement(string name, Span span) : Statement(span)
{
    public string Name { get; } = name;
}

public sealed class UseStatement(string qualified, string alias, Span span) : Statement(span)
{
    public string Qualified { get; } = qualified;

    public string Alias { get; } = alias;
}
