using System.Globalization;
using System.Numerics;
using System.Text.RegularExpressions;
using Org.BouncyCastle.Crypto.Generators;

namespace Bellator.Passwords.Schemes;

/// <summary>scrypt (RFC 7914) in the forms of Werkzeug, Django, passlib and crypt(3).</summary>
public sealed partial class Scrypt : HashScheme
{
    private const long DearestWork = 1L << 26;

    public override string Id => "scrypt";

    public override string Title => "scrypt";

    public override string Source => "RFC 7914";

    public override HashKind Kind => HashKind.Slow;

    /// <summary>Werkzeug's form is the longest.</summary>
    public override int LongestValue => 162;

    public override HashReading? Read(string value)
    {
        if (Werkzeug().Match(value) is { Success: true } match && HashText.Hex(match.Groups["hash"].Value) is { } hex)
        {
            return Reading(value, Number(match, "n"), Number(match, "r"), Number(match, "p"), HashText.Bytes(match.Groups["salt"].Value), hex);
        }

        if (Django().Match(value) is { Success: true } django && HashText.Base64(django.Groups["hash"].Value) is { } base64)
        {
            return Reading(value, Number(django, "n"), Number(django, "r"), Number(django, "p"), HashText.Bytes(django.Groups["salt"].Value), base64);
        }

        if (Passlib().Match(value) is { Success: true } passlib && HashText.Base64(passlib.Groups["salt"].Value) is { } salt && HashText.Base64(passlib.Groups["hash"].Value) is { } made)
        {
            return Reading(value, 1L << (int)Number(passlib, "ln"), Number(passlib, "r"), Number(passlib, "p"), salt, made);
        }

        if (Crypt().Match(value) is { Success: true } crypt)
        {
            return Reading(
                value,
                1L << HashText.CryptNumber(crypt.Groups["n"].ValueSpan),
                HashText.CryptNumber(crypt.Groups["r"].ValueSpan),
                HashText.CryptNumber(crypt.Groups["p"].ValueSpan),
                HashText.Bytes(crypt.Groups["salt"].Value),
                []);
        }

        return null;
    }

    public override long MemoryBytes(HashReading reading) => reading["N"] * reading["r"] * 128;

    public override bool IsTooDear(HashReading reading) => MemoryBytes(reading) > DearestMemory || reading["N"] * reading["r"] * reading["p"] > DearestWork;

    public override VerificationResult Verify(HashReading reading, string password)
    {
        if (reading.Hash.Length == 0)
        {
            return LibCrypt.Hash(password, reading.Value) is { } crypted ? VerificationResult.Of(crypted == reading.Value) : VerificationResult.CannotTell;
        }

        var made = SCrypt.Generate(HashText.Bytes(password), reading.Salt!, (int)reading["N"], (int)reading["r"], (int)reading["p"], reading.Hash.Length);
        return VerificationResult.Of(HashText.Same(made, reading.Hash));
    }

    public override HashRating Rate(HashReading reading) => HashRating.Scrypt(BitOperations.Log2((ulong)reading["N"]), reading["r"], reading["p"]);

    private HashReading? Reading(string value, long n, long r, long p, byte[] salt, byte[] hash) =>
        n < 2 || !BitOperations.IsPow2(n) || r < 1 || p < 1 ? null : new HashReading(this, Sureness.Certain, value)
        {
            Parameters = [new("N", n), new("r", r), new("p", p)],
            Salt = salt,
            Hash = hash,
        };

    private static long Number(Match match, string name) => long.Parse(match.Groups[name].ValueSpan, CultureInfo.InvariantCulture);

    [GeneratedRegex(@"^scrypt:(?<n>[0-9]{1,9}):(?<r>[0-9]{1,4}):(?<p>[0-9]{1,4})\$(?<salt>[^$]*)\$(?<hash>[0-9a-f]{128})$")]
    private static partial Regex Werkzeug();

    [GeneratedRegex(@"^scrypt\$(?<n>[0-9]{1,9})\$(?<salt>[^$]+)\$(?<r>[0-9]{1,4})\$(?<p>[0-9]{1,4})\$(?<hash>[A-Za-z0-9+/]{86}==)$")]
    private static partial Regex Django();

    [GeneratedRegex(@"^\$scrypt\$ln=(?<ln>[1-9]|[12][0-9]|30),r=(?<r>[0-9]{1,4}),p=(?<p>[0-9]{1,4})\$(?<salt>[A-Za-z0-9+/]*)\$(?<hash>[A-Za-z0-9+/]{22,})$")]
    private static partial Regex Passlib();

    [GeneratedRegex(@"^\$7\$(?<n>[./0-9A-S])(?<r>[./A-Za-z0-9]{5})(?<p>[./A-Za-z0-9]{5})(?<salt>[^$]*)\$(?<hash>[./A-Za-z0-9]{43})$")]
    private static partial Regex Crypt();
}
