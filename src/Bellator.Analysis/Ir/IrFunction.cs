using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Ir;

public sealed record IrParameter(string Name, TypeName? Type, bool Variadic, IReadOnlyList<Annotation> Annotations)
{
    /// <summary>The function's head says what it is where nothing is given.</summary>
    public bool HasDefault { get; init; }
}

/// <summary>A function as basic blocks in single-assignment form. The top level of a file is a function too.</summary>
public sealed class IrFunction
{
    private Span _span;
    private IrFile? _file;
    private IrFunction? _outer;
    private UnprunedCfg? _uncut;
    private int[]? _leads;
    private (int Instruction, string Name)[]? _namedCalls;
    private bool? _neverReturns;
    private object[] _learned = [];
    private IReadOnlyList<Annotation> _annotations = [];

    /// <summary>Its number in the program; set when files are put together, and kept when one of them is read anew.</summary>
    public int Id { get; internal set; } = -1;

    public required IrFile File { get => _file!; init => _file = value; }

    /// <summary>Empty for closures; <c>&lt;file&gt;</c> for a top level; <c>&lt;fields&gt;</c> for the initial values of a class.</summary>
    public required string Name { get; init; }

    public required Span Span { get => _span; init => _span = value; }

    public IrClass? Class { get; internal set; }

    public bool IsStatic { get; init; }

    public bool IsArrow { get; init; }

    /// <summary>The function this one is written in.</summary>
    public IrFunction? Outer { get => _outer; init => _outer = value; }

    public IReadOnlyList<IrParameter> Parameters { get; internal set; } = [];

    public TypeName? ReturnType { get; init; }

    public IReadOnlyList<Annotation> Annotations { get => _annotations; init => _annotations = value; }

    public Instruction[] Instructions { get; internal set; } = [];

    public Operand[] Operands { get; internal set; } = [];

    public BasicBlock[] Blocks { get; internal set; } = [];

    /// <summary>Reachable blocks, each after those it must come from except over loops.</summary>
    public int[] Order { get; internal set; } = [];

    /// <summary>The variable that each value was first stored in, where there is one.</summary>
    public IReadOnlyDictionary<int, string> Names { get; internal set; } = new Dictionary<int, string>();

    /// <summary>The block of each instruction.</summary>
    public int[] BlockOf { get; internal set; } = [];

    /// <summary>The instructions that lead to other code: calls, inclusions, and functions that are written in this one.</summary>
    internal int[] OutgoingCalls => _leads ??= [.. Enumerable.Range(0, Instructions.Length).Where(i => Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Function or Opcode.Include)];

    /// <summary>The names of what it calls.</summary>
    public IEnumerable<string> CalledNames() => NamedCalls.Select(c => c.Name);

    /// <summary>The calls in it whose name is written there, with the last part of the name.</summary>
    internal (int Instruction, string Name)[] NamedCalls => _namedCalls ??= [.. OutgoingCalls.Select(i => (i, NameAt(i))).Where(c => c.Item2.Length > 0)];

    /// <summary>The last part of the name that is called there; empty where there is none.</summary>
    internal string NameAt(int lead) => Instructions[lead] switch
    {
        { Op: Opcode.Call, A: var called } => IrClass.ShortOf(Instructions[called].Text ?? ""),
        { Op: Opcode.CallMethod or Opcode.CallStatic, Text: { } name } => IrClass.ShortOf(name),
        _ => "",
    };

    /// <summary>Calls after which the function was cut off, since they never come back.</summary>
    internal IReadOnlyList<int> PrunedEdges { get; private set; } = [];

    /// <summary>Every way through the function as it is written ends with an exception or the end of the program.</summary>
    internal bool NeverReturns => _neverReturns ??= UnreachableCode.NeverReturns(this);

    /// <summary>
    /// What is to be found out of the function by its code and the facts alone: found once, for as long as the code is the same and
    /// over however many audits. One for each type.
    /// </summary>
    internal T DerivedCache<T>(Func<IrFunction, T> find)
        where T : class
    {
        T? learned = null;
        while (true)
        {
            var all = _learned;
            foreach (var known in all)
            {
                if (known is T found)
                {
                    return found;
                }
            }

            // Another thread may add to it or forget it all in between: what was forgotten must not come back.
            learned ??= find(this);
            if (Interlocked.CompareExchange(ref _learned, [.. all, learned], all) == all)
            {
                return learned;
            }
        }
    }

