namespace Bellator.Tokens.Traffic;

/// <param name="Value">As it was sent.</param>
public sealed record NamedValue(string Name, string Value);

/// <summary>A request and its answer, as they were captured.</summary>
/// <param name="Index">Its place in the capture, from 0.</param>
/// <param name="Form">Fields of the request’s body, of a form or at the top of a JSON object.</param>
/// <param name="Issued">Members of a JSON answer whose names tell of a credential.</param>
public sealed record TrafficExchange(
    int Index,
    DateTimeOffset Started,
    string Method,
    Uri Url,
    int Status,
    IReadOnlyList<NamedValue> RequestHeaders,
    IReadOnlyList<NamedValue> ResponseHeaders,
    IReadOnlyList<NamedValue> Form,
    IReadOnlyList<NamedValue> Issued,
    string ContentType)
{
    public string Address => $"{Method} {Url.AbsolutePath}";

    /// <summary>A page or data, and not a picture, script or style sheet.</summary>
    public bool IsContent => ContentType.Contains("html", StringComparison.OrdinalIgnoreCase) || ContentType.Contains("json", StringComparison.OrdinalIgnoreCase) || ContentType.Contains("xml", StringComparison.OrdinalIgnoreCase) || (ContentType.Length == 0 && Status is >= 300 and < 400);

    public string? Header(string name) => ResponseHeaders.FirstOrDefault(h => h.Name.Equals(name, StringComparison.OrdinalIgnoreCase))?.Value;

    public string? Sent(string name) => RequestHeaders.FirstOrDefault(h => h.Name.Equals(name, StringComparison.OrdinalIgnoreCase))?.Value;

    /// <summary>Names and values of the cookies that the browser sent (RFC 6265, section 5.4).</summary>
    public IEnumerable<NamedValue> Cookies => RequestHeaders.Where(h => h.Name.Equals("Cookie", StringComparison.OrdinalIgnoreCase))
        .SelectMany(h => h.Value.Split(';')).Select(p => p.Split('=', 2)).Where(p => p.Length == 2).Select(p => new NamedValue(p[0].Trim(), p[1].Trim()));

    /// <summary>Parameters in the address.</summary>
    public IEnumerable<NamedValue> Query => Pairs(Url.Query.TrimStart('?'));

    internal static IEnumerable<NamedValue> Pairs(string encoded) => encoded.Split('&', StringSplitOptions.RemoveEmptyEntries).Select(p => p.Split('=', 2))
        .Select(p => new NamedValue(Uri.UnescapeDataString(p[0].Replace('+', ' ')), p.Length > 1 ? Uri.UnescapeDataString(p[1].Replace('+', ' ')) : ""));
}
