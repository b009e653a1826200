namespace Bellator.Audit.Checks;

/// <summary>All checks there are. A new weakness is a new class; it is found here by itself.</summary>
public static class CheckList
{
    private static readonly Lazy<IReadOnlyList<Check>> Instances = new(() =>
        [.. typeof(Check).Assembly.GetTypes().Where(t => t.IsSubclassOf(typeof(Check)) && !t.IsAbstract)
            .Select(t => (Check)Activator.CreateInstance(t)!).OrderBy(c => c.Id, StringComparer.Ordinal)]);

    private static readonly Lazy<Dictionary<string, Check>> ById = new(() => Instances.Value.ToDictionary(c => c.Id, StringComparer.Ordinal));

    public static IReadOnlyList<Check> All => Instances.Value;

    /// <summary>The stages of a review that have checks, in the order of work.</summary>
    public static IReadOnlyList<string> Areas { get; } = ["passwords", "injection", "sessions", "records", "exposure"];

    public static Check? Find(string id) => ById.Value.GetValueOrDefault(id);
}
