using System.Globalization;
using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>A scheme of crypt(3), verified by the system's own library.</summary>
public abstract class CryptFamily : HashScheme
{
    public override string Source => "crypt(5), libxcrypt";

    public override VerificationResult Verify(HashReading reading, string password) =>
        LibCrypt.Hash(password, reading.Value) is { } made ? VerificationResult.Of(made == reading.Value) : VerificationResult.CannotTell;

    protected HashReading Reading(string value, string salt, params IReadOnlyList<HashParameter> parameters) =>
        new(this, Sureness.Certain, value) { Salt = HashText.Bytes(salt), Parameters = parameters, Hash = HashText.Bytes(value[(value.LastIndexOf('$') + 1)..]) };
}

/// <summary>SHA-256 and SHA-512 crypt: Drepper, "Unix crypt using SHA-256 and SHA-512" (2007).</summary>
public abstract partial class Sha2Crypt(string id, char sign, string digest, int hashSigns) : CryptFamily
{
    private const int DefaultRounds = 5000;

    public override string Id => id;

    public override string Title => digest == "sha512" ? "SHA-512 crypt" : "SHA-256 crypt";

    public override string Source => "Drepper, Unix crypt using SHA-256 and SHA-512 (2007)";

    public override HashKind Kind => HashKind.Slow;

    public override int LongestValue => 37 + hashSigns;

    public override HashReading? Read(string value)
    {
        if (!value.StartsWith($"${sign}$", StringComparison.Ordinal) || Form().Match(value) is not { Success: true } match || match.Groups["hash"].Length != hashSigns)
        {
            return null;
        }

        var rounds = match.Groups["rounds"].Success ? int.Parse(match.Groups["rounds"].ValueSpan, CultureInfo.InvariantCulture) : DefaultRounds;
        return Reading(value, match.Groups["salt"].Value, new HashParameter("rounds", rounds)) with { Digest = digest };
    }

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > Pbkdf2Family.DearestRounds;

    public override HashRating Rate(HashReading reading) => HashRating.Sha2Crypt(digest, reading["rounds"]);

    [GeneratedRegex(@"^\$[56]\$(?:rounds=(?<rounds>[0-9]{1,9})\$)?(?<salt>[^$]{0,16})\$(?<hash>[./A-Za-z0-9]+)$")]
    private static partial Regex Form();
}

public sealed class Sha512Crypt() : Sha2Crypt("sha512-crypt", '6', "sha512", 86);

public sealed class Sha256Crypt() : Sha2Crypt("sha256-crypt", '5', "sha256", 43);

/// <summary>yescrypt and its GOST variant, the default of Debian 11 and later.</summary>
public sealed partial class Yescrypt : CryptFamily
{
    /// <summary>Debian's default: N 2^12 and r 32 are 16 MiB.</summary>
    private const int UsualLogN = 12;

    private const int DearestLogN = 17;

    public override string Id => "yescrypt";

    public override string Title => "yescrypt";

    public override string Source => "Peslyak, yescrypt (2018); crypt(5)";

    public override HashKind Kind => HashKind.Slow;

    public override int LongestValue => 107;

    public override HashReading? Read(string value) => Form().Match(value) is { Success: true } match
        ? Reading(value, match.Groups["salt"].Value, new("N", 1L << LogN(match)), new("r", HashText.CryptNumber(match.Groups["r"].ValueSpan) + 1L))
        : null;

    public override long MemoryBytes(HashReading reading) => reading["N"] * reading["r"] * 128;

    public override bool IsTooDear(HashReading reading) => reading["N"] > 1L << DearestLogN || MemoryBytes(reading) > DearestMemory;

    public override HashRating Rate(HashReading reading) => reading["N"] >= 1L << UsualLogN && reading["r"] >= 32
        ? new HashRating(Strength.MeetsMinimum, $"N {reading["N"]}, r {reading["r"]}, as much as Debian takes for its own sign-in.", HashRating.Practice)
        : new HashRating(Strength.BelowMinimum, $"N {reading["N"]}, r {reading["r"]}; Debian takes N 4096, r 32 for its own sign-in.", HashRating.Practice);

    private static int LogN(Match match) => HashText.CryptNumber(match.Groups["n"].ValueSpan) + 1;

    [GeneratedRegex(@"^\$g?y\$[./A-Za-z0-9](?<n>[./0-9A-S])(?<r>[./A-Za-z0-9])[./A-Za-z0-9]*\$(?<salt>[./A-Za-z0-9]*)\$(?<hash>[./A-Za-z0-9]{43})$")]
    private static partial Regex Form();
}

/// <summary>MD5 crypt, and Apache's variant of it: a thousand rounds of MD5 (Kamp, FreeBSD 1994).</summary>
public sealed partial class Md5Crypt : CryptFamily
{
    private const int Rounds = 1000;

    public override string Id => "md5-crypt";

    public override string Title => "MD5 crypt";

    public override string Source => "Kamp, FreeBSD (1994); Apache htpasswd";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override int LongestValue => 37;

    public override HashReading? Read(string value) =>
        Form().Match(value) is { Success: true } match ? Reading(value, match.Groups["salt"].Value, new HashParameter("rounds", Rounds)) : null;

