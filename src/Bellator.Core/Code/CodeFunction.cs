using Bellator.Core.Sources;
using Bellator.Core.Syntax;

namespace Bellator.Core.Code;

public sealed record CodeParameter(string Name, TypeName? Type, bool Variadic, IReadOnlyList<Annotation> Annotations);

/// <summary>A function as basic blocks in single-assignment form. The top level of a file is a function too.</summary>
public sealed class CodeFunction
{
    /// <summary>Position in the program; set when files are put together.</summary>
    public int Id { get; internal set; } = -1;

    public required FileCode File { get; init; }

    /// <summary>Empty for closures; <c>&lt;file&gt;</c> for a top level; <c>&lt;fields&gt;</c> for the initial values of a class.</summary>
    public required string Name { get; init; }

    public required Span Span { get; init; }

    public CodeClass? Class { get; internal set; }

    public bool IsStatic { get; init; }

    public bool IsArrow { get; init; }

    /// <summary>The function this one is written in.</summary>
    public CodeFunction? Outer { get; init; }

    public IReadOnlyList<CodeParameter> Parameters { get; internal set; } = [];

    public TypeName? ReturnType { get; init; }

    public IReadOnlyList<Annotation> Annotations { get; init; } = [];

    public Instruction[] Instructions { get; internal set; } = [];

    public Operand[] Operands { get; internal set; } = [];

    public BasicBlock[] Blocks { get; internal set; } = [];

    /// <summary>Reachable blocks, each after those it must come from except over loops.</summary>
    public int[] Order { get; internal set; } = [];

    /// <summary>The variable that each value was first stored in, where there is one.</summary>
    public IReadOnlyDictionary<int, string> Names { get; internal set; } = new Dictionary<int, string>();

    /// <summary>The block of each instruction.</summary>
    public int[] BlockOf { get; internal set; } = [];

    public bool IsTopLevel => Name == "<file>";

    public ReadOnlySpan<Operand> List(in Instruction instruction) => Operands.AsSpan(instruction.B, instruction.C);

    public Location LocationOf(int instruction)
    {
        var span = Instructions[instruction].Span;
        return new Location(File.Index, span.Start, span.End);
    }

    public override string ToString() => (Class is null ? "" : Class.Name + ".") + Name;
}

public sealed class CodeClass
{
    public required FileCode File { get; init; }

    /// <summary>With its namespace, where the language has them.</summary>
    public required string Name { get; init; }

    public required ClassKind Kind { get; init; }

    public required Span Span { get; init; }

    /// <summary>The first of the places where the class is declared, if it has several; it knows the members of all.</summary>
    public CodeClass Primary { get => field ?? this; internal set; }

    public string? Base { get; internal set; }

    public IReadOnlyList<string> Interfaces { get; internal set; } = [];

    public IReadOnlyList<string> Traits { get; internal set; } = [];

    public IReadOnlyList<Field> Fields { get; internal set; } = [];

    public IReadOnlyList<Annotation> Annotations { get; internal set; } = [];

    /// <summary>Before the name of a class's own method where its objects have one of the same name.</summary>
    public const string OfClass = "self.";

    public Dictionary<string, CodeFunction> Methods { get; } = new(StringComparer.OrdinalIgnoreCase);

    public int Id { get; internal set; } = -1;

    public string ShortName => ShortOf(Name);

    /// <summary>The last part of a qualified name in any language.</summary>
    public static string ShortOf(string name) => name[(name.AsSpan().LastIndexOfAny('\\', '.', ':') + 1)..];
}

/// <summary>A file after lowering; its syntax is not kept.</summary>
public sealed class FileCode(SourceFile source)
{
    public SourceFile Source { get; } = source;

    public int Index { get; internal set; } = -1;

    public List<CodeFunction> Functions { get; } = [];

    public List<CodeClass> Classes { get; } = [];

    public int CellCount { get; internal set; }

    /// <summary>First of this file's cells among the program's.</summary>
    public int FirstCell { get; internal set; }

    public string Namespace { get; internal set; } = "";

    /// <summary>Short names that stand for qualified ones (PHP's <c>use</c>).</summary>
    public Dictionary<string, string> Aliases { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Local names of imported bindings: module and the name there.</summary>
    public Dictionary<string, (string Module, string Name)> Imports { get; } = new(StringComparer.Ordinal);

    public int NodeCount { get; init; }

    public int OpaqueCount { get; init; }

    public int ErrorCount { get; init; }

    public int CutCount { get; init; }
}
