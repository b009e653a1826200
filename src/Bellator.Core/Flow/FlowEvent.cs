using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Sources;

namespace Bellator.Core.Flow;

public enum EventKind
{
    /// <summary>A statement's text reaches the database. Roles: text, values (bound).</summary>
    Query,

    /// <summary>A prepared statement is run or gets values. Roles: text, values, or name and value.</summary>
    Run,

    /// <summary>Something is hashed. Roles: input, scheme, cost, salt.</summary>
    Hash,

    /// <summary>Two values are compared. Roles: left, right.</summary>
    Compare,

    /// <summary>A password is checked against its hash. Roles: password, hash.</summary>
    Verify,

    /// <summary>A value reaches a place where it could do harm. Roles: value, and model for a record that is filled.</summary>
    Sink,

    /// <summary>A database is opened. Roles: user, password, host.</summary>
    Connect,

    /// <summary>A function gets an address. Roles: path, method, handlers, receiver, only, except.</summary>
    Route,

    /// <summary>Routes come below a path, or functions on the way to them. Roles: path, children, receiver.</summary>
    Mount,

    /// <summary>Something comes on the way to handlers. Roles: names, receiver, only, except.</summary>
    Guard,

    /// <summary>Records are read or changed through a mapper. Roles: model, where, fields.</summary>
    Access,

    /// <summary>A mapper is told the columns of a table. Roles: name, and columns for all of them, or column, length and null for one.</summary>
    Columns,

    /// <summary>A library takes a step of a journey. Roles: act, note.</summary>
    Act,

    /// <summary>Something is made up. Roles: size, low, high.</summary>
    Random,

    /// <summary>A library brings journeys with it.</summary>
    Provides,
}

/// <summary>Something that happens to values and that checks want to know. Events that depend on parameters are repeated where the function is called.</summary>
public sealed class FlowEvent
{
    public required EventKind Kind { get; init; }

    public required CallFact? Fact { get; init; }

    /// <summary>For a sink, which.</summary>
    public SinkFact? Sink { get; init; }

    /// <summary>The exact position in which the value stands there, where it is known.</summary>
    public Position? Standing { get; init; }

    /// <summary>The function in which it happens, not the one from which it was reached.</summary>
    public required CodeFunction Function { get; init; }

    public required Location At { get; init; }

    /// <summary>Where the event got its meaning: for a helper that runs any statement, the call that gave it this one.</summary>
    public Location Place
    {
        get => field.IsKnown ? field : At;
        init;
    } = Location.None;

    public required Dictionary<string, Value> Roles { get; init; }

    /// <summary>Where each part of a role stands that has several: handlers, children, names.</summary>
    public IReadOnlyList<Location> Places { get; init; } = [];

    /// <summary>What the call was taken for rests on a name only.</summary>
    public bool Guessed { get; init; }

    /// <summary>How many calls lie between this function and the event.</summary>
    public int Depth { get; init; }

    public Value Role(string name) => Roles.GetValueOrDefault(name) ?? Value.Unknown;

    /// <summary>The event as one call of the function makes it, or null if it then says nothing a check could use.</summary>
    internal FlowEvent? Repeat(Substitution substitution, Location call)
    {
        // Most repetitions say nothing: a table is only made for those that do.
        var applications = new Value[Roles.Count];
        var tells = Kind is EventKind.Connect or >= EventKind.Route;
        var changed = false;
        var at = 0;
        foreach (var (name, value) in Roles)
        {
            var applied = applications[at++] = substitution.Apply(value);
            changed |= !ReferenceEquals(applied, value);
            tells |= applied.IsTainted || applied.HasParameters || (name == "value" && FieldAccess.DeepTaints(applied).Count > 0) || (name is "cost" or "salt" && applied.Constant is not null) || (name == "values" && FieldAccess.DeepTaints(applied).Count > 0)
                || (name == "text" && (applied.Constant is not null || applied.Text is not null));
        }

        if (!changed || !tells)
        {
            return null;
        }

        var roles = new Dictionary<string, Value>(Roles.Count, StringComparer.Ordinal);
        at = 0;
        foreach (var name in Roles.Keys)
        {
            roles[name] = applications[at++];
        }

        var settled = Role("text").HasParameters || Role("cost").HasParameters ? call : Place;
        return new FlowEvent { Kind = Kind, Fact = Fact, Sink = Sink, Standing = Standing, Function = Function, At = At, Place = settled, Places = Places, Roles = roles, Guessed = Guessed, Depth = Depth + 1 };
    }

