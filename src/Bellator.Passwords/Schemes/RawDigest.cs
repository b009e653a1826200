namespace Bellator.Passwords.Schemes;

/// <summary>
/// The bare result of a hash function, in hex or base64. Several functions give results of one length; which it was only shows once a
/// password is known.
/// </summary>
public sealed class RawDigest(string id, string title, int bytes, string function, Sureness sureness) : HashScheme
{
    /// <summary>Fast functions put into one another, which people do in the hope that it helps.</summary>
    private static readonly string[] Nested = ["md5", "sha1", "sha256", "sha512"];

    /// <summary>The functions by the length of their results, the more usual first.</summary>
    public static readonly IReadOnlyList<RawDigest> All =
    [
        new("md5", "MD5", 16, "md5", Sureness.Likely),
        new("ntlm", "NT hash (MD4 of UTF-16)", 16, "ntlm", Sureness.Possible),
        new("md4", "MD4", 16, "md4", Sureness.Possible),
        new("sha1", "SHA-1", 20, "sha1", Sureness.Likely),
        new("ripemd160", "RIPEMD-160", 20, "ripemd160", Sureness.Possible),
        new("sha224", "SHA-224", 28, "sha224", Sureness.Likely),
        new("sha256", "SHA-256", 32, "sha256", Sureness.Likely),
        new("sha3-256", "SHA3-256", 32, "sha3-256", Sureness.Possible),
        new("sha384", "SHA-384", 48, "sha384", Sureness.Likely),
        new("sha512", "SHA-512", 64, "sha512", Sureness.Likely),
        new("sha3-512", "SHA3-512", 64, "sha3-512", Sureness.Possible),
        new("blake2b", "BLAKE2b", 64, "blake2b", Sureness.Possible),
    ];

    public override string Id => id;

    public override string Title => title;

    public override string Source => function switch { "md5" => "RFC 1321", "md4" or "ntlm" => "RFC 1320", "ripemd160" => "ISO/IEC 10118-3", "blake2b" => "RFC 7693", "sha3-256" or "sha3-512" => "FIPS 202", _ => "FIPS 180-4" };

    public override HashKind Kind => HashKind.FastHash;

    public override int LongestValue => function == "ntlm" ? 36 : bytes * 2;

    public override HashReading? Read(string value)
    {
        // NT hashes in login files of crypt(3) have a sign of their own.
        if (function == "ntlm" && value.StartsWith("$3$$", StringComparison.Ordinal) && HashText.Hex(value[4..]) is { Length: 16 } marked)
        {
            return new HashReading(this, Sureness.Certain, value) { Hash = marked };
        }

        if (value.Length == bytes * 2)
        {
            return HashText.Hex(value) is { } hex ? new HashReading(this, sureness, value) { Hash = hex } : null;
        }

        var signs = (bytes + 2) / 3 * 4;
        return (value.Length == signs && (bytes % 3 == 0 || value[^1] == '=')) && HashText.Base64(value) is { } raw && raw.Length == bytes && LooksRandom(value)
            ? new HashReading(this, sureness == Sureness.Likely ? Sureness.Likely : Sureness.Possible, value) { Hash = raw, Note = "in base64" }
            : null;
    }

    public override bool Guess(HashReading reading, string password) =>
        function == "ntlm" ? HashText.Same(HashText.Digest("md4", System.Text.Encoding.Unicode.GetBytes(password)), reading.Hash) : HashText.Same(HashText.Digest(function, HashText.Bytes(password)), reading.Hash);

    public override VerificationResult Verify(HashReading reading, string password)
    {
        foreach (var spelling in (ReadOnlySpan<string>)[password, password.ToLowerInvariant(), password.ToUpperInvariant()])
        {
            var how = spelling == password ? "" : spelling == password.ToLowerInvariant() ? " of the password in small letters" : " of the password in capitals";
            var text = function == "ntlm" ? System.Text.Encoding.Unicode.GetBytes(spelling) : HashText.Bytes(spelling);
            var name = function == "ntlm" ? "md4" : function;
            if (HashText.Same(HashText.Digest(name, text), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, Title + how);
            }
        }

        foreach (var inner in function == "ntlm" ? [] : Nested)
        {
            var raw = HashText.Digest(inner, HashText.Bytes(password));
            if (HashText.Same(HashText.Digest(function, HashText.Bytes(Convert.ToHexStringLower(raw))), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"{Title} of the hex of {inner.ToUpperInvariant()}");
            }

            if (HashText.Same(HashText.Digest(function, raw), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"{Title} of {inner.ToUpperInvariant()}");
            }
        }

        return VerificationResult.Of(false);
    }

    /// <summary>Words are base64 too; a digest has signs of several kinds in it.</summary>
    internal static bool LooksRandom(string value)
    {
        var kinds = (value.Any(char.IsAsciiLetterUpper) ? 1 : 0) + (value.Any(char.IsAsciiLetterLower) ? 1 : 0) + (value.Any(char.IsAsciiDigit) ? 1 : 0);
        return kinds == 3 && value.Distinct().Count() > Math.Min(12, value.Length / 2);
    }
}