    /// <summary>Forgets what was found out of the function.</summary>
    internal void Invalidate() => _learned = [];

    /// <summary>It stands for code of a framework, which is not judged.</summary>
    public bool IsBrought => Class?.ActsFor is not null || Outer?.IsBrought == true;

    public bool IsTopLevel => Name == "<file>";

    public ReadOnlySpan<Operand> List(in Instruction instruction) => Operands.AsSpan(instruction.B, instruction.C);

    /// <summary>Where an instruction stands; where a function is that has no such instruction, as one without a body.</summary>
    public Location LocationOf(int instruction)
    {
        var span = (uint)instruction < (uint)Instructions.Length ? Instructions[instruction].Span : Span;
        return new Location(File.Index, span.Start, span.End);
    }

    public override string ToString() => (Class is null ? "" : Class.Name + ".") + Name;

    /// <summary>Keeps the function as it is before it is cut off after calls, so that another program can cut it otherwise.</summary>
    internal void NotePruned(IReadOnlyList<int> calls)
    {
        _uncut ??= new UnprunedCfg([.. Instructions], [.. Operands], [.. Blocks.Select(b => b.Copy())], Order);
        PrunedEdges = [.. PrunedEdges, .. calls];
        Invalidate();
    }

    /// <summary>The function as it was before it was cut off.</summary>
    internal void Restore()
    {
        if (_uncut is { } whole)
        {
            (Instructions, Operands, Blocks, Order) = (whole.Instructions, whole.Operands, whole.Blocks, whole.Order);
            _uncut = null;
            Invalidate();
            PrunedEdges = [];
        }
    }

    /// <summary>Takes over what another reading of the same function found, and stays the same for all who refer to it.</summary>
    internal void UpdateFrom(IrFunction fresh)
    {
        _span = fresh.Span;
        _uncut = null;
        _leads = null;
        _namedCalls = null;
        _neverReturns = null;
        Invalidate();
        PrunedEdges = [];
        Instructions = fresh.Instructions;
        Operands = fresh.Operands;
        Blocks = fresh.Blocks;
        Order = fresh.Order;
        Names = fresh.Names;
        BlockOf = fresh.BlockOf;
        Parameters = fresh.Parameters;

        // The marks are the same; where they stand is not.
        _annotations = fresh.Annotations;
    }

    /// <summary>Makes a function of a new reading part of a file that was read before.</summary>
    internal void MoveInto(IrFile file, IrFunction? outer, IrClass? owner)
    {
        _file = file;
        _outer = outer;
        Class = owner;
    }

    private sealed record UnprunedCfg(Instruction[] Instructions, Operand[] Operands, BasicBlock[] Blocks, int[] Order);
}

public sealed class IrClass
{
    private Span _span;
    private OwnPart? _own;

    public required IrFile File { get; init; }

    /// <summary>With its namespace, where the language has them.</summary>
    public required string Name { get; init; }

    public required ClassKind Kind { get; init; }

    public required Span Span { get => _span; init => _span = value; }

    /// <summary>The first of the places where the class is declared, if it has several; it knows the members of all.</summary>
    public IrClass Primary { get => field ?? this; internal set; }

    /// <summary>Ends the name of a class that holds what a framework brings to one of the program's.</summary>
    public const string BroughtMark = "<brought>";

    /// <summary>What the class's framework brings to it, where the facts have that as code.</summary>
    public IrClass? Brought { get; internal set; }

    /// <summary>The class of the program whose objects these methods belong to.</summary>
    public IrClass? ActsFor { get; internal init; }

    /// <summary>Bases of the class that stand behind the framework's: what that brings is found before theirs.</summary>
    internal IReadOnlyList<string> BasesBehind { get; init; } = [];

    /// <summary>The type that the framework's facts know objects with these methods by.</summary>
    internal string? BroughtKind { get; init; }

    public string? Base { get; internal set; }

    /// <summary>What the base class is made for, where it is a generic one.</summary>
    public IReadOnlyList<string> BaseArguments { get; internal init; } = [];

    public IReadOnlyList<string> Interfaces { get; internal set; } = [];

    public IReadOnlyList<string> Traits { get; internal set; } = [];

    public IReadOnlyList<Field> Fields { get; internal set; } = [];

    public IReadOnlyList<Annotation> Annotations { get; internal set; } = [];

