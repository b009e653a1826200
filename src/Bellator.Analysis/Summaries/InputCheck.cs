using Bellator.Analysis.Domain;

namespace Bellator.Analysis.Summaries;

/// <summary>A part of the request that was checked, and the positions in which what passed is harmless.</summary>
public sealed record InputCheck(string Part, string Name, OutputContext Safe)
{
    /// <summary>Stands for all that the route declares for its input.</summary>
    public static readonly InputCheck Declared = new("<declared>", "<all>", OutputContext.All);
}

/// <summary>What is known of a function's request before it runs.</summary>
/// <param name="Declared">What its routes declare.</param>
/// <param name="Passed">What all of them have checked.</param>
internal sealed record InputChecks(IReadOnlyList<InputCheck> Declared, IReadOnlyList<InputCheck> Passed)
{
    public static readonly InputChecks None = new([], []);

    public bool SameAs(InputChecks other) => Declared.SequenceEqual(other.Declared) && Passed.SequenceEqual(other.Passed);
}
