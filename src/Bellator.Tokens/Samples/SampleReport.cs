namespace Bellator.Tokens.Samples;

/// <summary>What is shown of a sample: figures and places, and none of the ids.</summary>
/// <param name="Changing">Places whose signs are not always the same.</param>
/// <param name="Raster">The bits of the first ids, one id a text of 0 and 1; empty where their number differs.</param>
public sealed record SampleReport(
    int Ids,
    int Length,
    int Changing,
    string? Alphabet,
    double BitsPerSign,
    int Duplicates,
    double AtLeast,
    double AtMost,
    bool IsGuessable,
    int BitCount,
    IReadOnlyList<TokenRemark> Remarks,
    IReadOnlyList<RandomnessResult> Tests,
    IReadOnlyList<SamplePosition> Positions,
    IReadOnlyList<string> Raster)
{
    private const int MostRows = 200;
    private const int MostBits = 512;
    private const int MostPositions = 256;

    public static SampleReport Of(SampleReview review)
    {
        var sample = review.Sample;
        var width = Math.Min(sample.BitsPerId, MostBits);
        return new SampleReport(
            sample.Ids.Count, sample.Length, sample.Positions.Count(p => p.Distinct > 1), sample.Alphabet?.Name, sample.Alphabet?.Bits ?? 0, sample.Duplicates, review.AtLeast, review.AtMost, review.IsGuessable, sample.Bits.Length,
            review.Remarks, review.Tests, [.. sample.Positions.Take(MostPositions)],
            width == 0 ? [] : [.. Enumerable.Range(0, Math.Min(MostRows, sample.Ids.Count)).Select(r => string.Create(width, (sample, r), (text, from) =>
            {
                for (var i = 0; i < text.Length; i++)
                {
                    text[i] = from.sample.Bits[(from.r * from.sample.BitsPerId) + i] == 1 ? '1' : '0';
                }
            }))]);
    }
}
