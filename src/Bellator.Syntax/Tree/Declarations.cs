using Bellator.Text;

namespace Bellator.Syntax;

/// <summary>A declared type, as written: name without generics, and the generics' names.</summary>
public sealed record TypeName(string Name, IReadOnlyList<TypeName> Arguments)
{
    public static TypeName Of(string name) => new(name, []);
}

/// <summary>What a name for a type stands for, and the marks that come with it.</summary>
public sealed record NamedType(TypeName Type, IReadOnlyList<Annotation> Marks);

/// <summary>A decorator or attribute.</summary>
public sealed record Annotation(string Name, IReadOnlyList<Argument> Arguments, Span Span);

/// <summary>A parameter; its target is a name or a destructuring pattern.</summary>
public sealed record Parameter(Expression Target, Expression? Default, TypeName? Type, bool Variadic, bool Promoted, IReadOnlyList<Annotation> Annotations)
{
    public string? Name => (Target as Name)?.Text;
}

/// <summary>A function, method or closure.</summary>
public sealed class FunctionDeclaration(string name, IReadOnlyList<Parameter> parameters, Block body, Span span) : Node(span)
{
    public string Name { get; } = name;

    public IReadOnlyList<Parameter> Parameters { get; } = parameters;

    public Block Body { get; } = body;

    /// <summary>Its <c>this</c> is that of the function around it.</summary>
    public bool IsArrow { get; init; }

    public bool IsStatic { get; init; }

    public bool IsAbstract { get; init; }

    /// <summary>Outer variables it names to capture (PHP's <c>use</c>); null if it sees all of them.</summary>
    public IReadOnlyList<Name>? Uses { get; init; }

    public TypeName? ReturnType { get; init; }

    public IReadOnlyList<Annotation> Annotations { get; init; } = [];

    /// <summary>Set by the binder.</summary>
    public object? Scope { get; set; }

    /// <summary>The same under another name: reading or setting a member runs it.</summary>
    public FunctionDeclaration Named(string other) => new(other, Parameters, Body, Span)
    {
        IsArrow = IsArrow,
        IsStatic = IsStatic,
        IsAbstract = IsAbstract,
        Uses = Uses,
        ReturnType = ReturnType,
        Annotations = Annotations,
    };
}

/// <summary>Members that functions stand for.</summary>
public static class Accessors
{
    public const string Get = "get_";

    public const string Set = "set_";

    /// <summary>A member whose reading runs a method of the object.</summary>
    public static Field Read(string name, TypeName? type, bool isStatic, IReadOnlyList<Annotation> annotations, Span span) =>
        new(name, new Call(new Member(new ThisExpression(span), Get + name, false, span), [], false, span), type, isStatic, annotations, span);
}

public sealed record Field(string Name, Expression? Value, TypeName? Type, bool IsStatic, IReadOnlyList<Annotation> Annotations, Span Span);

public enum ClassKind
{
    Class,
    Interface,
    Trait,
    Enum,
}

public sealed class ClassDeclaration(string name, ClassKind kind, Span span) : Node(span)
{
    public string Name { get; } = name;

    public ClassKind Kind { get; } = kind;

    public Expression? Base { get; init; }

    /// <summary>What the base class is made for, where it is a generic one: <c>AbstractValidator&lt;Entry&gt;</c>.</summary>
    public IReadOnlyList<string> BaseArguments { get; init; } = [];

    public IReadOnlyList<string> Interfaces { get; init; } = [];

    public IReadOnlyList<string> Traits { get; init; } = [];

    public IReadOnlyList<Field> Fields { get; init; } = [];

    public IReadOnlyList<FunctionDeclaration> Methods { get; init; } = [];

    public IReadOnlyList<Annotation> Annotations { get; init; } = [];
}

/// <summary>A whole file as syntax, with how much of it was understood.</summary>
public sealed class FileUnit(SourceFile file, Block body)
{
    public SourceFile File { get; } = file;

    public Block Body { get; } = body;

    public int NodeCount { get; init; }

    /// <summary>Nodes that became <see cref="Opaque"/>.</summary>
    public int OpaqueCount { get; init; }

    public int ErrorCount { get; init; }

    public int CutCount { get; init; }

    /// <summary>Kinds of the opaque nodes and how often each occurred.</summary>
    public IReadOnlyDictionary<string, int> OpaqueKinds { get; init; } = new Dictionary<string, int>();
}
