using System.Globalization;

namespace Bellator.Tokens.Cookies;

public enum SameSite
{
    /// <summary>Not said, or said in a way that browsers do not know: they treat it as Lax, with exceptions.</summary>
    Default,
    None,
    Lax,
    Strict,
}

/// <summary>A <c>Set-Cookie</c> line as a browser reads it: the algorithm of RFC 6265bis (draft-ietf-httpbis-rfc6265bis), section 5.6.</summary>
public sealed record SetCookie(string Name, string Value)
{
    private const int LongestPair = 4096;
    private const int LongestAttribute = 1024;

    public bool IsSecure { get; private init; }

    public bool IsHttpOnly { get; private init; }

    public bool IsPartitioned { get; private init; }

    public SameSite SameSite { get; private init; }

    /// <summary>What stands in the attribute, where it stands.</summary>
    public string? SameSiteText { get; private init; }

    /// <summary>Without a leading dot; empty or null for the host alone.</summary>
    public string? Domain { get; private init; }

    /// <summary>Null where the path of the page decides.</summary>
    public string? Path { get; private init; }

    public DateTimeOffset? Expires { get; private init; }

    /// <summary>In seconds. It goes before <see cref="Expires"/>.</summary>
    public long? MaxAge { get; private init; }

    /// <summary>Attributes that are not known or could not be read; browsers pass over them.</summary>
    public IReadOnlyList<string> Ignored { get; private init; } = [];

    /// <param name="line">With or without the header’s name in front.</param>
    /// <exception cref="TokenFormatException">A browser drops the whole line.</exception>
    public static SetCookie Read(string line)
    {
        line = line.Trim();
        line = line.StartsWith("Set-Cookie:", StringComparison.OrdinalIgnoreCase) ? line["Set-Cookie:".Length..].Trim() : line;
        if (line.Any(c => c is < ' ' and not '\t' or '\x7f'))
        {
            throw new TokenFormatException("The line has control characters: browsers drop it whole (RFC 6265bis, section 5.6, step 1).");
        }

        var parts = line.Split(';');
        var equals = parts[0].IndexOf('=', StringComparison.Ordinal);
        var name = equals < 0 ? "" : parts[0][..equals].Trim();
        var value = equals < 0 ? parts[0].Trim() : parts[0][(equals + 1)..].Trim();
        if (name.Length + value.Length == 0)
        {
            throw new TokenFormatException("The line has neither a name nor a value: browsers drop it (RFC 6265bis, section 5.6, step 5).");
        }

        if (name.Length + value.Length > LongestPair)
        {
            throw new TokenFormatException($"Name and value have {name.Length + value.Length} characters; browsers drop a cookie of more than {LongestPair} (RFC 6265bis, section 5.6, step 5).");
        }

        var cookie = new SetCookie(name, value);
        var ignored = new List<string>();
        foreach (var part in parts.Skip(1).Select(p => p.Trim()).Where(p => p.Length > 0))
        {
            cookie = cookie.With(part, ignored);
        }

        return cookie with { Ignored = ignored };
    }

    /// <summary>It tells the browser to forget the cookie.</summary>
    public bool Clears(DateTimeOffset now) => MaxAge is { } age ? age <= 0 : Expires <= now;

    private SetCookie With(string part, List<string> ignored)
    {
        var equals = part.IndexOf('=', StringComparison.Ordinal);
        var (name, value) = equals < 0 ? (part, "") : (part[..equals].Trim(), part[(equals + 1)..].Trim());
        if (value.Length > LongestAttribute)
        {
            ignored.Add(name);
            return this;
        }

        switch (name.ToLowerInvariant())
        {
            case "secure": return this with { IsSecure = true };
            case "httponly": return this with { IsHttpOnly = true };
            case "partitioned": return this with { IsPartitioned = true };
            case "path": return this with { Path = value.StartsWith('/') ? value : null };
            case "domain": return this with { Domain = value.TrimStart('.').ToLowerInvariant() is { Length: > 0 } domain ? domain : null };
            case "samesite": return this with { SameSiteText = value, SameSite = value.ToLowerInvariant() switch { "none" => SameSite.None, "lax" => SameSite.Lax, "strict" => SameSite.Strict, _ => SameSite.Default } };
            case "max-age" when long.TryParse(value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var age) && (value[0] == '-' || char.IsAsciiDigit(value[0])): return this with { MaxAge = age };
            case "expires" when CookieDate.Read(value) is { } date: return this with { Expires = date };
            default:
                ignored.Add(part);
                return this;
        }
    }
}