    /// <summary>Before the name of a class's own method where its objects have one of the same name.</summary>
    public const string OfClass = "self.";

    public Dictionary<string, IrFunction> Methods { get; } = new(StringComparer.OrdinalIgnoreCase);

    public int Id { get; internal set; } = -1;

    public string ShortName => ActsFor?.ShortName ?? ShortOf(Name);

    /// <summary>The last part of a qualified name in any language.</summary>
    public static string ShortOf(string name) => name[(name.AsSpan().LastIndexOfAny('\\', '.', ':') + 1)..];

    /// <summary>Adds what another place declares of the same class.</summary>
    internal void Join(IrClass part)
    {
        _own ??= new OwnPart(Base, Interfaces, Traits, Fields, Annotations, [.. Methods]);
        part.Primary = this;
        Base ??= part.Base;
        Fields = [.. Fields, .. part.Fields];
        Interfaces = [.. Interfaces, .. part.Interfaces];
        Traits = [.. Traits, .. part.Traits];
        Annotations = [.. Annotations, .. part.Annotations];
        foreach (var (name, method) in part.Methods)
        {
            Methods.TryAdd(name, method);
        }
    }

    /// <summary>The class as its own place declares it.</summary>
    internal void Restore()
    {
        Primary = this;
        if (_own is { } own)
        {
            (Base, Interfaces, Traits, Fields, Annotations) = (own.Base, own.Interfaces, own.Traits, own.Fields, own.Annotations);
            SetMethods(own.Methods);
            _own = null;
        }
    }

    /// <summary>Takes over what another reading of the same class found.</summary>
    internal void UpdateFrom(IrClass fresh, IEnumerable<KeyValuePair<string, IrFunction>> methods)
    {
        _span = fresh.Span;
        Fields = fresh.Fields;
        Annotations = fresh.Annotations;
        SetMethods(methods);
    }

    private void SetMethods(IEnumerable<KeyValuePair<string, IrFunction>> methods)
    {
        KeyValuePair<string, IrFunction>[] all = [.. methods];
        Methods.Clear();
        foreach (var (name, method) in all)
        {
            Methods[name] = method;
        }
    }

    private sealed record OwnPart(
        string? Base, IReadOnlyList<string> Interfaces, IReadOnlyList<string> Traits, IReadOnlyList<Field> Fields, IReadOnlyList<Annotation> Annotations,
        IReadOnlyList<KeyValuePair<string, IrFunction>> Methods);
}

/// <summary>A file after lowering; its syntax is not kept.</summary>
public sealed class IrFile(SourceFile source)
{
    public SourceFile Source { get; internal set; } = source;

    /// <summary>Its place among the files of the program.</summary>
    public int Index
    {
        get;
        internal set
        {
            if (field != value)
            {
                // What was found out says where it stands.
                Functions.ForEach(f => f.Invalidate());
                field = value;
            }
        }
    } = -1;

    public List<IrFunction> Functions { get; } = [];

    public List<IrClass> Classes { get; } = [];

    public int CellCount { get; internal set; }

    /// <summary>First of this file's cells among the program's.</summary>
    public int FirstCell { get; internal set; }

    public string Namespace { get; internal set; } = "";

    /// <summary>Short names that stand for qualified ones (PHP's <c>use</c>).</summary>
    public Dictionary<string, string> Aliases { get; } = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Names for types at its top level, and what is said of their values.</summary>
    public Dictionary<string, NamedType> NamedTypes { get; } = new(StringComparer.Ordinal);

    /// <summary>Local names of imported bindings: module and the name there.</summary>
    public Dictionary<string, (string Module, string Name)> Imports { get; } = new(StringComparer.Ordinal);

    public int NodeCount { get; internal set; }

    public int OpaqueCount { get; internal set; }

    public int ErrorCount { get; internal set; }

    public int DepthCutCount { get; internal set; }

    /// <summary>Takes over what another reading of the same file found.</summary>
    internal void UpdateFrom(IrFile fresh, IReadOnlyList<IrFunction> functions)
    {
        Source = fresh.Source;
        CellCount = fresh.CellCount;
        NodeCount = fresh.NodeCount;
        OpaqueCount = fresh.OpaqueCount;
        ErrorCount = fresh.ErrorCount;
        DepthCutCount = fresh.DepthCutCount;
        Functions.Clear();
        Functions.AddRange(functions);
    }
}
