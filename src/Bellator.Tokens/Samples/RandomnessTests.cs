using System.Globalization;
using MathNet.Numerics;

namespace Bellator.Tokens.Samples;

/// <param name="PValue">Null where there are too few bits for a verdict.</param>
/// <param name="Needs">How many bits the publication asks for.</param>
public sealed record RandomnessResult(string Name, double? PValue, long Needs, string Note)
{
    /// <summary>The significance level that SP 800-22 uses in its examples.</summary>
    public const double Significance = 0.01;

    public bool? IsRandom => PValue is { } p ? p >= Significance : null;
}

/// <summary>
/// Statistical tests of NIST SP 800-22 Rev. 1a, section 2, over a sequence of bits. Passing them shows nothing of what cannot be guessed: a
/// digest of a counter passes all of them. Failing one shows that something is wrong.
/// </summary>
public static class RandomnessTests
{
    public static IReadOnlyList<RandomnessResult> All(ReadOnlySpan<byte> bits)
    {
        var n = bits.Length;
        var block = Math.Max(20, n / 99 + 1);
        var serial = Math.Clamp((int)Math.Log2(Math.Max(n, 2)) - 3, 2, 16);
        var entropy = Math.Clamp((int)Math.Log2(Math.Max(n, 2)) - 6, 1, 10);
        var results = new List<RandomnessResult>
        {
            Judge("Frequency", n, 100, bits, b => Frequency(b), "as many ones as zeros"),
            Judge("Block frequency", n, 100, bits, b => BlockFrequency(b, block), $"the same within blocks of {block.ToString(CultureInfo.InvariantCulture)} bits"),
            Judge("Runs", n, 100, bits, b => Runs(b), "changes as often as it should"),
            Judge("Longest run of ones", n, 128, bits, b => LongestRun(b), "no stretch of ones too long or too short"),
            Judge("Cumulative sums, forward", n, 100, bits, b => CumulativeSums(b, forward: true), "no drift"),
            Judge("Cumulative sums, backward", n, 100, bits, b => CumulativeSums(b, forward: false), "no drift"),
            Judge("Approximate entropy", n, 1 << (entropy + 6), bits, b => ApproximateEntropy(b, entropy), $"patterns of {entropy} and {entropy + 1} bits are equally frequent"),
        };
        var (first, second) = n >= 1 << (serial + 3) ? Serial(bits, serial) : (double.NaN, double.NaN);
        results.Add(new("Serial, first", double.IsNaN(first) ? null : first, 1L << (serial + 3), $"patterns of {serial} bits are equally frequent"));
        results.Add(new("Serial, second", double.IsNaN(second) ? null : second, 1L << (serial + 3), $"patterns of {serial} bits are equally frequent"));
        return results;
    }

    /// <summary>Section 2.1.</summary>
    public static double Frequency(ReadOnlySpan<byte> bits)
    {
        var sum = 0L;
        foreach (var bit in bits)
        {
            sum += (2 * bit) - 1;
        }

        return SpecialFunctions.Erfc(Math.Abs(sum) / Math.Sqrt(bits.Length) / Constants.Sqrt2);
    }

    /// <summary>Section 2.2.</summary>
    /// <param name="size">Bits of a block.</param>
    public static double BlockFrequency(ReadOnlySpan<byte> bits, int size)
    {
        var blocks = bits.Length / size;
        var chi = 0.0;
        for (var i = 0; i < blocks; i++)
        {
            var ones = 0;
            foreach (var bit in bits.Slice(i * size, size))
            {
                ones += bit;
            }

            var share = ((double)ones / size) - 0.5;
            chi += share * share;
        }

        return Upper(blocks / 2.0, 4.0 * size * chi / 2);
    }

    /// <summary>Section 2.3. Where there are far more of one sign than of the other, the test is not run, and its value is 0.</summary>
    public static double Runs(ReadOnlySpan<byte> bits)
    {
        var n = (double)bits.Length;
        var ones = 0L;
        var runs = 1L;
        for (var i = 0; i < bits.Length; i++)
        {
            ones += bits[i];
            runs += i > 0 && bits[i] != bits[i - 1] ? 1 : 0;
        }

        var share = ones / n;
        return Math.Abs(share - 0.5) >= 2 / Math.Sqrt(n) ? 0 : SpecialFunctions.Erfc(Math.Abs(runs - (2 * n * share * (1 - share))) / (2 * Math.Sqrt(2 * n) * share * (1 - share)));
    }

