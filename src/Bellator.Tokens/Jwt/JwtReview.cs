using System.Globalization;
using System.Text.Json;
using Bellator.Analysis.Libraries;

namespace Bellator.Tokens.Jwt;

/// <summary>What can be said of a token without its key. The rules are those of RFC 7515, 7518, 7519 and 8725.</summary>
public sealed class JwtReview(IdentifierClassifier words)
{
    private const int LeastRsaBytes = 256;
    private const double LongestSession = 24 * 60 * 60;

    /// <summary>A NumericDate beyond this, the year 5138, was written in milliseconds.</summary>
    private const double LatestDate = 1e11;

    /// <summary>Bytes of a signature, by algorithm (RFC 7518, sections 3.2 and 3.4).</summary>
    private static readonly Dictionary<string, int> SignatureBytes = new(StringComparer.Ordinal)
    {
        ["HS256"] = 32,
        ["HS384"] = 48,
        ["HS512"] = 64,
        ["ES256"] = 64,
        ["ES256K"] = 64,
        ["ES384"] = 96,
        ["ES512"] = 132,
        ["EdDSA"] = 64,
        ["Ed25519"] = 64,
    };

    private static readonly HashSet<string> RsaAlgorithms = new(["RS256", "RS384", "RS512", "PS256", "PS384", "PS512"], StringComparer.Ordinal);

    /// <summary>Claims that RFC 7519 or OpenID Connect Core 1.0 gives a meaning, in words.</summary>
    private static readonly Dictionary<string, string> Meanings = new(StringComparer.Ordinal)
    {
        ["iss"] = "who issued it",
        ["sub"] = "whom it is about",
        ["aud"] = "for whom it is meant",
        ["exp"] = "when it ends",
        ["nbf"] = "from when it is good",
        ["iat"] = "when it was issued",
        ["jti"] = "its own id",
        ["nonce"] = "ties it to one sign-in",
        ["azp"] = "the client that it was issued to",
        ["auth_time"] = "when the person signed in",
        ["acr"] = "how strongly the person signed in",
        ["amr"] = "by which means the person signed in",
        ["scope"] = "what it allows",
        ["email"] = "e-mail address",
        ["email_verified"] = "whether the address was confirmed",
        ["name"] = "full name",
        ["sid"] = "the session it belongs to",
    };

    public static string? MeaningOf(string claim) => Meanings.GetValueOrDefault(claim);

    /// <summary>A claim as text; times with their date.</summary>
    public static string Show(string claim, JsonElement value)
    {
        var text = value.ValueKind == JsonValueKind.String ? value.GetString() ?? "" : value.GetRawText();
        return claim is "exp" or "nbf" or "iat" or "auth_time" or "updated_at" && value.ValueKind == JsonValueKind.Number && value.TryGetDouble(out var seconds) && seconds is >= 0 and < LatestDate
            ? $"{text} ({DateOf(seconds)})"
            : text;
    }

    /// <param name="now">The time against which it is held.</param>
    public IReadOnlyList<TokenRemark> Review(JwtReading token, DateTimeOffset now)
    {
        var remarks = new List<TokenRemark>();
        Header(token, remarks);
        if (token.IsEncrypted)
        {
            remarks.Add(new(RemarkKind.Note, "payload", "The payload is encrypted: what it says cannot be read without the key.", "RFC 7516"));
            return remarks;
        }

        if (token.Claims is not { } claims)
        {
            remarks.Add(new(RemarkKind.Weak, "payload", "The payload is not a JSON object, so it has no claims that could be checked.", "RFC 7519, section 3"));
            return remarks;
        }

        Times(token, now.ToUnixTimeMilliseconds() / 1000.0, remarks);
        Addressees(token, remarks);
        foreach (var claim in claims.EnumerateObject())
        {
            Content(claim, remarks);
        }

        return remarks;
    }

