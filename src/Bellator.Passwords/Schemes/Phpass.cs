using System.Text;
using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>The portable hashes of phpass (Openwall, 2004), and Drupal 7's variant with SHA-512: rounds of a fast function.</summary>
public sealed partial class Phpass : HashScheme
{
    private const int DearestLog = 24;

    public override string Id => "phpass";

    public override string Title => "phpass";

    public override string Source => "Openwall phpass (2004)";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override int LongestValue => 55;

    public override HashReading? Read(string value)
    {
        if (Form().Match(value) is not { Success: true } match || match.Groups["hash"].Length != (match.Groups["id"].Value == "S" ? 43 : 22))
        {
            return null;
        }

        return new HashReading(this, Sureness.Certain, value)
        {
            Digest = match.Groups["id"].Value == "S" ? "sha512" : "md5",
            Parameters = [new("rounds", 1L << HashText.CryptNumber(match.Groups["cost"].ValueSpan))],
            Salt = HashText.Bytes(match.Groups["salt"].Value),
            Hash = HashText.Bytes(match.Groups["hash"].Value),
        };
    }

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > 1L << DearestLog;

    public override VerificationResult Verify(HashReading reading, string password)
    {
        var text = HashText.Bytes(password);
        var hash = HashText.Digest(reading.Digest!, reading.Salt!, text);
        for (var round = reading["rounds"]; round > 0; round--)
        {
            hash = HashText.Digest(reading.Digest!, hash, text);
        }

        // Drupal cuts the value off so that it fits its column.
        return VerificationResult.Of(HashText.Same(HashText.Bytes(Spell(hash)[..reading.Hash.Length]), reading.Hash));
    }

    public override HashRating Rate(HashReading reading) => new(
        Strength.Unfit,
        $"{HashRating.Spell(reading["rounds"])} rounds of {(reading.Digest == "md5" ? "MD5" : "SHA-512")}; a graphics card tries millions of passwords a second.",
        HashRating.Practice);

    private static string Spell(byte[] bytes)
    {
        var text = new StringBuilder();
        for (var i = 0; i < bytes.Length; i += 3)
        {
            var value = bytes[i] | (i + 1 < bytes.Length ? bytes[i + 1] << 8 : 0) | (i + 2 < bytes.Length ? bytes[i + 2] << 16 : 0);
            for (var sign = 0; sign <= Math.Min(3, bytes.Length - i); sign++, value >>= 6)
            {
                text.Append(HashText.CryptSigns[value & 63]);
            }
        }

        return text.ToString();
    }

    [GeneratedRegex(@"^\$(?<id>[PHS])\$(?<cost>[5-9A-S])(?<salt>[./A-Za-z0-9]{8})(?<hash>[./A-Za-z0-9]{22}|[./A-Za-z0-9]{43})$")]
    private static partial Regex Form();
}
