using System.Globalization;
using System.Text.RegularExpressions;
using Org.BouncyCastle.Crypto.Generators;
using Org.BouncyCastle.Crypto.Parameters;

namespace Bellator.Passwords.Schemes;

/// <summary>Argon2 (RFC 9106) in the usual text form.</summary>
public sealed partial class Argon2 : HashScheme
{
    private const long DearestWork = 8L * 1024 * 1024;

    public override string Id => "argon2";

    public override string Title => "Argon2";

    public override string Source => "RFC 9106";

    public override HashKind Kind => HashKind.Slow;

    /// <summary>With a salt of 16 and a hash of 32 bytes and large settings.</summary>
    public override int LongestValue => 104;

    public override HashReading? Read(string value)
    {
        if (Form().Match(value) is not { Success: true } match || HashText.Base64(match.Groups["salt"].Value) is not { } salt || HashText.Base64(match.Groups["hash"].Value) is not { } hash)
        {
            return null;
        }

        long Number(string name) => long.Parse(match.Groups[name].ValueSpan, CultureInfo.InvariantCulture);
        return new HashReading(this, Sureness.Certain, value)
        {
            Digest = match.Groups["variant"].Value,
            Parameters = [new("memory", Number("m"), "KiB"), new("passes", Number("t")), new("lanes", Number("p")), new("version", match.Groups["v"].Success ? Number("v") : 16)],
            Salt = salt,
            Hash = hash,
        };
    }

    public override long MemoryBytes(HashReading reading) => reading["memory"] * 1024;

    public override bool IsTooDear(HashReading reading) => MemoryBytes(reading) > DearestMemory || reading["memory"] * reading["passes"] > DearestWork || reading["lanes"] > 64;

    public override VerificationResult Verify(HashReading reading, string password)
    {
        var made = Compute(reading.Digest!, HashText.Bytes(password), reading.Salt!, reading["memory"], reading["passes"], reading["lanes"], reading["version"], reading.Hash.Length);
        return VerificationResult.Of(HashText.Same(made, reading.Hash));
    }

    /// <param name="version">16 or 19 (0x13).</param>
    /// <param name="secret">A key besides the salt; few use one.</param>
    /// <param name="data">Associated data; few use any.</param>
    internal static byte[] Compute(string variant, byte[] password, byte[] salt, long memoryKib, long passes, long lanes, long version, int length, byte[]? secret = null, byte[]? data = null)
    {
        var kind = variant switch { "argon2d" => Argon2Parameters.Argon2d, "argon2i" => Argon2Parameters.Argon2i, _ => Argon2Parameters.Argon2id };
        var settings = new Argon2Parameters.Builder(kind).WithVersion((int)version).WithMemoryAsKB((int)memoryKib).WithIterations((int)passes).WithParallelism((int)lanes).WithSalt(salt);
        if (secret is not null)
        {
            settings.WithSecret(secret);
        }

        if (data is not null)
        {
            settings.WithAdditional(data);
        }

        var generator = new Argon2BytesGenerator();
        generator.Init(settings.Build());
        var made = new byte[length];
        generator.GenerateBytes(password, made);
        return made;
    }

    public override HashRating Rate(HashReading reading) => HashRating.Argon2(reading.Digest!, reading["memory"], reading["passes"], reading["lanes"]);

    [GeneratedRegex(@"^\$(?<variant>argon2(?:id|i|d))\$(?:v=(?<v>[0-9]{1,3})\$)?m=(?<m>[0-9]{1,9}),t=(?<t>[0-9]{1,6}),p=(?<p>[0-9]{1,3})(?:,[a-z]+=[^,$]*)*\$(?<salt>[A-Za-z0-9+/]{11,})\$(?<hash>[A-Za-z0-9+/]{16,})$")]
    private static partial Regex Form();
}
