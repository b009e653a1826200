using System.Globalization;

namespace Bellator.Tokens.Samples;

/// <summary>What a sample of ids shows of how they are made, and how many bits there are to guess.</summary>
public sealed class SampleReview
{
    private const double Confidence = 0.95;

    /// <summary>A single test that fails by less than this would do so once in ten thousand samples.</summary>
    private const double SureP = 0.0001;

    private SampleReview(TokenSample sample, IdStructure? structure, IReadOnlyList<SeriesFinding> series)
    {
        (Sample, Structure, Series) = (sample, structure, series);
        Tests = RandomnessTests.All(sample.Bits);
        AtMost = Math.Min(series.Count > 0 ? series.Min(s => s.RandomBits) : double.MaxValue, Math.Min(structure?.RandomBits ?? double.MaxValue, ByPositions));
        AtLeast = Math.Min(AtMost, ByCollisions(sample));
    }

    public TokenSample Sample { get; }

    /// <summary>How the first of them, and all others alike, say that they were made.</summary>
    public IdStructure? Structure { get; }

    public IReadOnlyList<SeriesFinding> Series { get; }

    public IReadOnlyList<RandomnessResult> Tests { get; }

    /// <summary>
    /// Bits that there are at least, as far as the sample shows: no more ids are equal than chance would make of ids with as much collision
    /// entropy (95 % confidence). It says little, for a sample of N ids cannot show more than 2·log2(N) bits; no statistic can.
    /// </summary>
    public double AtLeast { get; }

    /// <summary>Bits that there are at most: what the places that change can hold, and what a recognised structure leaves.</summary>
    public double AtMost { get; }

    /// <summary>Bits that the places which change could hold, were their signs equally likely and independent of each other.</summary>
    public double ByPositions => Sample.Positions.Where(p => p.Distinct > 1).Sum(RoomAt);

    /// <summary>The sample shows that the ids can be guessed.</summary>
    public bool IsGuessable => AtMost < EntropyRating.LeastBits || Sample.Duplicates > 0;

    public IReadOnlyList<TokenRemark> Remarks => [.. Describe()];

    /// <param name="around">When the sample was taken, if it is known.</param>
    /// <param name="time">How long to look for digests of counters and clocks.</param>
    public static SampleReview Of(TokenSample sample, DateTimeOffset? around = null, TimeSpan? time = null, CancellationToken cancel = default)
    {
        var structures = sample.Ids.Take(200).Select(IdStructure.Of).ToList();
        var first = structures[0];
        var structure = first is not null && structures.TrueForAll(s => s?.Name == first.Name) ? first : null;
        return new SampleReview(sample, structure, [.. SampleSeries.Find(sample, around, time ?? TimeSpan.FromSeconds(5), cancel)]);
    }

    private IEnumerable<TokenRemark> Describe()
    {
        if (Sample.Duplicates > 0)
        {
            yield return new(RemarkKind.Broken, "equal ids", Sample.Duplicates == 1 ? "One id occurs twice: two people have the same." : $"{Sample.Duplicates} ids were issued before: people have the same.", TokenRemark.CommonPractice);
        }

        foreach (var finding in Series)
        {
            yield return new(RemarkKind.Broken, "order", finding.Text, finding.Source);
        }

        if (Structure is { } structure)
        {
            yield return new(structure.IsGuessable ? RemarkKind.Broken : RemarkKind.Note, "structure", Sentence($"{(Sample.Ids.Count == 1 ? "It is" : "Each is")} {structure.Name}{(structure.Detail.Length > 0 ? ": " + structure.Detail : "")}"), structure.Source);
        }

        var failed = Tests.Where(t => t.IsRandom == false).ToList();
        if (failed.Count > 0)
        {
            // Of nine tests one fails by chance now and then: only more of them, or one by far, says something.
            var isSure = failed.Count > 1 || failed[0].PValue < SureP;
            var which = failed.Count == 1 ? $"The test “{failed[0].Name.ToLowerInvariant()}” fails" : $"{failed.Count} of {Tests.Count(t => t.PValue is not null)} tests fail: {string.Join(", ", failed.Select(f => f.Name.ToLowerInvariant()))}";
            yield return new(isSure ? RemarkKind.Weak : RemarkKind.Note, "statistics", isSure ? which + "." : which + "; of random ids one test in a hundred does. Try another sample.", "NIST SP 800-22 Rev. 1a");
        }

        yield return AtMost < EntropyRating.LeastBits
            ? new(RemarkKind.Broken, "bits", Text($"At most {AtMost:0.#} bits are left to guess; {EntropyRating.LeastBits} are asked for."), EntropyRating.LeastSource)
            : AtMost < EntropyRating.WantedBits
            ? new(RemarkKind.Weak, "bits", Text($"At most {AtMost:0.#} bits: enough for the {EntropyRating.LeastBits} of before, not for the {EntropyRating.WantedBits} that are asked for now."), $"{EntropyRating.LeastSource}; {EntropyRating.WantedSource}")
            : new(RemarkKind.Unclear, "bits", Text($"There is room for {AtMost:0} bits, and nothing in the sample speaks against them. Whether the generator is a secure one is only to be seen in the code."), EntropyRating.WantedSource);
    }

    /// <summary>All of the alphabet, unless there are ids enough to show that the place has fewer signs.</summary>
    private double RoomAt(SamplePosition place)
    {
        const int idsASign = 4;
        var seen = Math.Log2(place.Distinct);
        return Sample.Alphabet is { } all && (Sample.Ids.Count <= idsASign * all.Signs.Length || place.Distinct > all.Signs.Length / 2) ? all.Bits : seen;
    }

    private static string Text(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);

    private static string Sentence(string text) => text.EndsWith('.') ? text : text + ".";

    /// <summary>
    /// With d equal pairs among n ids, the chance that two are equal is, at 95 % confidence, no more than the upper limit of a Poisson count d
    /// over the number of pairs (common practice; pairs are taken as independent).
    /// </summary>
    private static double ByCollisions(TokenSample sample)
    {
        double n = sample.Ids.Count;
        var pairs = n * (n - 1) / 2;
        var equal = sample.Ids.GroupBy(i => i, StringComparer.Ordinal).Sum(g => (double)g.Count() * (g.Count() - 1) / 2);
        return pairs < 1 ? 0 : Math.Max(0, Math.Log2(pairs / MathNet.Numerics.SpecialFunctions.GammaLowerRegularizedInv(equal + 1, Confidence)));
    }
}