    private static void Header(JwtReading token, List<TokenRemark> remarks)
    {
        var algorithm = token.Algorithm;
        foreach (var name in token.Repeated)
        {
            remarks.Add(new(RemarkKind.Broken, name, $"“{name}” stands twice: one reader takes the first, another the last.", "RFC 7515, section 4; RFC 7519, section 4"));
        }

        if (!token.IsEncrypted)
        {
            Signature(token, algorithm, remarks);
        }

        foreach (var (name, what) in new[] { ("jku", "an address from which to fetch the key"), ("x5u", "an address from which to fetch the certificate"), ("jwk", "the key itself"), ("x5c", "the certificate itself") })
        {
            if (token.Header.TryGetProperty(name, out _))
            {
                remarks.Add(new(RemarkKind.Weak, name, $"The header brings {what}: whoever makes a token chooses it, so the server must only take keys that it knows already.", "RFC 8725, sections 3.6 and 3.10"));
            }
        }

        if (JwtReading.TextOf(token.Header, "kid") is { } kid && kid.AsSpan().IndexOfAny("/\\'\";% ") >= 0)
        {
            remarks.Add(new(RemarkKind.Weak, "kid", "The key’s id has characters of a path or a statement: look at how the server finds the key by it.", "RFC 8725, section 3.10"));
        }

        if (token.Header.TryGetProperty("crit", out _))
        {
            remarks.Add(new(RemarkKind.Unclear, "crit", "The header names extensions that must be understood; a reader that does not know them has to refuse the token.", "RFC 7515, section 4.1.11"));
        }

        if (JwtReading.TextOf(token.Header, "typ") is null or "JWT" or "jwt")
        {
            remarks.Add(new(RemarkKind.Note, "typ", "The type does not say what kind of token it is; where there are several kinds, one may be accepted for another.", "RFC 8725, section 3.11"));
        }
    }

    private static void Signature(JwtReading token, string algorithm, List<TokenRemark> remarks)
    {
        var length = token.Signature.Length;
        if (algorithm.Equals("none", StringComparison.OrdinalIgnoreCase))
        {
            remarks.Add(new(RemarkKind.Broken, "alg", "The token is not signed: anybody can write one.", "RFC 8725, section 3.2"));
        }
        else if (length == 0)
        {
            remarks.Add(new(RemarkKind.Broken, "signature", $"The header says {(algorithm.Length > 0 ? algorithm : "nothing of an algorithm")}, and the signature is empty.", "RFC 7515, section 5.2"));
        }
        else if (RsaAlgorithms.Contains(algorithm))
        {
            remarks.Add(length < LeastRsaBytes
                ? new(RemarkKind.Weak, "alg", $"The signature of {length} bytes shows an RSA key of {length * 8} bits; at least 2048 are asked for.", "RFC 7518, section 3.3")
                : new(RemarkKind.Good, "alg", $"{algorithm}: signed with a private RSA key of {length * 8} bits.", "RFC 7518, section 3.3"));
        }
        else if (SignatureBytes.TryGetValue(algorithm, out var expected))
        {
            remarks.Add(length != expected
                ? new(RemarkKind.Broken, "signature", $"A signature by {algorithm} has {expected} bytes; this has {length}.", "RFC 7518, section 3")
                : algorithm[0] == 'H'
                ? new(RemarkKind.Unclear, "alg", $"{algorithm}: signed with a shared secret. It has to have {expected} random bytes or more; whether it does is not to be seen from the token. Whoever can verify it can also make one.", "RFC 7518, section 3.2")
                : new(RemarkKind.Good, "alg", $"{algorithm}: signed with a private key.", "RFC 7518, section 3.4"));
        }
        else
        {
            remarks.Add(new(RemarkKind.Unclear, "alg", algorithm.Length == 0 ? "The header names no algorithm." : $"“{algorithm}” is not an algorithm that is known here.", "RFC 7518, section 3.1"));
        }
    }

