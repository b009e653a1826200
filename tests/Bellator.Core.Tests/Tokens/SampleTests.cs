using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Bellator.Tokens;
using Bellator.Tokens.Samples;

namespace Bellator.Core.Tests.Tokens;

public sealed class SampleTests
{
    /// <summary>The examples of RFC 9562, appendix A: all were made at 22 February 2022, 19:22:22 GMT.</summary>
    [Theory]
    [InlineData("C232AB00-9414-11EC-B3C8-9F6BDECED846", "version 1", "22 Feb 2022 19:22:22")]
    [InlineData("1EC9414C-232A-6B00-B3C8-9F6BDECED846", "version 6", "22 Feb 2022 19:22:22")]
    [InlineData("017F22E2-79B0-7CC3-98C4-DC0C0C07398F", "version 7", "22 Feb 2022 19:22:22")]
    [InlineData("5df41881-3aed-3515-88a7-2f4a814cf09e", "version 3", "MD5")]
    [InlineData("919108f7-52d1-4320-9bac-f847db4148a8", "version 4", "122 bits")]
    [InlineData("2ed6657d-e927-568b-95e1-2665a8aea6a2", "version 5", "SHA-1")]
    [InlineData("00000000-0000-0000-0000-000000000000", "nil", "same")]
    [InlineData("65a1b2c3d4e5f60718293a4b", "ObjectId", "12 Jan 2024")]
    [InlineData("01ARZ3NDEKTSV4RRFFQ69G5FAV", "ULID", "2016")]
    [InlineData("65f0a1b2c0ffe", "hexadecimal", "uniqid")]
    [InlineData("1767268800", "a time", "1 Jan 2026 12:00:00")]
    [InlineData("1767268800123", "a time", "1 Jan 2026 12:00:00.123")]
    [InlineData("dXNlcj0xNztyb2xlPW1lbWJlcg==", "readable", "user=17;role=member")]
    [InlineData("175928847299117063", "may count", "milliseconds")]
    public void Structures_are_recognised_and_decoded(string value, string name, string detail)
    {
        var structure = IdStructure.Of(value);
        Assert.NotNull(structure);
        Assert.Contains(name, structure.Name, StringComparison.Ordinal);
        Assert.Contains(detail, structure.Detail, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("9f86d081884c7d659a2feaa0c55ad015")]
    [InlineData("Zk3vQ0b7Jr2Xw9Lh8TnYpA")]
    [InlineData("48213")]
    public void Others_say_nothing_of_how_they_were_made(string value) => Assert.Null(IdStructure.Of(value));

    [Fact]
    public void Random_ids_are_not_blamed()
    {
        var review = Of(Enumerable.Range(0, 2000).Select(_ => RandomNumberGenerator.GetHexString(32, lowercase: true)));
        Assert.Equal(128, review.AtMost, 0.001);
        Assert.Equal("hexadecimal", review.Sample.Alphabet?.Name);
        Assert.False(review.IsGuessable);
        Assert.Equal(2000 * 128, review.Sample.Bits.Length);
        Assert.DoesNotContain(review.Remarks, r => r.Kind is RemarkKind.Broken);

        // Two thousand ids without a repetition: log2(2000·1999/2 / 3.0) bits, 3.0 being the upper limit of a count of none at 95 %.
        Assert.Equal(Math.Log2(2000.0 * 1999 / 2 / 2.9957), review.AtLeast, 0.01);
    }

    [Fact]
    public void Too_few_bits_are_told() => Assert.Equal(32, Of(Enumerable.Range(0, 500).Select(_ => RandomNumberGenerator.GetHexString(8, lowercase: true))).AtMost, 0.001);

    public static TheoryData<string, string> Series => new()
    {
        { "counter", "one more than" },
        { "padded hexadecimal counter between fixed parts", "one more than" },
        { "clock with a random end", "only go up" },
        { "digest of a counter", "MD5 digest of the number 48213" },
        { "digest of a time", "SHA-1 digest of a time" },
        { "equal", "occurs twice" },
    };

    [Theory]
    [MemberData(nameof(Series))]
    public void What_can_be_guessed_is_seen(string kind, string text)
    {
        var start = new DateTimeOffset(2026, 1, 1, 12, 0, 0, TimeSpan.Zero).ToUnixTimeMilliseconds();
        string Number(long n) => n.ToString(CultureInfo.InvariantCulture);
        var ids = Enumerable.Range(0, 60).Select(i => kind switch
        {
            "counter" => Number(90210 + i),
            "padded hexadecimal counter between fixed parts" => $"FH-{0xbee00 + i:x8}-web",
            "clock with a random end" => (start + (i * 1370L)).ToString("x12", CultureInfo.InvariantCulture) + RandomNumberGenerator.GetHexString(4, lowercase: true),
            "digest of a counter" => Convert.ToHexStringLower(MD5.HashData(Encoding.ASCII.GetBytes(Number(48213 + i)))),
            "digest of a time" => Convert.ToHexStringLower(SHA1.HashData(Encoding.ASCII.GetBytes(Number((start / 1000) + i)))),
            _ => i < 59 ? RandomNumberGenerator.GetHexString(32, lowercase: true) : "",
        }).ToList();
        if (kind == "equal")
        {
            ids[59] = ids[3];
        }

        var review = Of(ids);
        Assert.Contains(review.Remarks, r => r.Kind == RemarkKind.Broken && r.Text.Contains(text, StringComparison.Ordinal));
        Assert.True(review.IsGuessable);
        if (kind.StartsWith("clock", StringComparison.Ordinal))
        {
            // Steps of 1370 ms hold eleven bits; four digits behind them are random.
            Assert.InRange(review.AtMost, 26, 28);
        }
    }

    [Fact]
    public void Lines_of_set_cookie_give_their_values_and_empty_input_says_so()
    {
        Assert.Equal(["abc", "def"], TokenSample.Read("Set-Cookie: sid=abc; Secure\n\n  def \n").Ids);
        Assert.Throws<TokenFormatException>(() => TokenSample.Read(" \n"));
        Assert.Throws<TokenFormatException>(() => TokenSample.Read(new string('a', 5000)));
        Assert.Throws<TokenFormatException>(() => TokenSample.Read(string.Join('\n', Enumerable.Range(0, TokenSample.MostIds + 1))));
    }

    [Fact]
    public void Places_are_counted_one_by_one()
    {
        var sample = TokenSample.Read("a0\na1\na2\na3");
        Assert.Equal([1, 4], sample.Positions.Select(p => p.Distinct));
        Assert.Equal([0.0, 2.0], sample.Positions.Select(p => p.Entropy));
    }

    private static SampleReview Of(IEnumerable<string> ids) => SampleReview.Of(TokenSample.Read(string.Join('\n', ids)), new DateTimeOffset(2026, 1, 1, 15, 0, 0, TimeSpan.Zero));
}
