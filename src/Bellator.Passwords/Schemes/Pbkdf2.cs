using System.Globalization;
using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>What all values of PBKDF2 (RFC 8018) share, however they are written.</summary>
public abstract class Pbkdf2Family : HashScheme
{
    internal const long DearestRounds = 20_000_000;

    public override HashKind Kind => HashKind.Slow;

    public override bool IsTooDear(HashReading reading) => reading["rounds"] > DearestRounds;

    public override VerificationResult Verify(HashReading reading, string password) =>
        VerificationResult.Of(HashText.Same(HashText.Pbkdf2(reading.Digest!, HashText.Bytes(password), reading.Salt!, reading["rounds"], reading.Hash.Length), reading.Hash));

    public override HashRating Rate(HashReading reading) => HashRating.Pbkdf2(reading.Digest!, reading["rounds"]);
}

/// <summary>PBKDF2 (RFC 8018) in the forms of Django, Werkzeug and passlib.</summary>
public sealed partial class Pbkdf2 : Pbkdf2Family
{
    public override string Id => "pbkdf2";

    public override string Title => "PBKDF2";

    public override string Source => "RFC 8018";

    /// <summary>Werkzeug's with SHA-512.</summary>
    public override int LongestValue => 167;

    public override HashReading? Read(string value)
    {
        if (!value.StartsWith("pbkdf2", StringComparison.Ordinal) && !value.StartsWith("$pbkdf2", StringComparison.Ordinal))
        {
            return null;
        }

        if (Django().Match(value) is { Success: true } django && HashText.Base64(django.Groups["hash"].Value) is { } hash)
        {
            return Reading(value, django, HashText.Bytes(django.Groups["salt"].Value), hash);
        }

        if (Werkzeug().Match(value) is { Success: true } werkzeug && HashText.Hex(werkzeug.Groups["hash"].Value) is { } hex)
        {
            return Reading(value, werkzeug, HashText.Bytes(werkzeug.Groups["salt"].Value), hex);
        }

        return Passlib().Match(value) is { Success: true } passlib && HashText.Base64(passlib.Groups["salt"].Value) is { } salt && HashText.Base64(passlib.Groups["hash"].Value) is { } made
            ? Reading(value, passlib, salt, made)
            : null;
    }

    private HashReading? Reading(string value, Match match, byte[] salt, byte[] hash)
    {
        var rounds = long.Parse(match.Groups["rounds"].ValueSpan, CultureInfo.InvariantCulture);
        return rounds < 1 ? null : new HashReading(this, Sureness.Certain, value)
        {
            Digest = match.Groups["digest"].Value is { Length: > 0 } digest ? digest : "sha1",
            Parameters = [new("rounds", rounds)],
            Salt = salt,
            Hash = hash,
        };
    }

    [GeneratedRegex(@"^pbkdf2_(?<digest>sha1|sha256|sha512)\$(?<rounds>[0-9]{1,9})\$(?<salt>[^$]+)\$(?<hash>[A-Za-z0-9+/]+=*)$")]
    private static partial Regex Django();

    [GeneratedRegex(@"^pbkdf2:(?<digest>sha1|sha256|sha384|sha512|md5)(?::(?<rounds>[0-9]{1,9}))\$(?<salt>[^$]*)\$(?<hash>[0-9a-f]{32,128})$")]
    private static partial Regex Werkzeug();

    [GeneratedRegex(@"^\$pbkdf2(?:-(?<digest>sha256|sha512))?\$(?<rounds>[0-9]{1,9})\$(?<salt>[A-Za-z0-9./]*)\$(?<hash>[A-Za-z0-9./]{22,})$")]
    private static partial Regex Passlib();
}
