using System.Globalization;
using System.Numerics;
using System.Security.Cryptography;
using System.Text;

namespace Bellator.Tokens.Samples;

/// <summary>What shows only in several ids one after another.</summary>
/// <param name="RandomBits">Bits that are left to guess, at most.</param>
public sealed record SeriesFinding(string Text, double RandomBits, string Source);

/// <summary>Finds counters, clocks and digests of either in the order of a sample.</summary>
public static class SampleSeries
{
    private const int LeastIds = 4;
    private const int MostCounted = 1_000_000;
    private const int ClockSeconds = 90_000;

    /// <summary>A gap between one number and the next that a counter or a clock has; each is a small part of what there could be.</summary>
    private const double LargestStep = 1 << 24;

    /// <param name="around">When the sample was taken, for digests of a time; null for not known.</param>
    public static IEnumerable<SeriesFinding> Find(TokenSample sample, DateTimeOffset? around, TimeSpan time, CancellationToken cancel)
    {
        if (sample.Ids.Count >= LeastIds)
        {
            foreach (var finding in Rising(sample))
            {
                yield return finding;
            }
        }

        if (Digest(sample, around, time, cancel) is { } digest)
        {
            yield return digest;
        }
    }

    /// <summary>A stretch of places that, read as a number, goes up from id to id in small steps.</summary>
    private static IEnumerable<SeriesFinding> Rising(TokenSample sample)
    {
        if (sample.Alphabet is not { } alphabet || !sample.HasOneLength)
        {
            yield break;
        }

        // Stretches of places that change: fixed ones in front and behind do not matter, in between they are kept.
        var changing = sample.Positions.Where(p => p.Distinct > 1).Select(p => p.Index).ToList();
        if (changing.Count == 0)
        {
            yield break;
        }

        // A counter changes its last places most: a stretch ends where the places before change no more often.
        foreach (var (start, end) in Stretches(sample, changing))
        {
            var numbers = new List<BigInteger>();
            foreach (var id in sample.Ids)
            {
                var number = BigInteger.Zero;
                for (var i = start; i < end; i++)
                {
                    var rank = alphabet.Signs.IndexOf(id[i], StringComparison.Ordinal);
                    number = (number * alphabet.Signs.Length) + Math.Max(0, rank);
                }

                numbers.Add(number);
            }

            var steps = numbers.Zip(numbers.Skip(1), (a, b) => b - a).ToList();
            var space = (end - start) * alphabet.Bits;
            var others = changing.Count(c => c < start || c >= end) * alphabet.Bits;
            if (steps.TrueForAll(s => s == steps[0]) && !steps[0].IsZero)
            {
                yield return new($"Characters {start + 1} to {end} count: each is {Step(steps[0])} the one before.", others, TokenRemark.CommonPractice);
                yield break;
            }

            if (space >= 8 && steps.TrueForAll(s => s.Sign > 0) && (double)steps.Max() <= LargestStep && (double)steps.Max() < Math.Pow(2, space) / sample.Ids.Count)
            {
                var bits = Math.Log2((double)steps.Max());
                yield return new(string.Create(CultureInfo.InvariantCulture, $"Characters {start + 1} to {end} only go up, by {steps.Max():N0} at most: a counter with gaps, or a clock."), bits + others, TokenRemark.CommonPractice);
                yield break;
            }
        }
    }

    private static string Step(BigInteger step) => step.IsOne ? "one more than" : step == BigInteger.MinusOne ? "one less than" : step.Sign > 0 ? $"{step} more than" : $"{BigInteger.Negate(step)} less than";

    /// <summary>Runs of places of the alphabet that may be a number: the whole first, then every stretch that ends where it stops to change.</summary>
    private static IEnumerable<(int Start, int End)> Stretches(TokenSample sample, List<int> changing)
    {
        const int mostPlaces = 24;
        var seen = new HashSet<(int, int)>();
        var last = changing[^1] + 1;
        if (last - changing[0] <= mostPlaces && seen.Add((changing[0], last)))
        {
            yield return (changing[0], last);
        }

        foreach (var end in changing.Select(c => c + 1).Reverse())
        {
            for (var length = Math.Min(mostPlaces, end - changing[0]); length >= 2; length--)
            {
                // Most of such stretches are ruled out by their first step alone.
                if (end - length >= 0 && seen.Add((end - length, end)) && GoesUp(sample, end - length, end))
                {
                    yield return (end - length, end);
                }
            }
        }
    }

    private static bool GoesUp(TokenSample sample, int start, int end)
    {
        var signs = sample.Alphabet!.Signs;
        for (var i = 1; i < Math.Min(sample.Ids.Count, 12); i++)
        {
            var order = 0;
            for (var p = start; p < end && order == 0; p++)
            {
                order = signs.IndexOf(sample.Ids[i][p], StringComparison.Ordinal).CompareTo(signs.IndexOf(sample.Ids[i - 1][p], StringComparison.Ordinal));
            }

            if (order <= 0)
            {
                return false;
            }
        }

        return true;
    }

    /// <summary>The first id is the MD5, SHA-1 or SHA-256 digest of a small number, or of a second around the time of the sample.</summary>
    private static SeriesFinding? Digest(TokenSample sample, DateTimeOffset? around, TimeSpan time, CancellationToken cancel)
    {
        var first = sample.Ids[0];
        if (Digests.FirstOrDefault(d => d.Length * 2 == first.Length) is not { Hash: { } hash } digest || !first.All(char.IsAsciiHexDigit))
        {
            return null;
        }

        var wanted = Convert.FromHexString(first);
        var watch = System.Diagnostics.Stopwatch.StartNew();
        Span<byte> text = stackalloc byte[24];
        var made = new byte[digest.Length];
        var middle = around?.ToUnixTimeSeconds() ?? 0;
        var times = around is null ? 0 : 2 * ClockSeconds;
        for (var i = 0L; i < times + MostCounted; i++)
        {
            if (i % 65536 == 65535)
            {
                cancel.ThrowIfCancellationRequested();
                if (watch.Elapsed > time)
                {
                    return null;
                }
            }

            // Seconds around the time of the sample, the nearest first; then numbers from 0.
            var number = i >= times ? i - times : middle + ((i % 2 == 0 ? 1 : -1) * (i / 2));
            number.TryFormat(text, out var count, default, CultureInfo.InvariantCulture);
            hash(text[..count], made);
            if (made.AsSpan().SequenceEqual(wanted))
            {
                return i >= times
                    ? new($"The first id is the {digest.Name} digest of the number {number}.", Math.Log2(MostCounted), "found by search")
                    : new($"The first id is the {digest.Name} digest of a time: {number} seconds since 1970.", Math.Log2(2 * ClockSeconds), "found by search");
            }
        }

        return null;
    }

    private delegate void Hasher(ReadOnlySpan<byte> input, Span<byte> output);

    private static readonly (string Name, int Length, Hasher? Hash)[] Digests =
    [
        ("MD5", 16, (i, o) => MD5.HashData(i, o)),
        ("SHA-1", 20, (i, o) => SHA1.HashData(i, o)),
        ("SHA-256", 32, (i, o) => SHA256.HashData(i, o)),
    ];
}
