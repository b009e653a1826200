namespace Bellator.Core.Application;

/// <summary>The concrete thing that shows a weakness: what an ordinary value makes of the place, and what a crafted one does.</summary>
/// <param name="Kind">statement, address, file, page, body.</param>
/// <param name="Value">The crafted value: as small and harmless as it can be.</param>
/// <param name="Ordinary">What an ordinary value leads to.</param>
/// <param name="Crafted">What the crafted value leads to.</param>
/// <param name="Explanation">How the two were compared, and what differs.</param>
public sealed record Witness(string Kind, string Value, string Ordinary, string Crafted, string Explanation);
