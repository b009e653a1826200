using System.Numerics;
using Bellator.Tokens.Samples;

namespace Bellator.Core.Tests.Tokens;

/// <summary>
/// Every value is published in NIST SP 800-22 Rev. 1a: the small examples in the subsections x.4 and x.8 of section 2, and those of the first
/// million binary digits of e and of π in appendix B. The digits are computed here.
/// </summary>
public sealed class RandomnessTestTests
{
    private const double Tolerance = 0.000_002;

    /// <summary>The first hundred binary digits of π, as the examples 2.1.8 and others have them.</summary>
    private const string HundredOfPi = "1100100100001111110110101010001000100001011010001100001000110100110001001100011001100010100010111000";

    private static readonly Lazy<byte[]> E = new(DigitsOfE);
    private static readonly Lazy<byte[]> Pi = new(DigitsOfPi);

    [Theory]
    [InlineData("1011010101", 0.527089)] // 2.1.4
    [InlineData(HundredOfPi, 0.109599)] // 2.1.8
    public void Frequency(string bits, double expected) => Assert.Equal(expected, RandomnessTests.Frequency(Bits(bits)), Tolerance);

    [Theory]
    [InlineData("0110011010", 3, 0.801252)] // 2.2.4
    [InlineData(HundredOfPi, 10, 0.706438)] // 2.2.8
    public void Block_frequency(string bits, int size, double expected) => Assert.Equal(expected, RandomnessTests.BlockFrequency(Bits(bits), size), Tolerance);

    [Theory]
    [InlineData("1001101011", 0.147232)] // 2.3.4
    [InlineData(HundredOfPi, 0.500798)] // 2.3.8
    public void Runs(string bits, double expected) => Assert.Equal(expected, RandomnessTests.Runs(Bits(bits)), Tolerance);

    /// <summary>2.4.8; printed as 0.180609, which is what the rounded probabilities of the table give.</summary>
    [Fact]
    public void Longest_run() => Assert.Equal(0.180609, RandomnessTests.LongestRun(Bits("11001100000101010110110001001100111000000000001001001101010100010001001111010110100000001101011111001100111001101101100010110010")), 0.000_02);

    [Theory]
    [InlineData("1011010111", true, 0.411658)] // 2.13.4
    [InlineData(HundredOfPi, true, 0.219194)] // 2.13.8
    [InlineData(HundredOfPi, false, 0.114866)]
    public void Cumulative_sums(string bits, bool forward, double expected) => Assert.Equal(expected, RandomnessTests.CumulativeSums(Bits(bits), forward), Tolerance);

    /// <summary>2.11.4.</summary>
    [Fact]
    public void Serial()
    {
        var (first, second) = RandomnessTests.Serial(Bits("0011011101"), 3);
        Assert.Equal(0.808792, first, Tolerance);
        Assert.Equal(0.670320, second, Tolerance);
    }

    [Theory]
    [InlineData("0100110101", 3, 0.261961)] // 2.12.4
    [InlineData(HundredOfPi, 2, 0.235301)] // 2.12.8
    public void Approximate_entropy(string bits, int length, double expected) => Assert.Equal(expected, RandomnessTests.ApproximateEntropy(Bits(bits), length), Tolerance);

