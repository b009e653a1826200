using System.Globalization;
using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using Bellator.Analysis.Programs;
using Bellator.Audit.Checks;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>What a finding is recognised by in another version of the code: digests, so that they can leave the machine in a report.</summary>
/// <param name="Code">Of the code at its place, word by word.</param>
/// <param name="Shape">The same whatever the names of variables and functions.</param>
/// <param name="Way">Of the shapes of where the value comes in and where it ends.</param>
/// <param name="Scope">The function it is in, with its class; empty outside of one, null where that is not known.</param>
/// <param name="Around">A sample of what stands before and behind it, for telling how alike two places are.</param>
/// <param name="Lines">Of each step, the shape of its whole lines: should one differ, a reason that stood on it may not hold any more.</param>
/// <param name="Source">Of the shape of where the value comes in; empty for a local pattern.</param>
/// <param name="Names">The names in the code at its place.</param>
/// <param name="Nearby">The names that stand around it.</param>
/// <param name="AroundShape">The sample of what stands around it whatever the names.</param>
public sealed record FindingTraits(string Code, string Shape, string Way, string? Scope, string Around, string Lines, string Source = "", string Names = "", string Nearby = "", string AroundShape = "")
{
    private const int DigestLength = 8;
    internal const int NameLength = 4;

    /// <summary>
    /// Whether the names here can be other words for those of another version: a name that was given up is not used nearby any more.
    /// Where it still is, the place speaks of something else.
    /// </summary>
    public bool CanBeRenamed(FindingTraits later)
    {
        var (mine, theirs) = (Digests(Names, NameLength), Digests(later.Names, NameLength));
        var nearby = Digests(later.Nearby, NameLength);
        return !mine.Except(theirs).Any(nearby.Contains);
    }

    private static HashSet<string> Digests(string all, int length) => all.Chunk(length).Select(c => new string(c)).ToHashSet(StringComparer.Ordinal);

    /// <summary>The digests of <see cref="Lines"/>, step by step.</summary>
    public IReadOnlyList<string> LineDigests => [.. Lines.Chunk(DigestLength).Select(c => new string(c))];

    /// <summary>How alike what stands around two places is, from 0 to 1: the share of samples they have in common.</summary>
    public double Likeness(FindingTraits other) => Shared(Around, other.Around);

    /// <summary>How much of the names that stand around the one stands around the other too, from 0 to 1.</summary>
    public double NearbyLikeness(FindingTraits other) => Digests(Nearby, NameLength) is { Count: > 0 } mine ? mine.Count(Digests(other.Nearby, NameLength).Contains) / (double)mine.Count : 0;

    /// <summary>The same whatever the names.</summary>
    public double ShapeLikeness(FindingTraits other) => Shared(AroundShape, other.AroundShape);

    private static double Shared(string one, string other)
    {
        var mine = Digests(one, DigestLength);
        var theirs = Digests(other, DigestLength);
        if (mine.Count + theirs.Count == 0)
        {
            return 1;
        }

        // Of two samples of the smallest digests, the smallest of both together are a sample of the union.
        var sample = mine.Union(theirs).Order(StringComparer.Ordinal).Take(Math.Max(mine.Count, theirs.Count)).ToList();
        return sample.Count(s => mine.Contains(s) && theirs.Contains(s)) / (double)sample.Count;
    }
}

/// <summary>Reads the traits of findings from the files they are in.</summary>
public static class Traits
{
    /// <summary>A finding about a whole function is recognised by its beginning.</summary>
    private const int MostWords = 60;

    private const int NearWords = 48;

    /// <summary>As many as <c>$_GET['name']</c> has.</summary>
    private const int SourceWords = 4;

    private const int NearBytes = 4096;
    private const int LinesBefore = 12;
    private const int Samples = 24;