    /// <summary>Section 2.4, with the block sizes and probabilities of sections 2.4.2 and 3.4.</summary>
    public static double LongestRun(ReadOnlySpan<byte> bits)
    {
        var (size, least, expected) = bits.Length switch
        {
            < 6272 => (8, 1, (double[])[0.2148, 0.3672, 0.2305, 0.1875]),
            < 750_000 => (128, 4, [0.1174, 0.2430, 0.2493, 0.1752, 0.1027, 0.1124]),
            _ => (10_000, 10, [0.0882, 0.2092, 0.2483, 0.1933, 0.1208, 0.0675, 0.0727]),
        };
        var counts = new int[expected.Length];
        var blocks = bits.Length / size;
        for (var i = 0; i < blocks; i++)
        {
            var (longest, run) = (0, 0);
            foreach (var bit in bits.Slice(i * size, size))
            {
                run = bit == 1 ? run + 1 : 0;
                longest = Math.Max(longest, run);
            }

            counts[Math.Clamp(longest - least, 0, counts.Length - 1)]++;
        }

        var chi = 0.0;
        for (var i = 0; i < counts.Length; i++)
        {
            var difference = counts[i] - (blocks * expected[i]);
            chi += difference * difference / (blocks * expected[i]);
        }

        return Upper((counts.Length - 1) / 2.0, chi / 2);
    }

    /// <summary>Section 2.13.</summary>
    public static double CumulativeSums(ReadOnlySpan<byte> bits, bool forward)
    {
        var n = bits.Length;
        var (sum, z) = (0, 0);
        for (var i = 0; i < n; i++)
        {
            sum += (2 * bits[forward ? i : n - 1 - i]) - 1;
            z = Math.Max(z, Math.Abs(sum));
        }

        var root = Math.Sqrt(n);
        var p = 1.0;
        for (var k = ((-n / z) + 1) / 4; k <= ((n / z) - 1) / 4; k++)
        {
            p -= Normal(((4 * k) + 1) * z / root) - Normal(((4 * k) - 1) * z / root);
        }

        for (var k = ((-n / z) - 3) / 4; k <= ((n / z) - 1) / 4; k++)
        {
            p += Normal(((4 * k) + 3) * z / root) - Normal(((4 * k) + 1) * z / root);
        }

        return p;
    }

    /// <summary>Section 2.11.</summary>
    /// <param name="length">Bits of a pattern.</param>
    public static (double First, double Second) Serial(ReadOnlySpan<byte> bits, int length)
    {
        var (longest, middle, shortest) = (Psi(bits, length), Psi(bits, length - 1), Psi(bits, length - 2));
        return (Upper(Math.Pow(2, length - 2), (longest - middle) / 2), Upper(Math.Pow(2, length - 3), (longest - (2 * middle) + shortest) / 2));
    }

    /// <summary>Section 2.12.</summary>
    /// <param name="length">Bits of the shorter pattern.</param>
    public static double ApproximateEntropy(ReadOnlySpan<byte> bits, int length)
    {
        var difference = Phi(bits, length) - Phi(bits, length + 1);
        return Upper(Math.Pow(2, length - 1), bits.Length * (Math.Log(2) - difference));
    }

    private static RandomnessResult Judge(string name, int n, long needs, ReadOnlySpan<byte> bits, Func<byte[], double> test, string note) =>
        new(name, n < needs ? null : test(bits.ToArray()), needs, note);

    /// <summary>How often each pattern occurs, the sequence taken as a ring.</summary>
    private static int[] Patterns(ReadOnlySpan<byte> bits, int length)
    {
        var counts = new int[1 << length];
        var (mask, pattern) = ((1 << length) - 1, 0);
        for (var i = 0; i < bits.Length + length - 1; i++)
        {
            pattern = ((pattern << 1) | bits[i % bits.Length]) & mask;
            if (i >= length - 1)
            {
                counts[pattern]++;
            }
        }

        return counts;
    }

    private static double Psi(ReadOnlySpan<byte> bits, int length) =>
        length <= 0 ? 0 : (Patterns(bits, length).Sum(c => (double)c * c) * (1 << length) / bits.Length) - bits.Length;

    private static double Phi(ReadOnlySpan<byte> bits, int length)
    {
        var (sum, n) = (0.0, (double)bits.Length);
        foreach (var count in length == 0 ? [] : Patterns(bits, length))
        {
            sum += count == 0 ? 0 : count / n * Math.Log(count / n);
        }

        return sum;
    }

    /// <summary>igamc of the publication.</summary>
    private static double Upper(double a, double x) => SpecialFunctions.GammaUpperRegularized(a, Math.Max(0, x));

    private static double Normal(double x) => SpecialFunctions.Erfc(-x / Constants.Sqrt2) / 2;
}
