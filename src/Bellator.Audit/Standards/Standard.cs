using System.Reflection;
using YamlDotNet.Serialization;
using YamlDotNet.Serialization.NamingConventions;

namespace Bellator.Audit.Standards;

/// <summary>A published list of requirements, with our own short words for each.</summary>
/// <param name="IsFromMemory">Numbers were written down from memory: no copy of the source ships with the program.</param>
public sealed record Standard(string Id, string Title, bool IsFromMemory, IReadOnlyList<StandardChapter> Chapters)
{
    private static readonly Lazy<IReadOnlyList<Standard>> Shipped = new(Load);

    /// <summary>All there are; a new one is a new file.</summary>
    public static IReadOnlyList<Standard> All => Shipped.Value;

    public static Standard? Find(string id) => All.FirstOrDefault(s => s.Id == id);

    public IEnumerable<Requirement> Requirements => Chapters.SelectMany(c => c.Requirements);

    private static IReadOnlyList<Standard> Load()
    {
        var assembly = typeof(Standard).Assembly;
        var reader = new DeserializerBuilder().WithNamingConvention(CamelCaseNamingConvention.Instance).Build();
        return [.. assembly.GetManifestResourceNames().Where(n => n.StartsWith("standards/", StringComparison.Ordinal)).Order(StringComparer.Ordinal).Select(n => Read(assembly, n, reader))];
    }

    private static Standard Read(Assembly assembly, string name, IDeserializer reader)
    {
        using var text = new StreamReader(assembly.GetManifestResourceStream(name)!);
        var file = reader.Deserialize<StandardFile>(text);
        return new Standard(file.Id, file.Title, file.FromMemory, [.. file.Chapters.Select(c => new StandardChapter(c.Title, [.. c.Requirements.Select(r => new Requirement(r.Number, r.Text, r.Checks, r.Journey, r.Step, r.Policy, r.Cwe, r.Managed))]))]);
    }

    // What the reader fills.
    private sealed class StandardFile
    {
        public string Id { get; set; } = "";

        public string Title { get; set; } = "";

        public bool FromMemory { get; set; }

        public List<ChapterFile> Chapters { get; set; } = [];
    }

    private sealed class ChapterFile
    {
        public string Title { get; set; } = "";

        public List<RequirementFile> Requirements { get; set; } = [];
    }

    private sealed class RequirementFile
    {
        public string Number { get; set; } = "";

        public string Text { get; set; } = "";

        public List<string> Checks { get; set; } = [];

        public string? Journey { get; set; }

        public string? Step { get; set; }

        public string? Policy { get; set; }

        public int? Cwe { get; set; }

        public bool Managed { get; set; }
    }
}

public sealed record StandardChapter(string Title, IReadOnlyList<Requirement> Requirements);

/// <param name="Checks">Weaknesses of which a finding shows that the requirement is not met.</param>
/// <param name="Journey">The journey that speaks for it; null if none does.</param>
/// <param name="Step">The step of that journey; null if the journey itself is asked for.</param>
/// <param name="Policy">How the requirement of a password policy begins that is this one.</param>
/// <param name="Cwe">A finding with this number shows that it is not met.</param>
/// <param name="IsOfMemory">It is about memory that code manages itself, which the languages that are audited do not.</param>
public sealed record Requirement(string Number, string Text, IReadOnlyList<string> Checks, string? Journey, string? Step, string? Policy, int? Cwe, bool IsOfMemory);