    private static void Times(JwtReading token, double now, List<TokenRemark> remarks)
    {
        foreach (var name in new[] { "exp", "nbf", "iat" })
        {
            if (token.Has(name) && token.Number(name) is null)
            {
                remarks.Add(new(RemarkKind.Weak, name, $"“{name}” is not a number; a reader that expects seconds may skip it.", "RFC 7519, section 2"));
            }
            else if (token.Number(name) is { } value and >= LatestDate)
            {
                remarks.Add(new(RemarkKind.Weak, name, $"“{name}” is {value.ToString("0", CultureInfo.InvariantCulture)}: milliseconds, where seconds are meant. As seconds it lies tens of thousands of years ahead.", "RFC 7519, section 2"));
            }
        }

        if (!token.Has("exp"))
        {
            remarks.Add(new(RemarkKind.Weak, "exp", "The token has no end: it is good until its key is changed for everybody.", "RFC 7519, section 4.1.4; ASVS 5.0 V9.2.1"));
        }
        else if (token.Number("exp") is { } end and < LatestDate)
        {
            remarks.Add(end <= now
                ? new(RemarkKind.Note, "exp", $"It ended {Span(now - end)} ago. If the server still takes it, nothing checks the end.", "RFC 7519, section 4.1.4")
                : new(RemarkKind.Good, "exp", $"It ends in {Span(end - now)}.", "RFC 7519, section 4.1.4"));
            if (token.Number("iat") is { } start and < LatestDate && end - start > LongestSession)
            {
                remarks.Add(new(RemarkKind.Weak, "exp", $"It is good for {Span(end - start)}. Unless the server looks it up, it cannot be taken back for as long.", TokenRemark.CommonPractice));
            }
        }

        if (token.Number("nbf") is { } from and < LatestDate && from > now)
        {
            remarks.Add(new(RemarkKind.Note, "nbf", $"It is not good yet: in {Span(from - now)}.", "RFC 7519, section 4.1.5"));
        }

        if (!token.Has("iat"))
        {
            remarks.Add(new(RemarkKind.Note, "iat", "It does not say when it was issued, so a password change cannot end those from before.", TokenRemark.CommonPractice));
        }
    }

    private static void Addressees(JwtReading token, List<TokenRemark> remarks)
    {
        if (!token.Has("iss"))
        {
            remarks.Add(new(RemarkKind.Note, "iss", "It does not say who issued it; where one key serves several issuers, theirs are accepted too.", "RFC 8725, section 3.8"));
        }

        if (!token.Has("aud"))
        {
            remarks.Add(new(RemarkKind.Note, "aud", "It does not say for whom it is meant; another service with the same key accepts it.", "RFC 8725, section 3.9"));
        }

        if (!token.Has("jti") && !token.Has("sid"))
        {
            remarks.Add(new(RemarkKind.Note, "jti", "It has no id of its own, so a single one cannot be revoked.", "RFC 7519, section 4.1.7"));
        }
    }

    private void Content(JsonProperty claim, List<TokenRemark> remarks)
    {
        if (words.IsPassword(claim.Name) || words.IsPasswordColumn(claim.Name))
        {
            remarks.Add(new(RemarkKind.Broken, claim.Name, "A password or its hash is in the payload, which anybody can read who has the token.", "RFC 8725, section 3.12; CWE-522"));
        }
        else if (claim.Name.ToLowerInvariant() is "role" or "roles" or "admin" or "is_admin" or "isadmin" or "permissions" or "scopes" or "groups")
        {
            remarks.Add(new(RemarkKind.Note, claim.Name, "Rights stand in the token: one that is taken away stays until the token ends.", TokenRemark.CommonPractice));
        }
        else if (claim.Name is "email" or "phone" or "phone_number" or "address" or "birthdate")
        {
            remarks.Add(new(RemarkKind.Note, claim.Name, "Personal data stands in the payload, which is encoded and not encrypted.", "RFC 7519, section 12"));
        }
    }

    private static string DateOf(double seconds) => DateTimeOffset.FromUnixTimeSeconds((long)seconds).ToString("d MMM yyyy HH:mm:ss 'UTC'", CultureInfo.InvariantCulture);

    /// <summary>A length of time in one unit.</summary>
    public static string Span(double seconds)
    {
        (double Size, string One, string Many)[] units = [(365.25 * 86400, "year", "years"), (86400, "day", "days"), (3600, "hour", "hours"), (60, "minute", "minutes"), (1, "second", "seconds")];
        var unit = units.FirstOrDefault(u => seconds >= 2 * u.Size, units[^1]);
        var count = Math.Round(seconds / unit.Size).ToString("0", CultureInfo.InvariantCulture);
        return $"{count} {(count == "1" ? unit.One : unit.Many)}";
    }
}
