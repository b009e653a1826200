using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>
/// Values with the scheme's name in braces: those of LDAP directories (RFC 2307 and common practice) and those that frameworks mark so
/// and that hold a value of another scheme.
/// </summary>
public sealed partial class Braced : HashScheme
{
    private static readonly Dictionary<string, (string Digest, int Bytes, bool Salted)> Digests = new(StringComparer.OrdinalIgnoreCase)
    {
        ["MD5"] = ("md5", 16, false),
        ["SMD5"] = ("md5", 16, true),
        ["SHA"] = ("sha1", 20, false),
        ["SSHA"] = ("sha1", 20, true),
        ["SHA256"] = ("sha256", 32, false),
        ["SSHA256"] = ("sha256", 32, true),
        ["SHA384"] = ("sha384", 48, false),
        ["SSHA384"] = ("sha384", 48, true),
        ["SHA512"] = ("sha512", 64, false),
        ["SSHA512"] = ("sha512", 64, true),
    };

    public override string Id => "braced";

    public override string Title => "Directory hash";

    public override string Source => "RFC 2307; common practice";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override int LongestValue => 106;

    public override HashReading? Read(string value)
    {
        if (value.Length == 0 || value[0] != '{' || Form().Match(value) is not { Success: true } match)
        {
            return null;
        }

        var (name, rest) = (match.Groups["name"].Value, match.Groups["rest"].Value);
        if (name.Equals("CLEARTEXT", StringComparison.OrdinalIgnoreCase) || name == "noop")
        {
            return new HashReading(this, Sureness.Certain, value) { Kind = HashKind.Plain, Hash = HashText.Bytes(rest) };
        }

        if (Digests.TryGetValue(name, out var known) && HashText.Base64(rest) is { } bytes && (known.Salted ? bytes.Length > known.Bytes : bytes.Length == known.Bytes))
        {
            return new HashReading(this, Sureness.Certain, value)
            {
                Digest = known.Digest,
                Hash = bytes[..known.Bytes],
                Salt = known.Salted ? bytes[known.Bytes..] : null,
                Kind = known.Salted ? HashKind.SaltedFastHash : HashKind.FastHash,
            };
        }

        // {CRYPT}, {bcrypt}, {argon2}: the rest says itself what it is.
        return SchemeList.ReadBest(rest) is { Sureness: not Sureness.Possible, Kind: not HashKind.Plain } inner
            ? inner with { Value = rest, Note = $"marked {{{name}}}" }
            : null;
    }

    public override VerificationResult Verify(HashReading reading, string password) => VerificationResult.Of(HashText.Same(
        reading.Kind == HashKind.Plain ? HashText.Bytes(password) : HashText.Digest(reading.Digest!, HashText.Bytes(password), reading.Salt ?? []), reading.Hash));

    [GeneratedRegex(@"^\{(?<name>[A-Za-z0-9-]{2,20})\}(?<rest>.+)$", RegexOptions.Singleline)]
    private static partial Regex Form();
}

/// <summary>Django's ways of naming a value of another scheme, and its bcrypt over SHA-256.</summary>
public sealed class DjangoWrapped : HashScheme
{
    private const string BcryptSha256 = "bcrypt_sha256$";

    public override string Id => "bcrypt-sha256";

    public override string Title => "bcrypt over SHA-256 (Django)";

    public override string Source => "Django documentation, password management";

    public override HashKind Kind => HashKind.Slow;

    public override int LongestValue => 74;

    public override HashReading? Read(string value)
    {
        if (value.StartsWith(BcryptSha256, StringComparison.Ordinal))
        {
            return new Bcrypt().Read(value[BcryptSha256.Length..]) is { } inner ? inner with { Scheme = this, Value = value, Kind = HashKind.Slow } : null;
        }

        foreach (var name in (ReadOnlySpan<string>)["bcrypt$", "argon2", "crypt$$"])
        {
            if (value.StartsWith(name, StringComparison.Ordinal))
            {
                return SchemeList.ReadBest(value[name.Length..]) is { Sureness: not Sureness.Possible, Kind: not HashKind.Plain } inner ? inner with { Note = "in Django's form" } : null;
            }
        }

        return null;
    }

    public override bool IsTooDear(HashReading reading) => reading["cost"] > 16;

    public override VerificationResult Verify(HashReading reading, string password) =>
        VerificationResult.Of(BCrypt.Net.BCrypt.Verify(Convert.ToHexStringLower(HashText.Digest("sha256", HashText.Bytes(password))), reading.Value[BcryptSha256.Length..]));

    public override HashRating Rate(HashReading reading) => HashRating.Bcrypt(reading["cost"]);
}