    public override VerificationResult Verify(HashReading reading, string password) => reading.Value.StartsWith("$apr1$", StringComparison.Ordinal)
        ? VerificationResult.Of(Compute(HashText.Bytes(password), "$apr1$", reading.Salt!) == reading.Value[(reading.Value.LastIndexOf('$') + 1)..])
        : base.Verify(reading, password);

    public override HashRating Rate(HashReading reading) =>
        new(Strength.Unfit, "A thousand rounds of MD5; its author declared it no longer safe in 2012.", HashRating.Practice);

    /// <summary>Apache's variant differs in one word, which crypt(3) does not know.</summary>
    private static string Compute(byte[] password, string magic, byte[] salt)
    {
        var inner = HashText.Digest("md5", password, salt, password);
        using var first = new MemoryStream();
        first.Write(password);
        first.Write(HashText.Bytes(magic));
        first.Write(salt);
        for (var left = password.Length; left > 0; left -= 16)
        {
            first.Write(inner, 0, Math.Min(16, left));
        }

        for (var bits = password.Length; bits > 0; bits >>= 1)
        {
            first.WriteByte((bits & 1) != 0 || password.Length == 0 ? (byte)0 : password[0]);
        }

        var hash = HashText.Digest("md5", first.ToArray());
        for (var round = 0; round < Rounds; round++)
        {
            hash = HashText.Digest(
                "md5",
                (round & 1) != 0 ? password : hash,
                round % 3 != 0 ? salt : [],
                round % 7 != 0 ? password : [],
                (round & 1) != 0 ? hash : password);
        }

        var text = new System.Text.StringBuilder();
        void Add(int value, int signs)
        {
            for (; signs > 0; signs--, value >>= 6)
            {
                text.Append(HashText.CryptSigns[value & 63]);
            }
        }

        for (var i = 0; i < 5; i++)
        {
            Add((hash[i] << 16) | (hash[i + 6] << 8) | hash[i == 4 ? 5 : i + 12], 4);
        }

        Add(hash[11], 2);
        return text.ToString();
    }

    [GeneratedRegex(@"^\$(?:1|apr1)\$(?<salt>[^$]{0,8})\$(?<hash>[./A-Za-z0-9]{22})$")]
    private static partial Regex Form();
}

/// <summary>HMAC-SHA1 in rounds, as NetBSD has it.</summary>
public sealed partial class Sha1Crypt : CryptFamily
{
    public override string Id => "sha1-crypt";

    public override string Title => "SHA-1 crypt (PBKDF1)";

    public override HashKind Kind => HashKind.Slow;

    public override HashReading? Read(string value) => Form().Match(value) is { Success: true } match
        ? Reading(value, match.Groups["salt"].Value, new HashParameter("rounds", long.Parse(match.Groups["rounds"].ValueSpan, CultureInfo.InvariantCulture))) with { Digest = "sha1" }
        : null;

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > Pbkdf2Family.DearestRounds;

    public override HashRating Rate(HashReading reading) => HashRating.Pbkdf2("sha1", reading["rounds"]);

    [GeneratedRegex(@"^\$sha1\$(?<rounds>[0-9]{1,9})\$(?<salt>[./A-Za-z0-9]{0,64})\$(?<hash>[./A-Za-z0-9]{28})$")]
    private static partial Regex Form();
}

/// <summary>The first crypt(3): DES in 25 rounds over eight characters, with a salt of 12 bits.</summary>
public sealed partial class DesCrypt : CryptFamily
{
    private const int ManyChanges = 4;

    public override string Id => "des-crypt";

    public override string Title => "DES crypt";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override int LongestValue => 13;

    public override int InputLimit => 8;

    public override HashReading? Read(string value) => Form().IsMatch(value)
        ? Reading(value, value[..2]) with { Sureness = Changes(value) >= ManyChanges ? Sureness.Likely : Sureness.Possible }
        : null;

    public override HashRating Rate(HashReading reading) => new(Strength.Unfit, "Only eight characters count, and 4096 salts are few.", HashRating.Practice);

    /// <summary>How often small letters, capitals, digits and signs follow one another: a word and a year have two or three such places.</summary>
    private static int Changes(string value) => value.Zip(value.Skip(1)).Count(p => KindOf(p.First) != KindOf(p.Second));

    private static int KindOf(char sign) => char.IsAsciiLetterLower(sign) ? 0 : char.IsAsciiLetterUpper(sign) ? 1 : char.IsAsciiDigit(sign) ? 2 : 3;

    /// <summary>The 64 bits of the result fill ten signs and two thirds of the last, which therefore is one of sixteen.</summary>
    [GeneratedRegex(@"^[./A-Za-z0-9]{12}[.26AEIMQUYcgkosw]$")]
    private static partial Regex Form();
}

/// <summary>BSDi's extension of it, with a count of rounds.</summary>
public sealed partial class BsdiCrypt : CryptFamily
{
    public override string Id => "bsdi-crypt";

    public override string Title => "BSDi extended DES crypt";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override int LongestValue => 20;

    public override HashReading? Read(string value) =>
        Form().IsMatch(value) ? Reading(value, value[5..9], new HashParameter("rounds", HashText.CryptNumber(value.AsSpan(1, 4)))) : null;

    [GeneratedRegex(@"^_[./A-Za-z0-9]{19}$")]
    private static partial Regex Form();
}
