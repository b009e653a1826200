using Bellator.Analysis.Domain;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Checks;

/// <summary>How a finding is known.</summary>
public enum Certainty
{
    /// <summary>A local pattern, or a way that leads through a guess.</summary>
    Matched,

    /// <summary>A value was followed from where it comes in to where it does harm.</summary>
    Traced,

    /// <summary>A solver or parser made a concrete witness.</summary>
    Proved,
}

/// <summary>A weakness at a place, with evidence.</summary>
public sealed record Finding
{
    public required Check Check { get; init; }

    /// <summary>Where to look: the place that a change would mend.</summary>
    public required Location At { get; init; }

    public required Certainty Certainty { get; init; }

    /// <summary>One plain sentence about this very place.</summary>
    public required string Message { get; init; }

    /// <summary>The way of the value from its source to its sink; empty for a local pattern.</summary>
    public IReadOnlyList<FindingStep> Steps { get; init; } = [];

    /// <summary>The concrete thing that shows the weakness, where one could be made.</summary>
    public Witness? Witness { get; init; }

    public IReadOnlyList<Location> Related { get; init; } = [];

    /// <summary>CWE numbers of this finding in addition to the check's.</summary>
    public IReadOnlyList<int> MoreCwes { get; init; } = [];

    /// <summary>What the fingerprint is made of beside the place, such as the field's name.</summary>
    public string Subject { get; init; } = "";

    public IEnumerable<int> Cwes => Check.Cwes.Concat(MoreCwes).Distinct();

    public double Score => Check.Score;
}

public sealed record FindingStep(StepKind Kind, Location At, string Note);
