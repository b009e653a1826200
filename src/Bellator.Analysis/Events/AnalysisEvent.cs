using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Text;

namespace Bellator.Analysis.Events;

/// <summary>Something that happens to values and that checks want to know. Events that depend on parameters are repeated where the function is called.</summary>
public sealed class AnalysisEvent
{
    public required EventKind Kind { get; init; }

    public required CallModel? Fact { get; init; }

    /// <summary>For a sink, which.</summary>
    public SinkModel? Sink { get; init; }

    /// <summary>The exact position in which the value stands there, where it is known.</summary>
    public OutputContext? Context { get; init; }

    /// <summary>The function in which it happens, not the one from which it was reached.</summary>
    public required IrFunction Function { get; init; }

    public required Location At { get; init; }

    /// <summary>Where the event got its meaning: for a helper that runs any statement, the call that gave it this one.</summary>
    public Location Place
    {
        get => field.IsKnown ? field : At;
        init;
    } = Location.None;

    public required Dictionary<string, AbstractValue> Roles { get; init; }

    /// <summary>Where each part of a role stands that has several: handlers, children, names.</summary>
    public IReadOnlyList<Location> Places { get; init; } = [];

    /// <summary>What the call was taken for rests on a name only.</summary>
    public bool Guessed { get; init; }

    /// <summary>How many calls lie between this function and the event.</summary>
    public int Depth { get; init; }

    public AbstractValue Role(string name) => Roles.GetValueOrDefault(name) ?? AbstractValue.Unknown;

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

    private static ulong ParametersOf(AbstractValue value, int function)
    {
        if (!value.HasParameters)
        {
            return 0;
        }

        // A text knows no more origins than that many.
        var found = value.Text?.Taints.Count >= AbstractValue.MaxTaints ? ulong.MaxValue : 0;
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

        return value.Payload is null ? found : found | ParametersOf(value.Payload, function);
    }

    public bool SameAs(AnalysisEvent other)
    {
        if (Kind != other.Kind || !ReferenceEquals(Sink, other.Sink) || Context != other.Context || At != other.At || Roles.Count != other.Roles.Count)
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
