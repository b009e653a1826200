using Bellator.Text;

namespace Bellator.Syntax;

/// <summary>A part of a program, in the same shape for every language.</summary>
public abstract class Node(Span span)
{
    public Span Span { get; } = span;
}

public abstract class Expression(Span span) : Node(span);

public enum LiteralKind
{
    Text,
    Number,
    Boolean,
    Null,
    Pattern,
}

/// <summary>A constant; for text the value after escapes, for a pattern the regular expression with its flags after the last slash.</summary>
public sealed class Literal(LiteralKind kind, string text, Span span) : Expression(span)
{
    public LiteralKind Kind { get; } = kind;

    public string Text { get; } = text;
}

/// <summary>A variable, function, class or constant by name. PHP's variables keep their dollar sign, which tells them from its other names.</summary>
public sealed class Name(string text, Span span) : Expression(span)
{
    public string Text { get; } = text;

    /// <summary>What the name refers to; set once by the binder.</summary>
    public object? Binding { get; set; }
}

/// <summary>The object a method runs on.</summary>
public sealed class ThisExpression(Span span) : Expression(span);

/// <summary><c>target.name</c>, <c>$target->name</c>.</summary>
public sealed class Member(Expression target, string name, bool optional, Span span) : Expression(span)
{
    public Expression Target { get; } = target;

    public string MemberName { get; } = name;

    public bool Optional { get; } = optional;
}

/// <summary><c>Class::name</c>; a static variable keeps its dollar sign.</summary>
public sealed class StaticMember(Expression target, string name, Span span) : Expression(span)
{
    public Expression Target { get; } = target;

    public string MemberName { get; } = name;
}

/// <summary><c>target[key]</c>; without a key it appends (PHP).</summary>
public sealed class IndexExpression(Expression target, Expression? key, Span span) : Expression(span)
{
    public Expression Target { get; } = target;

    public Expression? Key { get; } = key;
}

public sealed record Argument(Expression Value, string? Name = null, bool Spread = false)
{
    /// <summary>The call writes into it: <c>out var asked</c>.</summary>
    public bool IsOut { get; init; }
}

public sealed class Call(Expression callee, IReadOnlyList<Argument> arguments, bool optional, Span span) : Expression(span)
{
    public Expression Callee { get; } = callee;

    public IReadOnlyList<Argument> Arguments { get; } = arguments;

    public bool Optional { get; } = optional;
}

public sealed class NewExpression(Expression type, IReadOnlyList<Argument> arguments, Span span) : Expression(span)
{
    public Expression Type { get; } = type;

    public IReadOnlyList<Argument> Arguments { get; } = arguments;
}

/// <summary>Two operands; <c>&amp;&amp;</c>, <c>||</c> and <c>??</c> evaluate the second only if needed. Joining text is <c>.</c> in PHP and <c>+</c> elsewhere.</summary>
public sealed class Binary(string op, Expression left, Expression right, Span span) : Expression(span)
{
    public string Operator { get; } = op;

    public Expression Left { get; } = left;

    public Expression Right { get; } = right;
}

public sealed class Unary(string op, Expression operand, Span span) : Expression(span)
{
    public string Operator { get; } = op;

    public Expression Operand { get; } = operand;
}

/// <summary>Assignment; the operator is null for a plain one, or that of <c>+=</c>, <c>.=</c>, <c>??=</c> without the equals sign.</summary>
public sealed class Assignment(Expression target, string? op, Expression value, Span span) : Expression(span)
{
    public Expression Target { get; } = target;

    public string? Operator { get; } = op;

    public Expression Value { get; } = value;
}

/// <summary>A destructuring target with the value to take when there is none.</summary>
public sealed class DefaultTarget(Expression target, Expression fallback, Span span) : Expression(span)
{
    public Expression Target { get; } = target;

    public Expression Fallback { get; } = fallback;
}

/// <summary><c>condition ? then : otherwise</c>; PHP's short form has no <c>then</c>.</summary>
public sealed class Conditional(Expression condition, Expression? then, Expression otherwise, Span span) : Expression(span)
{
    public Expression Condition { get; } = condition;

    public Expression? Then { get; } = then;

    public Expression Otherwise { get; } = otherwise;
}

/// <summary>Text with values in it; literal parts are text literals.</summary>
public sealed class Template(IReadOnlyList<Expression> parts, Expression? tag, Span span) : Expression(span)
{
    public IReadOnlyList<Expression> Parts { get; } = parts;

    /// <summary>The function of a tagged template, which receives the pieces and values apart.</summary>
    public Expression? Tag { get; } = tag;
}

public sealed class Lambda(FunctionDeclaration function, Span span) : Expression(span)
{
    public FunctionDeclaration Function { get; } = function;
}

public sealed class ClassExpression(ClassDeclaration declaration, Span span) : Expression(span)
{
    public ClassDeclaration Declaration { get; } = declaration;
}

/// <summary>One entry of an object, array or destructuring pattern. A spread has neither name nor key.</summary>
public sealed record Entry(string? Name, Expression? Key, Expression Value, bool Spread = false);

/// <summary>An object with names, a list, or PHP's array, which is both. Also the pattern of a destructuring assignment.</summary>
public sealed class ObjectLiteral(IReadOnlyList<Entry> entries, bool isList, Span span) : Expression(span)
{
    public IReadOnlyList<Entry> Entries { get; } = entries;

    public bool IsList { get; } = isList;
}

public sealed class Cast(string type, Expression value, Span span) : Expression(span)
{
    public string Type { get; } = type;

    public Expression Value { get; } = value;
}

/// <summary><c>await</c>, <c>yield</c>, and a type assertion: the value passes through.</summary>
public sealed class PassThrough(string kind, Expression value, Span span) : Expression(span)
{
    /// <summary>The kind of one that waits for what comes later.</summary>
    public const string Await = "await";

    public string Kind { get; } = kind;

    public Expression Value { get; } = value;
}

public sealed record MatchArm(IReadOnlyList<Expression> Conditions, Expression Result);

public sealed class MatchExpression(Expression subject, IReadOnlyList<MatchArm> arms, Span span) : Expression(span)
{
    public Expression Subject { get; } = subject;

    /// <summary>An arm without conditions is the default.</summary>
    public IReadOnlyList<MatchArm> Arms { get; } = arms;
}

/// <summary>Runs another file of the program in place.</summary>
public sealed class Include(Expression path, Span span) : Expression(span)
{
    public Expression Path { get; } = path;
}

public sealed class Sequence(IReadOnlyList<Expression> items, Span span) : Expression(span)
{
    public IReadOnlyList<Expression> Items { get; } = items;
}

/// <summary>Ends the program, showing the value if there is one.</summary>
public sealed class ExitExpression(Expression? value, Span span) : Expression(span)
{
    public Expression? Value { get; } = value;
}

public sealed class ThrowExpression(Expression value, Span span) : Expression(span)
{
    public Expression Value { get; } = value;
}

/// <summary>An element of a page written in code (JSX).</summary>
public sealed class Markup(string tag, IReadOnlyList<Entry> attributes, IReadOnlyList<Expression> children, Span span) : Expression(span)
{
    public string Tag { get; } = tag;

    public IReadOnlyList<Entry> Attributes { get; } = attributes;

    public IReadOnlyList<Expression> Children { get; } = children;
}

/// <summary>A construct that is not modelled; its parts are still evaluated.</summary>
public sealed class Opaque(string kind, IReadOnlyList<Expression> parts, Span span) : Expression(span)
{
    public string Kind { get; } = kind;

    public IReadOnlyList<Expression> Parts { get; } = parts;
}
