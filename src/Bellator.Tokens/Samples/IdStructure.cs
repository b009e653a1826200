using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace Bellator.Tokens.Samples;

/// <summary>A known way to make ids, recognised in one value.</summary>
/// <param name="Name">With its article: “a UUID of version 4”.</param>
/// <param name="Detail">What it gives away; empty for nothing.</param>
/// <param name="RandomBits">Bits that its definition leaves to chance, at most; null where the definition says nothing.</param>
public sealed partial record IdStructure(string Name, string Detail, double? RandomBits, string Source)
{
    /// <summary>Milliseconds between 15 October 1582, from which UUIDs count, and 1970 (RFC 9562, section 5.1).</summary>
    private const long GregorianMilliseconds = 12_219_292_800_000;

    private const int LeastYear = 2005;
    private const int MostYear = 2045;

    /// <summary>Fewer random bits than a session id has to have.</summary>
    public bool IsGuessable => RandomBits < EntropyRating.LeastBits;

    /// <summary>The way in which the value says that it was made; null where it says nothing.</summary>
    public static IdStructure? Of(string value)
    {
        value = value.Trim();
        return Uuid(value) ?? WebToken(value) ?? ObjectId(value) ?? Ulid(value) ?? Uniqid(value) ?? Snowflake(value) ?? Time(value) ?? ReadableText(value);
    }

    private static IdStructure? Uuid(string value)
    {
        if (!Guid.TryParseExact(value.Trim('{', '}'), "D", out var uuid))
        {
            return null;
        }

        const string source = "RFC 9562, section 5";
        var bytes = uuid.ToByteArray(bigEndian: true);
        var variant = bytes[8] >> 6;
        if (variant != 2)
        {
            return uuid == Guid.Empty ? new("the nil UUID", "it is the same for everybody", 0, "RFC 9562, section 5.9") : new("written like a UUID", "its variant is not that of RFC 9562, so it says nothing of how it was made", null, source);
        }

        switch (uuid.Version)
        {
            case 1 or 6:
                // The sixty bits of the time lie in another order in the sixth version.
                var ticks = uuid.Version == 1
                    ? ((long)(((bytes[6] & 0x0f) << 8) | bytes[7]) << 48) | ((long)((bytes[4] << 8) | bytes[5]) << 32) | BitConverter.ToUInt32([bytes[3], bytes[2], bytes[1], bytes[0]])
                    : ((long)BitConverter.ToUInt32([bytes[3], bytes[2], bytes[1], bytes[0]]) << 28) | ((long)((bytes[4] << 8) | bytes[5]) << 12) | (long)(((bytes[6] & 0x0f) << 8) | bytes[7]);
                var node = string.Join(':', bytes[10..].Select(b => b.ToString("x2", CultureInfo.InvariantCulture)));
                return new($"a UUID of version {uuid.Version}", $"made {Date((ticks / 10_000) - GregorianMilliseconds)}; node {node}{((bytes[10] & 1) == 0 ? ", the address of a network card" : "")}", 14, source);
            case 2:
                return new("a UUID of version 2", "made of a user id and the time", 6, source);
            case 3 or 5:
                return new($"a UUID of version {uuid.Version}", $"the {(uuid.Version == 3 ? "MD5" : "SHA-1")} digest of a name: who knows or guesses the name computes it", 0, source);
            case 4:
                return new("a UUID of version 4", "122 bits are random, if the generator is: RFC 9562 asks for no secure one", 122, source + ".4 and 6.9");
            case 7:
                var milliseconds = 0L;
                foreach (var part in bytes[..6])
                {
                    milliseconds = (milliseconds << 8) | part;
                }

                return new("a UUID of version 7", $"made {Date(milliseconds)}; at most 74 bits are random", 74, source + ".7");
            default:
                return new($"a UUID of version {uuid.Version}", "", null, source);
        }
    }

    private static IdStructure? WebToken(string value)
    {
        if (value.Split('.') is not { Length: 3 } || !value.StartsWith("ey", StringComparison.Ordinal))
        {
            return null;
        }

        try
        {
            var token = Jwt.JwtReading.Read(value);
            return new("a JSON Web Token", $"signed with {(token.Algorithm.Length == 0 ? "no algorithm" : token.Algorithm)}; what it says can be read by anybody", null, "RFC 7519");
        }
        catch (TokenFormatException)
        {
            return null;
        }
    }

