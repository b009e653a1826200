using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Summaries;

/// <summary>An instruction from which a function of the program is reached.</summary>
/// <param name="Rewritten">Parts of the request that are overwritten by then, with what stands there; null for none.</param>
public readonly record struct CallEdge(int Instruction, IrFunction Target, IReadOnlyDictionary<RequestPart, AbstractValue>? Rewritten = null);

/// <summary>A call of what a parameter brings, with what is known of the arguments without where they come from.</summary>
public sealed record GivenCall(int Parameter, IReadOnlyList<AbstractValue> Arguments)
{
    public bool SameAs(GivenCall other) => Parameter == other.Parameter && Arguments.Count == other.Arguments.Count && Arguments.Zip(other.Arguments).All(p => p.First.SameAs(p.Second));
}

public sealed record OpenStore(StoreKey Key, AbstractValue Value, int Depth);

/// <summary>What callers need to know of a function.</summary>
public sealed class FunctionSummary
{
    public const int MaxOpenEvents = 48;

    public static readonly FunctionSummary Empty = new();

    public AbstractValue? Returns { get; init; }

    /// <summary>Events of the function and of those it calls; in terms of its own parameters.</summary>
    public IReadOnlyList<AnalysisEvent> Events { get; init; } = [];

    /// <summary>How many more events there were than are kept.</summary>
    public int DroppedEvents { get; init; }

    /// <summary>Parameters whose value is known to be harmless where the function answers yes.</summary>
    public IReadOnlyList<int> ValidatesParameters { get; init; } = [];

    /// <summary>Request values that are known to be harmless where the function calls the next in line.</summary>
    public IReadOnlyList<InputCheck> ValidatedInputs { get; init; } = [];

    /// <summary>The function announces another kind of content than a page.</summary>
    public bool IsNotPage { get; init; }

    /// <summary>The parameter that names the kind of content which the function announces, or -1.</summary>
    public int ContentTypeParameter { get; init; } = -1;

    /// <summary>The named parts of the request that it reads, as part and name.</summary>
    public IReadOnlyList<(string Part, string Name)> Reads { get; init; } = [];

    /// <summary>The functions of the program that it calls or hands over, and where.</summary>
    public IReadOnlyList<CallEdge> Calls { get; init; } = [];

    /// <summary>Values made from parameters that the function keeps in fields and outer variables.</summary>
    public IReadOnlyList<OpenStore> Stores { get; init; } = [];

    /// <summary>Calls of functions that it is given: each caller's own function gets these arguments, whatever others hand over.</summary>
    public IReadOnlyList<GivenCall> GivenCalls { get; init; } = [];

    /// <summary>Parts of the request that it overwrites where it comes back, in terms of its own parameters.</summary>
    public IReadOnlyDictionary<RequestPart, AbstractValue>? Rewrites { get; init; }

    /// <summary>What a function that is a condition on records says of their columns; null for others.</summary>
    public AbstractValue? Condition { get; init; }

    /// <summary>What a function adds to the conditions of the query that it is given, as code does that runs on every query of a class; null for others.</summary>
    public AbstractValue? AddedConditions { get; init; }

    /// <summary>The events that say something of the function's own parameters: what calls repeat.</summary>
    public IReadOnlyList<AnalysisEvent> OpenEvents => _openEvents ??= [.. Events.Where(e => e.IsOpen).Take(MaxOpenEvents)];

    /// <summary>How many of them there are beyond what calls repeat.</summary>
    public int UnrepeatedEvents => Events.Count <= MaxOpenEvents ? 0 : Math.Max(0, Events.Count(e => e.IsOpen) - MaxOpenEvents);

    private AnalysisEvent[]? _openEvents;
    private FunctionSummary? _interface;

    /// <summary>Stands for what others can see of the function: the same object as long as that is just the same.</summary>
    internal object Interface => _interface ?? this;

    /// <summary>This summary, looking to others as another one does that shows the same.</summary>
    internal FunctionSummary WithInterfaceOf(FunctionSummary other)
    {
        _interface = (FunctionSummary)other.Interface;
        return this;
    }

    private static bool AreSame(AbstractValue? one, AbstractValue? other) => one is null ? other is null : other is not null && one.SameAs(other);

    public bool SameAs(FunctionSummary other)
    {
        if (!AreSame(Returns, other.Returns) || !ValidatesParameters.SequenceEqual(other.ValidatesParameters) || !ValidatedInputs.SequenceEqual(other.ValidatedInputs) || !AreSame(Condition, other.Condition) || !AreSame(AddedConditions, other.AddedConditions) || !RequestPart.AreSame(Rewrites, other.Rewrites) || IsNotPage != other.IsNotPage || ContentTypeParameter != other.ContentTypeParameter
            || GivenCalls.Count != other.GivenCalls.Count || !GivenCalls.Zip(other.GivenCalls).All(p => p.First.SameAs(p.Second))
            || Stores.Count != other.Stores.Count || !Stores.Zip(other.Stores).All(p => p.First.Key == p.Second.Key && p.First.Value.SameAs(p.Second.Value)))
        {
            return false;
        }

        var mine = OpenEvents;
        var theirs = other.OpenEvents;
        if (mine.Count != theirs.Count)
        {
            return false;
        }

        for (var i = 0; i < mine.Count; i++)
        {
            // In circles of calls they come in another order each time.
            if (!mine[i].SameAs(theirs[i]) && !theirs.Any(mine[i].SameAs))
            {
                return false;
            }
        }

        return true;
    }
}