    /// <summary>Nothing in it depends on what comes in: it only tells what the program does.</summary>
    public bool IsPlain => (_isPlain ??= Roles.Values.All(v => !v.IsTainted && !v.HasParameters && FieldAccess.DeepTaints(v).Count == 0)) is true;

    /// <summary>A boolean in one reference, which threads cannot see half set.</summary>
    private object? _isPlain;

    public bool IsOpen
    {
        get
        {
            foreach (var value in Roles.Values)
            {
                if (value.HasParameters)
                {
                    return true;
                }
            }

            return false;
        }
    }

    private object? _parameters;

    /// <summary>Which parameters of the function it depends on, a bit for each; all above a number share one.</summary>
    internal ulong ParametersOf(int function)
    {
        if (_parameters is not ulong known)
        {
            known = 0;
            foreach (var value in Roles.Values)
            {
                known |= ParametersOf(value, function);
            }

            _parameters = known;
        }

        return known;
    }

    /// <summary>The bit of a parameter.</summary>
    internal static ulong ParameterMark(int index) => 1UL << Math.Min(index, 63);

    private static ulong ParametersOf(Value value, int function)
    {
        if (!value.HasParameters)
        {
            return 0;
        }

        // A text knows no more origins than that many.
        var found = value.Text?.Taints.Count >= Value.MaxTaints ? ulong.MaxValue : 0;
        foreach (var taint in value.Taints.Concat(value.Text?.Taints ?? []))
        {
            if (taint.IsParameter && taint.Origin.Function == function && taint.Origin.Index >= 0)
            {
                found |= ParameterMark(taint.Origin.Index);
            }
        }

        foreach (var field in value.Parts)
        {
            found |= ParametersOf(field, function);
        }

        return value.Carried is null ? found : found | ParametersOf(value.Carried, function);
    }

    public bool SameAs(FlowEvent other)
    {
        if (Kind != other.Kind || !ReferenceEquals(Sink, other.Sink) || Standing != other.Standing || At != other.At || Roles.Count != other.Roles.Count)
        {
            return false;
        }

        foreach (var (name, value) in Roles)
        {
            if (!other.Roles.TryGetValue(name, out var theirs) || !value.SameAs(theirs))
            {
                return false;
            }
        }

        return true;
    }
}

/// <summary>An instruction from which a function of the program is reached.</summary>
public readonly record struct CallEdge(int Instruction, CodeFunction Target);

/// <summary>A place outside of functions where values are kept: a field of a class, a shared variable, a module's export.</summary>
public readonly record struct StoreKey(StoreKind Kind, int Owner, string Name)
{
    public bool Equals(StoreKey other) => Owner == other.Owner && Kind == other.Kind && Name == other.Name;

    /// <summary>Of the name only the ends count: keys are looked up millions of times, and names differ there.</summary>
    public override int GetHashCode()
    {
        var hash = ((int)Kind * 31) + Owner;
        var length = Name.Length;
        hash = (hash * 31) + length;
        for (var i = 0; i < Math.Min(4, length); i++)
        {
            hash = (hash * 31) + Name[i];
            hash = (hash * 31) + Name[length - 1 - i];
        }

        return hash;
    }
}

public enum StoreKind
{
    Field,
    Cell,
    Shared,
    Export,

    /// <summary>A value handed to a page template.</summary>
    View,

    /// <summary>A setting of a library, by its path.</summary>
    Library,

    /// <summary>A constant of the program, by its name.</summary>
    Constant,

    /// <summary>What is known of a function, or of one of its parameters.</summary>
    Function,
}

