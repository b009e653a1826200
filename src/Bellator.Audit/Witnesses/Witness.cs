namespace Bellator.Audit.Witnesses;

/// <summary>The concrete thing that shows a weakness: what an ordinary value makes of the place, and what a crafted one does.</summary>
/// <param name="Kind">statement, address, file, page, body.</param>
/// <param name="Value">The crafted value: as small and harmless as it can be.</param>
/// <param name="Ordinary">What an ordinary value leads to.</param>
/// <param name="Crafted">What the crafted value leads to.</param>
/// <param name="Explanation">How the two were compared, and what differs.</param>
public sealed record Witness(string Kind, string Value, string Ordinary, string Crafted, string Explanation)
{
    /// <summary>For statements: what came back when both were run on invented rows; null if they were not.</summary>
    public Replay? Replay { get; init; }
}

/// <summary>Both statements of a witness, run by a database on tables like the application's with a few invented rows.</summary>
public sealed record Replay(ReplayedStatement Ordinary, ReplayedStatement Crafted);

/// <summary>What one statement did.</summary>
/// <param name="Count">Rows that came back, or were changed.</param>
/// <param name="Changed">True for a statement that changes rows.</param>
/// <param name="Columns">Names of what came back.</param>
/// <param name="Rows">The first rows, as text.</param>
/// <param name="Error">The database's own words, if it refused.</param>
public sealed record ReplayedStatement(int Count, bool Changed, IReadOnlyList<string> Columns, IReadOnlyList<IReadOnlyList<string>> Rows, string? Error);
