using System.Buffers.Text;
using System.Text;
using System.Text.Json;

namespace Bellator.Tokens.Jwt;

/// <summary>A JSON Web Token taken apart, as RFC 7515 (signed) and RFC 7516 (encrypted) lay it out. Nothing of it is believed yet.</summary>
public sealed class JwtReading
{
    private const int LongestToken = 64 * 1024;
    private const int SignedParts = 3;
    private const int EncryptedParts = 5;

    private JwtReading(string text, JsonElement header, JsonElement? claims, byte[] signingInput, byte[] signature, bool isEncrypted, IReadOnlyList<string> repeated)
    {
        (Text, Header, Claims, SigningInput, Signature, IsEncrypted, Repeated) = (text, header, claims, signingInput, signature, isEncrypted, repeated);
    }

    public string Text { get; }

    public JsonElement Header { get; }

    /// <summary>Null where the payload is encrypted, or is not a JSON object.</summary>
    public JsonElement? Claims { get; }

    /// <summary>The bytes that are signed.</summary>
    public byte[] SigningInput { get; }

    public byte[] Signature { get; }

    public bool IsEncrypted { get; }

    /// <summary>Names that stand twice in the header or the claims; readers differ in which of them they take.</summary>
    public IReadOnlyList<string> Repeated { get; }

    public string Algorithm => TextOf(Header, "alg") ?? "";

    /// <param name="text">A token in compact form; a leading “Bearer” is left out.</param>
    /// <exception cref="TokenFormatException">It is not a token in compact form.</exception>
    public static JwtReading Read(string text)
    {
        text = text.Trim();
        text = text.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase) ? text["Bearer ".Length..].Trim() : text;
        if (text.Length > LongestToken)
        {
            throw new TokenFormatException($"The token has {text.Length} characters, and at most {LongestToken} are read.");
        }

        var parts = text.Split('.');
        if (parts.Length is not (SignedParts or EncryptedParts))
        {
            throw new TokenFormatException($"A token has three parts between dots, or five if it is encrypted; this has {parts.Length}.");
        }

        var repeated = new List<string>();
        var header = Object(Decode(parts[0], "header"), repeated) ?? throw new TokenFormatException("The header is not a JSON object.");
        var isEncrypted = parts.Length == EncryptedParts;
        var claims = isEncrypted ? null : Object(Decode(parts[1], "payload"), repeated);
        return new JwtReading(text, header, claims, Encoding.ASCII.GetBytes(parts[0] + "." + parts[1]), isEncrypted ? [] : Decode(parts[2], "signature"), isEncrypted, repeated);
    }

    public static string? TextOf(JsonElement of, string name) => of.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString() : null;

    /// <summary>A claim that is a number: seconds since 1970, for those that tell a time (RFC 7519, section 2, NumericDate).</summary>
    public double? Number(string claim) => Claims is { } claims && claims.TryGetProperty(claim, out var value) && value.ValueKind == JsonValueKind.Number && value.TryGetDouble(out var number) ? number : null;

    public bool Has(string claim) => Claims is { } claims && claims.TryGetProperty(claim, out _);

    private static byte[] Decode(string part, string name)
    {
        try
        {
            return Base64Url.DecodeFromChars(part);
        }
        catch (FormatException)
        {
            throw new TokenFormatException($"The {name} is not in base64url.");
        }
    }

    private static JsonElement? Object(byte[] json, List<string> repeated)
    {
        try
        {
            using var document = JsonDocument.Parse(json);
            if (document.RootElement.ValueKind != JsonValueKind.Object)
            {
                return null;
            }

            repeated.AddRange(document.RootElement.EnumerateObject().GroupBy(p => p.Name, StringComparer.Ordinal).Where(g => g.Count() > 1).Select(g => g.Key));
            return document.RootElement.Clone();
        }
        catch (JsonException)
        {
            return null;
        }
    }
}
