using System.Text;

namespace Bellator.Passwords.Schemes;

/// <summary>A value with which nobody can sign in: empty, or marked as locked.</summary>
public sealed class Unusable : HashScheme
{
    private const int DjangoLength = 41;

    public override string Id => "unusable";

    public override string Title => "No password";

    public override string Source => "passwd(5); Django documentation";

    public override HashKind Kind => HashKind.Unusable;

    public override HashReading? Read(string value) => value is "" or "!" or "!!" or "*" or "x" || (value.Length == DjangoLength && value[0] == '!' && value[1..].All(char.IsAsciiLetterOrDigit))
        ? new HashReading(this, Sureness.Certain, value) { Note = value.Length == 0 ? "The value is empty: make sure that the empty password is not accepted." : null }
        : null;
}

/// <summary>Something that a key opens, by the form of known encrypters.</summary>
public sealed class Encrypted : HashScheme
{
    private const int FernetBytes = 57;

    public override string Id => "encrypted";

    public override string Title => "Encrypted";

    public override string Source => "OpenSSL enc, Fernet specification, Laravel documentation; common practice";

    public override HashKind Kind => HashKind.Encrypted;

    public override HashReading? Read(string value)
    {
        if (value.Length < 24 || HashText.Base64(value) is not { } bytes)
        {
            return null;
        }

        var note = bytes.AsSpan().StartsWith("Salted__"u8) ? "in the form of OpenSSL"
            : value.StartsWith("gAAAA", StringComparison.Ordinal) && bytes.Length >= FernetBytes ? "in the form of Fernet"
            : bytes.AsSpan().StartsWith("{\"iv\":"u8) ? "in the form of Laravel's encrypter" : null;
        if (note is not null)
        {
            return new HashReading(this, Sureness.Certain, value) { Note = note, Hash = bytes };
        }

        // Whole blocks of a cipher that no usual hash function gives.
        return bytes.Length % 16 == 0 && bytes.Length is not (16 or 32 or 48 or 64) && bytes.Any(b => b > 126) && RawDigest.LooksRandom(value)
            ? new HashReading(this, Sureness.Possible, value) { Note = $"{bytes.Length / 16} blocks of 16 bytes", Hash = bytes }
            : null;
    }
}

/// <summary>The password in another spelling.</summary>
public sealed class Encoded : HashScheme
{
    private const int Shortest = 4;

    /// <summary>Random bytes are never all signs of text at this length: one in a hundred thousand.</summary>
    private const int Certainly = 12;

    public override string Id => "encoded";

    public override string Title => "Encoded";

    public override string Source => "RFC 4648";

    public override HashKind Kind => HashKind.Encoded;

    public override HashReading? Read(string value)
    {
        if (value.Length >= Shortest * 2 && HashText.Hex(value) is { } hex && Text(hex) is not null)
        {
            return new HashReading(this, hex.Length >= Certainly ? Sureness.Certain : Sureness.Likely, value) { Note = "in hex", Hash = hex };
        }

        var isBase64 = value.Length >= 8 && value.Length % 4 == 0 && value.All(c => char.IsAsciiLetterOrDigit(c) || c is '+' or '/' or '=');
        return isBase64 && HashText.Base64(value) is { Length: >= Shortest } bytes && Text(bytes) is not null && (value[^1] == '=' || value.Any(char.IsAsciiLetterUpper))
            ? new HashReading(this, bytes.Length >= Certainly ? Sureness.Certain : value[^1] == '=' ? Sureness.Likely : Sureness.Possible, value) { Note = "in base64", Hash = bytes }
            : null;
    }

    public override VerificationResult Verify(HashReading reading, string password) => VerificationResult.Of(HashText.Same(HashText.Bytes(password), reading.Hash));

    private static string? Text(byte[] bytes) => bytes.All(b => b is >= 32 and < 127) ? Encoding.ASCII.GetString(bytes) : null;
}

/// <summary>Whatever no scheme explains is taken for the password itself.</summary>
public sealed class Plain : HashScheme
{
    private const int Longest = 72;
    private const string Werkzeug = "plain$$";

    public override string Id => "plain";

    public override string Title => "Plain text";

    public override string Source => "common practice";

    public override HashKind Kind => HashKind.Plain;

    public override HashReading? Read(string value) => value.StartsWith(Werkzeug, StringComparison.Ordinal)
        ? new HashReading(this, Sureness.Certain, value) { Hash = HashText.Bytes(value[Werkzeug.Length..]) }
        : new HashReading(this, value.Length <= Longest && !value.StartsWith('$') ? Sureness.Likely : Sureness.Possible, value) { Hash = HashText.Bytes(value) };

    public override VerificationResult Verify(HashReading reading, string password) => VerificationResult.Of(HashText.Same(HashText.Bytes(password), reading.Hash));
}