    /// <summary>Appendix B, over a million digits each: frequency, block frequency (128), cumulative sums both ways, runs, longest run, approximate entropy (10) and serial (16).</summary>
    [Theory]
    [InlineData("e", 0.953749, 0.211072, 0.669887, 0.724266, 0.561917, 0.718945, 0.700073, 0.766182, 0.462921)]
    [InlineData("pi", 0.578211, 0.380615, 0.628308, 0.663369, 0.419268, 0.024390, 0.361595, 0.143005, 0.034354)]
    public void A_million_digits(string number, double frequency, double block, double forward, double backward, double runs, double longest, double entropy, double first, double second)
    {
        var bits = number == "e" ? E.Value : Pi.Value;
        Assert.Equal(1_000_000, bits.Length);
        Assert.Equal(frequency, RandomnessTests.Frequency(bits), Tolerance);
        Assert.Equal(block, RandomnessTests.BlockFrequency(bits, 128), Tolerance);
        Assert.Equal(forward, RandomnessTests.CumulativeSums(bits, true), Tolerance);
        Assert.Equal(backward, RandomnessTests.CumulativeSums(bits, false), Tolerance);
        Assert.Equal(runs, RandomnessTests.Runs(bits), Tolerance);
        Assert.Equal(longest, RandomnessTests.LongestRun(bits), 0.000_05);
        Assert.Equal(entropy, RandomnessTests.ApproximateEntropy(bits, 10), 0.000_005);
        var serial = RandomnessTests.Serial(bits, 16);
        Assert.Equal(first, serial.First, 0.000_005);
        Assert.Equal(second, serial.Second, 0.000_005);
    }

    [Fact]
    public void Below_the_published_size_there_is_no_verdict()
    {
        var few = RandomnessTests.All(Bits(HundredOfPi[..99]));
        Assert.Equal(7, few.Count(r => r.Needs > 99));
        Assert.All(few, r => Assert.Equal(r.Needs > 99, r.IsRandom is null));
        Assert.Equal(true, RandomnessTests.All(Bits(HundredOfPi)).Single(r => r.Name == "Frequency").IsRandom);
    }

    [Fact]
    public void Bits_that_are_all_the_same_fail() =>
        Assert.All(RandomnessTests.All(new byte[4096]).Where(r => r.Name != "Longest run of ones"), r => Assert.Equal(false, r.IsRandom));

    private static byte[] Bits(string text) => [.. text.Select(c => (byte)(c - '0'))];

    private static byte[] Bits(BigInteger number)
    {
        var bytes = number.ToByteArray(isUnsigned: true, isBigEndian: true);
        return [.. bytes.SelectMany(b => Enumerable.Range(0, 8).Select(i => (byte)((b >> (7 - i)) & 1))).SkipWhile(b => b == 0).Take(1_000_000)];
    }

    /// <summary>The sum of 1/k!, by halves.</summary>
    private static byte[] DigitsOfE()
    {
        var (p, q) = Sum(0, 90_000);
        return Bits(((p + q) << 1_000_050) / q);

        static (BigInteger P, BigInteger Q) Sum(int from, int to)
        {
            if (to - from == 1)
            {
                return (BigInteger.One, to);
            }

            var middle = (from + to) / 2;
            var (p1, q1) = Sum(from, middle);
            var (p2, q2) = Sum(middle, to);
            return ((p1 * q2) + p2, q1 * q2);
        }
    }

    /// <summary>Machin’s formula: π/4 = 4 arctan(1/5) − arctan(1/239), each by halves.</summary>
    private static byte[] DigitsOfPi()
    {
        const int bits = 1_000_100;
        return Bits((4 * ((4 * Arctan(5, bits)) - Arctan(239, bits))) >> 50);
    }

    /// <summary>arctan(1/x) = Σ (−1)^k / ((2k+1)·x^(2k+1)), times 2^bits.</summary>
    private static BigInteger Arctan(int x, int bits)
    {
        var terms = (int)(bits / (2 * Math.Log2(x))) + 2;
        var (p, q, b) = Sum(0, terms);
        return (p << bits) / (q * b * x);

        // The part from one term to another is P / (B·Q), where Q gathers the powers of x² and B the odd numbers.
        (BigInteger P, BigInteger Q, BigInteger B) Sum(int from, int to)
        {
            if (to - from == 1)
            {
                var power = from == 0 ? BigInteger.One : (BigInteger)x * x;
                return (from % 2 == 0 ? BigInteger.One : BigInteger.MinusOne, power, (2 * from) + 1);
            }

            var middle = (from + to) / 2;
            var (p1, q1, b1) = Sum(from, middle);
            var (p2, q2, b2) = Sum(middle, to);
            return ((p1 * q2 * b2) + (p2 * b1), q1 * q2, b1 * b2);
        }
    }
}