public sealed record OpenStore(StoreKey Key, Value Value, int Depth);

/// <summary>A part of the request that was checked, and the positions in which what passed is harmless.</summary>
public sealed record InputCheck(string Part, string Name, Position Safe)
{
    /// <summary>Stands for all that the route declares for its input.</summary>
    public static readonly InputCheck Declared = new("<declared>", "<all>", Position.All);
}

/// <summary>What is known of a function's request before it runs.</summary>
/// <param name="Declared">What its routes declare.</param>
/// <param name="Passed">What all of them have checked.</param>
internal sealed record InputChecks(IReadOnlyList<InputCheck> Declared, IReadOnlyList<InputCheck> Passed)
{
    public static readonly InputChecks None = new([], []);

    public bool SameAs(InputChecks other) => Declared.SequenceEqual(other.Declared) && Passed.SequenceEqual(other.Passed);
}

/// <summary>What callers need to know of a function.</summary>
public sealed class Summary
{
    public const int MaxOpenEvents = 48;

    public static readonly Summary Empty = new();

    public Value? Returns { get; init; }

    /// <summary>Events of the function and of those it calls; in terms of its own parameters.</summary>
    public IReadOnlyList<FlowEvent> Events { get; init; } = [];

    /// <summary>How many more events there were than are kept.</summary>
    public int DroppedEvents { get; init; }

    /// <summary>Parameters whose value is known to be harmless where the function answers yes.</summary>
    public IReadOnlyList<int> Vouches { get; init; } = [];

    /// <summary>Request values that are known to be harmless where the function calls the next in line.</summary>
    public IReadOnlyList<InputCheck> Passes { get; init; } = [];

    /// <summary>The function announces another kind of content than a page.</summary>
    public bool IsNotPage { get; init; }

    /// <summary>The parameter that names the kind of content which the function announces, or -1.</summary>
    public int Announces { get; init; } = -1;

    /// <summary>The named parts of the request that it reads, as part and name.</summary>
    public IReadOnlyList<(string Part, string Name)> Reads { get; init; } = [];

    /// <summary>The functions of the program that it calls or hands over, and where.</summary>
    public IReadOnlyList<CallEdge> Calls { get; init; } = [];

    /// <summary>Values made from parameters that the function keeps in fields and outer variables.</summary>
    public IReadOnlyList<OpenStore> Stores { get; init; } = [];

    /// <summary>The events that say something of the function's own parameters: what calls repeat.</summary>
    public IReadOnlyList<FlowEvent> OpenEvents => _openEvents ??= [.. Events.Where(e => e.IsOpen).Take(MaxOpenEvents)];

    /// <summary>How many of them there are beyond what calls repeat.</summary>
    public int UnrepeatedEvents => Events.Count <= MaxOpenEvents ? 0 : Math.Max(0, Events.Count(e => e.IsOpen) - MaxOpenEvents);

    private FlowEvent[]? _openEvents;
    private Summary? _face;

    /// <summary>Stands for what others can see of the function: the same object as long as that is just the same.</summary>
    internal object Face => _face ?? this;

    /// <summary>This summary, looking to others as another one does that shows the same.</summary>
    internal Summary WithFaceOf(Summary other)
    {
        _face = (Summary)other.Face;
        return this;
    }

    public bool SameAs(Summary other)
    {
        if ((Returns is null) != (other.Returns is null) || (Returns is not null && !Returns.SameAs(other.Returns)) || !Vouches.SequenceEqual(other.Vouches) || !Passes.SequenceEqual(other.Passes) || IsNotPage != other.IsNotPage || Announces != other.Announces
            || Stores.Count != other.Stores.Count || !Stores.Zip(other.Stores).All(p => p.First.Key == p.Second.Key && p.First.Value.SameAs(p.Second.Value)))
        {
            return false;
        }

        var mine = OpenEvents;
        var theirs = other.OpenEvents;
        return mine.Count == theirs.Count && mine.Zip(theirs).All(p => p.First.SameAs(p.Second));
    }
}
