using Bellator.Core.Sources;

namespace Bellator.Core.Flow;

/// <summary>Places in which a value may stand, each with its own way of breaking out. A value can be harmless in some and not in others.</summary>
[Flags]
public enum Position
{
    None = 0,

    /// <summary>Inside the quotes of a text in SQL.</summary>
    SqlText = 1,

    /// <summary>Inside the quotes of an identifier in SQL.</summary>
    SqlIdentifier = 2,

    /// <summary>In SQL without quotes: a number, a name, a keyword.</summary>
    SqlBare = 4,

    Html = 8,

    Url = 16,

    Shell = 32,

    Path = 64,

    /// <summary>In program code.</summary>
    Code = 128,

    Header = 256,

    Ldap = 512,

    Xpath = 1024,

    /// <summary>In a regular expression or search pattern.</summary>
    Pattern = 2048,

    /// <summary>Where an object would be taken apart: harmless once it is text or a number for certain.</summary>
    Object = 4096,

    /// <summary>In the source of a template.</summary>
    Template = 8192,

    /// <summary>An address to send the browser to.</summary>
    Redirect = 16384,

    /// <summary>Bytes that become objects.</summary>
    Serialised = 32768,

    /// <summary>In the value of an attribute of a page, between quotes.</summary>
    Attribute = 65536,

    /// <summary>In a script of a page.</summary>
    Script = 131072,

    /// <summary>At the beginning of an address in a page, where a scheme could stand that runs script.</summary>
    Address = 262144,

    /// <summary>The name of a file that is made: its ending decides what a server does with it.</summary>
    FileName = 524288,

    All = ~0,
}

/// <summary>What was done to hide a value, from nothing to a deliberately slow hash.</summary>
public enum Hiding
{
    Plain,
    Encoded,
    Encrypted,
    FastHash,
    SlowHash,
}

public enum OriginKind
{
    /// <summary>Part of the request.</summary>
    Request,

    /// <summary>A parameter of a function: resolved where the function is called.</summary>
    Parameter,

    /// <summary>Read back from the database.</summary>
    Stored,

    /// <summary>What an error tells of the program's inside: where it happened, and by which way.</summary>
    Error,
}

/// <summary>Where a value comes from.</summary>
/// <param name="Kind">Request, parameter or database.</param>
/// <param name="Part">The part of the request (query, form, body, …).</param>
/// <param name="Name">The field's, parameter's or column's name, or null.</param>
/// <param name="Function">For a parameter its function; for a request the file it was read in, so that each file shows its own reading.</param>
/// <param name="Index">The parameter's position; -1 for the object itself.</param>
public sealed record Origin(OriginKind Kind, string Part, string? Name, int Function, int Index)
{
    /// <summary>Some part whose name is only known when the program runs.</summary>
    public const string AnyName = "*";

    /// <summary>Whoever sent it also chose the names of its parts: true of a whole form, not of what lies in one, nor of what was read from a record.</summary>
    public bool NamesItsParts => Kind == OriginKind.Parameter || (Kind == OriginKind.Request && Name is null);

    /// <summary>What is said of this is said of the other too: the same value, or one of a request part that is left open.</summary>
    public bool Covers(Origin other) =>
        IsSameValue(other) || (Kind == OriginKind.Error && other.Kind == OriginKind.Error) || (Kind == OriginKind.Request && other.Kind == OriginKind.Request && Part == AnyName && Name is not null && Name == other.Name);

    /// <summary>Where the named part of it comes from.</summary>
    public Origin PartOf(string name) => Kind switch
    {
        // What a named value is cut into has no names of its own.
        OriginKind.Request => Name is not (null or AnyName) && name.All(char.IsAsciiDigit) ? this : this with { Name = name },
        OriginKind.Parameter when Part.Count(c => c == '.') < Value.MaxDepth - 1 && !name.Contains('.', StringComparison.Ordinal) =>
            this with { Part = Part.Length == 0 ? name : Part + "." + name, Name = name },
        OriginKind.Stored => this with { Name = name },
        _ => this,
    };

    /// <summary>The same request value wherever it is read.</summary>
    public bool IsSameValue(Origin other) =>
        this == other || (Kind == OriginKind.Request && other.Kind == OriginKind.Request && Part == other.Part && Name is not (null or AnyName) && Name == other.Name);
}

public enum StepKind
{
    Source,
    Parameter,
    Passed,
    Changed,
    Escaped,
    Hashed,
    Checked,
    Joined,
    Kept,

