using Bellator.Text;

namespace Bellator.Analysis.Domain;

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