    private static IdStructure? ObjectId(string value) =>
        value.Length == 24 && IsHex(value) && Date(Convert.ToInt64(value[..8], 16) * 1000, out var date)
            ? new("an ObjectId", $"made {date}; then five bytes of the process and a counter that goes up by one", 0, "BSON ObjectId layout (from memory)")
            : null;

    private static IdStructure? Ulid(string value)
    {
        const string alphabet = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";
        if (value.Length != 26 || value[0] > '7' || !value.All(c => alphabet.Contains(char.ToUpperInvariant(c), StringComparison.Ordinal)))
        {
            return null;
        }

        var time = value[..10].Aggregate(0L, (sum, c) => (sum * 32) + alphabet.IndexOf(char.ToUpperInvariant(c), StringComparison.Ordinal));
        return Date(time, out var date) ? new("a ULID", $"made {date}; 80 bits are random, or count up from the one before within a millisecond", 80, "ULID layout (from memory)") : null;
    }

    /// <summary>What PHP’s uniqid makes: seconds and microseconds, both hexadecimal.</summary>
    private static IdStructure? Uniqid(string value) =>
        value.Length == 13 && IsHex(value) && Convert.ToInt64(value[8..], 16) < 1_000_000 && Date((Convert.ToInt64(value[..8], 16) * 1000) + (Convert.ToInt64(value[8..], 16) / 1000), out var date)
            ? new("a time in hexadecimal", $"{date} and its microseconds, as uniqid() makes it", 0, "PHP manual, uniqid")
            : null;

    /// <summary>Decimal numbers of eighteen or nineteen digits whose upper part is a time since an epoch of the maker’s own.</summary>
    private static IdStructure? Snowflake(string value) =>
        value.Length is 18 or 19 && value.All(char.IsAsciiDigit) && long.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number >> 22 > 0
            ? new("a number that may count a time in its upper bits", $"{number >> 22} milliseconds since an epoch of its own, then a machine and a counter", 22, TokenRemark.CommonPractice)
            : null;

    private static IdStructure? Time(string value)
    {
        if (!value.All(char.IsAsciiDigit) || value.Length is not (10 or 13 or 16))
        {
            return null;
        }

        var number = long.Parse(value, NumberStyles.None, CultureInfo.InvariantCulture);
        return Date(value.Length switch { 10 => number * 1000, 13 => number, _ => number / 1000 }, out var date) ? new("a time", date, 0, TokenRemark.CommonPractice) : null;
    }

    private static IdStructure? ReadableText(string value)
    {
        if (value.Length < 8 || SampleAlphabet.Of(value) is null)
        {
            return null;
        }

        var padded = value.TrimEnd('=').Replace('-', '+').Replace('_', '/');
        padded += new string('=', (4 - (padded.Length % 4)) % 4);
        var bytes = new byte[padded.Length];
        if (!Convert.TryFromBase64String(padded, bytes, out var count) || count < 6 || bytes.AsSpan(0, count).ContainsAnyExceptInRange((byte)0x20, (byte)0x7e))
        {
            return null;
        }

        var text = Encoding.ASCII.GetString(bytes, 0, count);
        return Words().IsMatch(text) ? new("base64 of readable text", $"“{(text.Length > 60 ? text[..60] + "…" : text)}”", 0, TokenRemark.CommonPractice) : null;
    }

    private static bool IsHex(string value) => value.All(char.IsAsciiHexDigit);

    private static bool Date(long milliseconds, out string date)
    {
        date = "";
        if (milliseconds < 0 || milliseconds > DateTimeOffset.MaxValue.ToUnixTimeMilliseconds())
        {
            return false;
        }

        date = Date(milliseconds);
        return DateTimeOffset.FromUnixTimeMilliseconds(milliseconds).Year is >= LeastYear and <= MostYear;
    }

    private static string Date(long milliseconds) => milliseconds > DateTimeOffset.MaxValue.ToUnixTimeMilliseconds() || milliseconds < DateTimeOffset.MinValue.ToUnixTimeMilliseconds()
        ? "at a time that no calendar has"
        : DateTimeOffset.FromUnixTimeMilliseconds(milliseconds).ToString("d MMM yyyy HH:mm:ss.fff 'UTC'", CultureInfo.InvariantCulture);

    /// <summary>A few letters in a row, or a pair of name and value: chance makes either seldom of printable bytes only.</summary>
    [GeneratedRegex("[A-Za-z]{4}|[:=|;,].*[0-9A-Za-z]", RegexOptions.CultureInvariant, 200)]
    private static partial Regex Words();
}