    public static FindingTraits? Of(ReportedFinding finding, string? scope, Func<string, SourceFile?> files)
    {
        if (files(finding.Path) is not { } file)
        {
            return null;
        }

        var span = file.SpanOf(finding.Region);
        var here = CodeWords.Of(file, span, MostWords);
        var sink = Step(finding.Steps.Count > 0 ? finding.Steps[^1] : null);
        var source = Step(finding.Steps.Count > 0 ? finding.Steps[0] : null);
        return new FindingTraits(
            Digest([finding.CheckId, .. here.Select(w => w.Text), "→", .. sink.Select(w => w.Text)]),
            Digest([finding.CheckId, .. CodeWords.Shape(here)]),
            Digest([.. CodeWords.Shape(source), "→", .. CodeWords.Shape(sink)]),
            scope,
            AroundOf(file, span, w => w.Text),
            string.Concat(finding.Steps.Select(s => files(s.Path) is { } stepFile ? Short(CodeWords.Shape(LinesOf(stepFile, s.Region))) : Short([]))),
            finding.Steps.Count > 1 ? Digest(CodeWords.Shape(SourceOf(finding.Steps[0]))) : "",
            NamesOf(here),
            NamesOf(Window(file, span).SelectMany(w => w)),
            AroundOf(file, span, w => w.Kind == CodeWordKind.Name ? "n" : w.Text));

        // Where only the bag of values is the source, such as all of the query string, what is taken out of it stands behind.
        IReadOnlyList<CodeWord> SourceOf(ReportedStep step) => files(step.Path) is { } stepFile && stepFile.SpanOf(step.Region) is var at
            ? CodeWords.Of(stepFile, new Span(at.Start, Math.Min(stepFile.Content.Length, at.End + NearBytes)), Math.Max(SourceWords, CodeWords.Of(stepFile, at, MostWords).Count)) : [];

        IReadOnlyList<CodeWord> Step(ReportedStep? step) => step is not null && files(step.Path) is { } stepFile ? CodeWords.Of(stepFile, stepFile.SpanOf(step.Region), MostWords) : [];
    }

    private static IReadOnlyList<CodeWord> LinesOf(SourceFile file, Region region)
    {
        var first = file.SpanOf(region.StartLine);
        return CodeWords.Of(file, new Span(first.Start, Math.Max(first.End, file.SpanOf(region.EndLine).End)), MostWords);
    }

    private static string NamesOf(IEnumerable<CodeWord> words) =>
        string.Concat(words.Where(w => w.Kind == CodeWordKind.Name).Select(w => Short([w.Text])[..FindingTraits.NameLength]).Distinct());

    private static IReadOnlyList<CodeWord>[] Window(SourceFile file, Span span)
    {
        var from = Math.Max(file.SpanOf(Math.Max(1, file.LineOf(span.Start) - LinesBefore)).Start, span.Start - NearBytes);
        var before = CodeWords.Of(file, new Span(from, span.Start));
        return [[.. before.TakeLast(NearWords)], CodeWords.Of(file, new Span(span.End, Math.Min(file.Content.Length, span.End + NearBytes)), NearWords)];
    }

    /// <summary>The smallest digests of all triples of words nearby: of two places that share most of them, most are the same.</summary>
    private static string AroundOf(SourceFile file, Span span, Func<CodeWord, string> word)
    {
        var samples = new SortedSet<string>(StringComparer.Ordinal);
        foreach (var side in Window(file, span))
        {
            for (var i = 0; i + 2 < side.Count; i++)
            {
                samples.Add(Short([word(side[i]), word(side[i + 1]), word(side[i + 2])]));
            }
        }

        return string.Concat(samples.Take(Samples));
    }

    private static string Digest(IEnumerable<string> parts) => Hash(parts).ToString("x16", CultureInfo.InvariantCulture);

    private static string Short(IEnumerable<string> parts) => ((uint)Hash(parts)).ToString("x8", CultureInfo.InvariantCulture);

    private static ulong Hash(IEnumerable<string> parts)
    {
        var hash = new XxHash3();
        foreach (var part in parts)
        {
            hash.Append(MemoryMarshal.AsBytes(part.AsSpan()));
            hash.Append([0, 0]);
        }

        return hash.GetCurrentHashAsUInt64();
    }
}

/// <summary>Adds their traits to the findings of an audit.</summary>
internal sealed class TraitReader(ProgramModel program)
{
    private readonly Dictionary<string, SourceFile> _files = program.Tree.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);

    public ReportedFinding Add(ReportedFinding reported, Finding finding) =>
        reported with { Traits = Traits.Of(reported, ScopeOf(finding.At), p => _files.GetValueOrDefault(p)) };

    /// <summary>The innermost function with a name around a place.</summary>
    private string ScopeOf(Location at)
    {
        var inner = program.FunctionAt(at, named: true);
        return inner is null ? "" : new StringBuilder(inner.Class?.Name).Append(inner.Class is null ? "" : "::").Append(inner.Name).ToString();
    }
}
