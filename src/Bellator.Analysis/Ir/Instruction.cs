using Bellator.Text;

namespace Bellator.Analysis.Ir;

/// <summary>What an instruction does. A, B and C are operands as noted; "list" means operands B..B+C of the function's operand table.</summary>
public enum Opcode : byte
{
    /// <summary>Text is the value, A its literal kind.</summary>
    Constant,
    Undefined,

    /// <summary>A is the position.</summary>
    Parameter,
    This,

    /// <summary>A name that no file of the program binds: Text.</summary>
    Global,

    /// <summary>A variable shared with inner functions: A is its cell in the file.</summary>
    LoadCell,
    StoreCell,

    /// <summary>A variable of the whole program by name (PHP): Text, and B the value stored.</summary>
    LoadShared,
    StoreShared,

    /// <summary>Text of A.</summary>
    GetField,

    /// <summary>Changes the object A in place: Text becomes B.</summary>
    SetField,

    /// <summary>A with Text changed to B, as a new value of the variable that held A.</summary>
    WithField,

    /// <summary>A[B]; B is -1 for the whole.</summary>
    GetItem,

    /// <summary>Changes A in place: A[B] becomes C; B is -1 to append.</summary>
    SetItem,

    /// <summary>A with [B] changed to C, as a new value; B is -1 to append.</summary>
    WithItem,

    /// <summary>Text of the class A.</summary>
    GetStatic,

    /// <summary>Text of the class A becomes B.</summary>
    SetStatic,

    /// <summary>Calls A with the list.</summary>
    Call,

    /// <summary>Calls method Text of A with the list.</summary>
    CallMethod,

    /// <summary>Calls Text of the class A with the list.</summary>
    CallStatic,

    /// <summary>Makes an object of class A with the list.</summary>
    New,

    /// <summary>Operator Text on A and B.</summary>
    Binary,

    /// <summary>Operator Text on A.</summary>
    Unary,

    /// <summary>The list joined as text.</summary>
    Concat,

    /// <summary>Tag A called with the pieces and values of the list.</summary>
    TaggedTemplate,

    /// <summary>A as type Text; where that is <c>await</c>, waited for.</summary>
    Cast,

    /// <summary>An object or keyed array of the list; an operand without a name is spread or keyed by a value.</summary>
    Object,
    List,

    /// <summary>A is the index of a function, or class, of the file.</summary>
    Function,
    Class,

    /// <summary>The list has one operand for each predecessor.</summary>
    Phi,

    /// <summary>Any element, or any key, of A.</summary>
    Element,
    ElementKey,
    Caught,

    /// <summary>What the call A wrote into its argument B.</summary>
    OutArgument,

    /// <summary>Name B's text of module Text: see <see cref="IrFunction.Operands"/> at B.</summary>
    Import,

    /// <summary>Makes A visible as Text.</summary>
    Export,

    /// <summary>Runs the file whose path is A.</summary>
    Include,

    /// <summary>Writes the list to the page.</summary>
    Output,
    Return,
    Throw,

    /// <summary>The program ends.</summary>
    Exit,

    /// <summary>Something not modelled that uses the list.</summary>
    Opaque,
}

/// <summary>One instruction; its index in the function is the value it makes.</summary>
public readonly record struct Instruction(Opcode Op, int A, int B, int C, string? Text, Span Span);

/// <summary>One of many operands: a value, its name (argument name, key) if it has one, and whether it is spread.</summary>
public readonly record struct Operand(int Value, string? Name = null, bool Spread = false, Span At = default);

/// <summary>A straight run of instructions. With a condition the first successor is where it holds.</summary>
public sealed class BasicBlock(int index)
{
    public int Index { get; } = index;

    /// <summary>Instruction indices, phis first.</summary>
    public IReadOnlyList<int> Instructions { get; internal set; } = [];

    public IReadOnlyList<int> Predecessors { get; internal set; } = [];

    public IReadOnlyList<int> Successors { get; internal set; } = [];

    /// <summary>The value that decides between two successors, or -1.</summary>
    public int Condition { get; internal set; } = -1;

    /// <summary>The block that every path to this one passes last, or -1 for the first and for unreachable ones.</summary>
    public int Dominator { get; internal set; } = -1;

    public bool IsReachable { get; internal set; }

    /// <summary>It ends with a call that never comes back.</summary>
    public bool NeverContinues { get; internal set; }

    internal BasicBlock Copy() => (BasicBlock)MemberwiseClone();
}