    /// <summary>The way leads through something that was not found: it may end here.</summary>
    Guessed,
    Sink,
}

/// <summary>One step on the way of a value; steps are linked from the newest to the first.</summary>
public sealed class Trace(StepKind kind, Location at, string note, Trace? previous, Trace? inner = null)
{
    /// <summary>Longer ways are cut in the middle: nobody reads them, and recursion would make them endless.</summary>
    public const int MaxLength = 24;

    public StepKind Kind { get; } = kind;

    public Location At { get; } = at;

    public string Note { get; } = note;

    public Trace? Previous { get; } = previous;

    /// <summary>For a call: the way through the function that was called.</summary>
    private Trace? Inner { get; } = inner;

    public int Length { get; } = (previous?.Length ?? 0) + (inner?.Length ?? 0) + 1;

    public static Trace Add(Trace? previous, StepKind kind, Location at, string note)
    {
        if (previous is not null && (previous.Length >= MaxLength || (previous.Kind == kind && previous.At == at)))
        {
            return previous;
        }

        return new Trace(kind, at, note, previous);
    }

    /// <summary>The same steps in the same places.</summary>
    internal static bool Same(Trace? left, Trace? right)
    {
        for (; !ReferenceEquals(left, right); left = left.Previous, right = right.Previous)
        {
            if (left is null || right is null || left.Length != right.Length || left.Kind != right.Kind || left.At != right.At || left.Note != right.Note || !Same(left.Inner, right.Inner))
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>The steps from first to last.</summary>
    public IReadOnlyList<Trace> Steps()
    {
        var list = new List<Trace>(Length);
        Collect(list, false);
        list.Reverse();
        return list;
    }

    private void Collect(List<Trace> list, bool skipParameters)
    {
        for (var step = this; step is not null; step = step.Previous)
        {
            step.Inner?.Collect(list, true);
            if (!skipParameters || step.Kind != StepKind.Parameter)
            {
                list.Add(step);
            }
        }
    }

    /// <summary>The way of an argument into a call and on through the function. Nothing is copied: long ways are shared by many values.</summary>
    public static Trace Through(Trace argument, Location call, string note, Trace inner) =>
        argument.Length + inner.Length >= MaxLength ? argument : new Trace(StepKind.Passed, call, note, argument, inner);
}

/// <summary>One origin of a value with what happened to it on the way.</summary>
/// <param name="Safe">Positions where it can do no harm any more.</param>
/// <param name="Altered">It is a changed or partial form of what came in.</param>
/// <param name="Guessed">The way leads through something that could not be resolved.</param>
public sealed record Taint(Origin Origin, Position Safe, Hiding Hiding, bool Altered, bool Guessed, Trace Trace)
{
    /// <summary>A test on some way, though not on every one, looks at the value: whether a harmful one gets here depends on how the ways go together.</summary>
    public bool Doubted { get; init; }

    /// <summary>Nothing was done to it but for making sure that it is text.</summary>
    public bool IsRaw => (Safe & ~Position.Object) == Position.None;

    public bool IsParameter => Origin.Kind == OriginKind.Parameter;

    /// <summary>Equal but for the way it came.</summary>
    public bool SameAs(Taint other) =>
        Safe == other.Safe && Hiding == other.Hiding && Altered == other.Altered && Guessed == other.Guessed && Doubted == other.Doubted && Origin == other.Origin;

    /// <summary>The same as another taint would be that continues what an argument brings, without making it.</summary>
    public bool IsAfter(Taint continued, Taint argument) =>
        Origin == argument.Origin && Safe == (argument.Safe | continued.Safe) && Hiding == (Hiding)Math.Max((int)argument.Hiding, (int)continued.Hiding)
        && Altered == (argument.Altered || continued.Altered) && Guessed == (argument.Guessed || continued.Guessed) && Doubted == (argument.Doubted || continued.Doubted);

    /// <summary>This, as it continues what another taint describes: used where a parameter meets its argument.</summary>
    public Taint After(Taint argument, Location call, string note)
    {
        return new Taint(
            argument.Origin,
            argument.Safe | Safe,
            (Hiding)Math.Max((int)argument.Hiding, (int)Hiding),
            argument.Altered || Altered,
            argument.Guessed || Guessed,
            Trace.Through(argument.Trace, call, note, Trace))
        { Doubted = argument.Doubted || Doubted };
    }
}
