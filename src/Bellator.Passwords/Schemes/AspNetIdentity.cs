using System.Buffers.Binary;

namespace Bellator.Passwords.Schemes;

/// <summary>
/// ASP.NET Core Identity: a byte that names the version, then the parts, in base64. Version 2 is PBKDF2-HMAC-SHA1 with 1 000 rounds,
/// version 3 says its function and rounds. From the framework's documentation.
/// </summary>
public sealed class AspNetIdentity : Pbkdf2Family
{
    private const int HeaderBytes = 13;
    private static readonly string[] Functions = ["sha1", "sha256", "sha512"];

    public override string Id => "aspnet-identity";

    public override string Title => "ASP.NET Core Identity (PBKDF2)";

    public override string Source => "ASP.NET Core documentation, PasswordHasher";

    public override int LongestValue => 84;

    public override HashReading? Read(string value)
    {
        if (value.Length is < 64 or > 200 || value[0] != 'A' || HashText.Base64(value) is not { } bytes)
        {
            return null;
        }

        if (bytes is [0, ..] && bytes.Length == 49)
        {
            return new HashReading(this, Sureness.Certain, value) { Digest = "sha1", Parameters = [new("version", 2), new("rounds", 1000)], Salt = bytes[1..17], Hash = bytes[17..] };
        }

        if (bytes is not [1, ..] || bytes.Length < HeaderBytes + 16)
        {
            return null;
        }

        int Number(int at) => BinaryPrimitives.ReadInt32BigEndian(bytes.AsSpan(at));
        var (function, rounds, salt) = (Number(1), Number(5), Number(9));
        return function is < 0 or > 2 || rounds < 1 || salt < 8 || salt > bytes.Length - HeaderBytes - 8 ? null : new HashReading(this, Sureness.Certain, value)
        {
            Digest = Functions[function],
            Parameters = [new("version", 3), new("rounds", rounds)],
            Salt = bytes[HeaderBytes..(HeaderBytes + salt)],
            Hash = bytes[(HeaderBytes + salt)..],
        };
    }
}
