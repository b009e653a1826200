using System.Globalization;
using System.Security.Cryptography;
using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>What PostgreSQL keeps of its own users: SCRAM-SHA-256 (RFC 5802, RFC 7677), or MD5 of password and name.</summary>
public sealed partial class PostgresLogin : HashScheme
{
    public override string Id => "postgres";

    public override string Title => "PostgreSQL login (SCRAM-SHA-256)";

    public override string Source => "RFC 5802, RFC 7677";

    public override HashKind Kind => HashKind.Slow;

    public override int LongestValue => 133;

    public override HashReading? Read(string value)
    {
        if (value.Length == 35 && value.StartsWith("md5", StringComparison.Ordinal) && HashText.Hex(value[3..]) is { } md5)
        {
            return new HashReading(this, Sureness.Certain, value) { Digest = "md5", Hash = md5, Kind = HashKind.SaltedFastHash, Note = "MD5 of password and user name; the name is the salt." };
        }

        return Form().Match(value) is { Success: true } match && HashText.Base64(match.Groups["salt"].Value) is { } salt && HashText.Base64(match.Groups["stored"].Value) is { } stored
            ? new HashReading(this, Sureness.Certain, value)
            {
                Digest = "sha256",
                Parameters = [new("rounds", long.Parse(match.Groups["rounds"].ValueSpan, CultureInfo.InvariantCulture))],
                Salt = salt,
                Hash = stored,
            }
            : null;
    }

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > Pbkdf2Family.DearestRounds;

    public override VerificationResult Verify(HashReading reading, string password)
    {
        if (reading.Digest == "md5")
        {
            return VerificationResult.CannotTell;
        }

        var salted = HashText.Pbkdf2("sha256", HashText.Bytes(password), reading.Salt!, reading["rounds"], 32);
        return VerificationResult.Of(HashText.Same(SHA256.HashData(HMACSHA256.HashData(salted, "Client Key"u8)), reading.Hash));
    }

    public override HashRating Rate(HashReading reading) => reading.Digest == "md5" ? base.Rate(reading) : HashRating.Pbkdf2("sha256", reading["rounds"]);

    [GeneratedRegex(@"^SCRAM-SHA-256\$(?<rounds>[0-9]{1,9}):(?<salt>[A-Za-z0-9+/]+=*)\$(?<stored>[A-Za-z0-9+/]{43}=):(?<server>[A-Za-z0-9+/]{43}=)$")]
    private static partial Regex Form();
}

/// <summary>What MySQL and MariaDB keep of their own users, and what <c>PASSWORD()</c> gave: SHA-1 twice without a salt.</summary>
public sealed partial class MySqlLogin : HashScheme
{
    public override string Id => "mysql";

    public override string Title => "MySQL login";

    public override string Source => "MySQL documentation, native password and caching_sha2_password";

    public override HashKind Kind => HashKind.FastHash;

    public override int LongestValue => 70;

    public override HashReading? Read(string value)
    {
        if (value.Length == 41 && value[0] == '*' && HashText.Hex(value[1..]) is { } hash)
        {
            return new HashReading(this, Sureness.Certain, value) { Digest = "sha1", Hash = hash };
        }

        if (value.Length == 16 && HashText.Hex(value) is { } old && value.Any(char.IsAsciiLetter) && value.Any(char.IsAsciiDigit))
        {
            return new HashReading(this, Sureness.Possible, value) { Digest = "old", Hash = old, Note = "the form before MySQL 4.1" };
        }

        return Caching().Match(value) is { Success: true } match
            ? new HashReading(this, Sureness.Certain, value)
            {
                Digest = "sha256",
                Parameters = [new("rounds", int.Parse(match.Groups["rounds"].ValueSpan, NumberStyles.HexNumber, CultureInfo.InvariantCulture) * 1000L)],
                Salt = HashText.Bytes(match.Groups["salt"].Value),
                Hash = HashText.Bytes(match.Groups["hash"].Value),
                Kind = HashKind.Slow,
            }
            : null;
    }

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > Pbkdf2Family.DearestRounds;

    public override VerificationResult Verify(HashReading reading, string password) => reading.Digest switch
    {
        "sha1" => VerificationResult.Of(HashText.Same(HashText.Digest("sha1", HashText.Digest("sha1", HashText.Bytes(password))), reading.Hash)),
        "old" => VerificationResult.Of(Convert.ToHexStringLower(reading.Hash) == Old(password)),
        _ => LibCrypt.Hash(password, $"$5$rounds={reading["rounds"]}${System.Text.Encoding.UTF8.GetString(reading.Salt!)}") is { } made
            ? VerificationResult.Of(made[(made.LastIndexOf('$') + 1)..] == System.Text.Encoding.UTF8.GetString(reading.Hash))
            : VerificationResult.CannotTell,
    };

    public override HashRating Rate(HashReading reading) => reading.Digest == "sha256" ? HashRating.Sha2Crypt("sha256", reading["rounds"]) : base.Rate(reading);

    /// <summary>The form before 4.1: two sums of 31 bits.</summary>
    private static string Old(string password)
    {
        uint first = 1345345333, second = 0x12345671, add = 7;
        foreach (var sign in HashText.Bytes(password).Where(b => b is not ((byte)' ' or (byte)'\t')))
        {
            first ^= (((first & 63) + add) * sign) + (first << 8);
            second += (second << 8) ^ first;
            add += sign;
        }

        return $"{first & 0x7fffffff:x8}{second & 0x7fffffff:x8}";
    }

    [GeneratedRegex(@"^\$A\$(?<rounds>[0-9A-F]{3})\$(?<salt>[ -~]{20})(?<hash>[./A-Za-z0-9]{43})$")]
    private static partial Regex Caching();
}
