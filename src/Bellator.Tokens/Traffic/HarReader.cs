using System.Globalization;
using Bellator.Analysis.Libraries;
using Newtonsoft.Json;
using Newtonsoft.Json.Linq;

namespace Bellator.Tokens.Traffic;

/// <summary>
/// Reads a capture in the HTTP Archive format, version 1.2, one exchange after another. Of bodies only what tells of credentials is kept.
/// </summary>
public sealed class HarReader(IdentifierClassifier words)
{
    public const int MostExchanges = 100_000;
    private const int LargestBody = 512 * 1024;
    private const int DeepestJson = 64;
    private const int MostFields = 200;

    /// <exception cref="TokenFormatException">It is not such a capture.</exception>
    public IEnumerable<TrafficExchange> Read(TextReader text, CancellationToken cancel)
    {
        using var json = new JsonTextReader(text) { MaxDepth = DeepestJson, DateParseHandling = DateParseHandling.None, CloseInput = false };
        if (!Find(json, "log", 1) || !Find(json, "entries", 2))
        {
            throw new TokenFormatException("The file is not an HTTP Archive: it has no log.entries.");
        }

        var index = 0;
        while (Next(json) && json.TokenType == JsonToken.StartObject)
        {
            cancel.ThrowIfCancellationRequested();
            if (index >= MostExchanges)
            {
                throw new TokenFormatException($"There are more than {MostExchanges} requests in the capture.");
            }

            if (Load(json) is { } entry && Exchange(entry, index) is { } exchange)
            {
                index++;
                yield return exchange;
            }
        }
    }

    /// <summary>Goes to the value of a member at a depth; what stands beside it is passed over.</summary>
    private static bool Find(JsonTextReader json, string member, int depth)
    {
        while (Next(json))
        {
            if (json.TokenType == JsonToken.PropertyName && json.Depth == depth)
            {
                if ((string?)json.Value == member)
                {
                    return Next(json) && json.TokenType is JsonToken.StartObject or JsonToken.StartArray;
                }

                json.Skip();
            }
            else if (json.TokenType == JsonToken.EndObject && json.Depth < depth)
            {
                return false;
            }
        }

        return false;
    }

    private static bool Next(JsonTextReader json)
    {
        try
        {
            return json.Read();
        }
        catch (JsonException e)
        {
            throw Broken(e);
        }
    }

    private static JObject Load(JsonTextReader json)
    {
        try
        {
            return JObject.Load(json);
        }
        catch (JsonException e)
        {
            throw Broken(e);
        }
    }

    private static TokenFormatException Broken(JsonException e) => new("The capture is not whole JSON: " + e.Message);

    private TrafficExchange? Exchange(JObject entry, int index)
    {
        if (entry["request"] is not JObject request || entry["response"] is not JObject response || !Uri.TryCreate((string?)Scalar(request, "url"), UriKind.Absolute, out var url) || url.Scheme is not ("http" or "https"))
        {
            return null;
        }

        _ = DateTimeOffset.TryParse((string?)Scalar(entry, "startedDateTime"), CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var started);
        var responseHeaders = Headers(response);
        var contentType = responseHeaders.FirstOrDefault(h => h.Name.Equals("Content-Type", StringComparison.OrdinalIgnoreCase))?.Value ?? (string?)Scalar(response["content"] as JObject, "mimeType") ?? "";
        return new TrafficExchange(
            index, started, ((string?)Scalar(request, "method") ?? "GET").ToUpperInvariant(), url, (int?)(long?)Scalar(response, "status") ?? 0,
            Headers(request), responseHeaders, [.. Form(request["postData"] as JObject).Take(MostFields)],
            [.. Issued(response["content"] as JObject, contentType).Take(MostFields)], contentType);
    }

    /// <summary>A member that is a plain value of a kind that is asked for; null for anything else.</summary>
    private static JValue? Scalar(JObject? of, string member) => of?[member] is JValue { Type: JTokenType.String or JTokenType.Integer } value && (value.Type == JTokenType.Integer == (member == "status")) ? value : null;

    private static List<NamedValue> Headers(JObject of)
    {
        var headers = Pairs(of["headers"]).ToList();

        // Some browsers leave cookies out of the headers, and list them beside.
        var cookies = Pairs(of["cookies"]).ToList();
        if (cookies.Count > 0 && !headers.Exists(h => h.Name.Equals("Cookie", StringComparison.OrdinalIgnoreCase) || h.Name.Equals("Set-Cookie", StringComparison.OrdinalIgnoreCase)))
        {
            headers.Add(of["url"] is not null ? new("Cookie", string.Join("; ", cookies.Select(c => $"{c.Name}={c.Value}"))) : new("Set-Cookie", string.Join('\n', cookies.Select(c => $"{c.Name}={c.Value}"))));
        }

        return headers;
    }

    private static IEnumerable<NamedValue> Pairs(JToken? list) => list is not JArray array ? [] : array.OfType<JObject>()
        .Select(o => new NamedValue((string?)Scalar(o, "name") ?? "", (string?)Scalar(o, "value") ?? "")).Where(p => p.Name.Length > 0);

    private static IEnumerable<NamedValue> Form(JObject? body)
    {
        if (body is null)
        {
            return [];
        }

        if (body["params"] is JArray { Count: > 0 } fields)
        {
            return Pairs(fields);
        }

        var text = (string?)Scalar(body, "text") ?? "";
        var type = (string?)Scalar(body, "mimeType") ?? "";
        return text.Length > LargestBody ? []
            : type.Contains("json", StringComparison.OrdinalIgnoreCase) ? Members(text)
            : type.Contains("urlencoded", StringComparison.OrdinalIgnoreCase) ? TrafficExchange.Pairs(text) : [];
    }

    private IEnumerable<NamedValue> Issued(JObject? content, string type)
    {
        var text = (string?)Scalar(content, "text") ?? "";
        return !type.Contains("json", StringComparison.OrdinalIgnoreCase) || text.Length is 0 or > LargestBody || (string?)Scalar(content, "encoding") == "base64" ? []
            : Members(text).Where(m => m.Value.Length >= CredentialNames.ShortestValue && CredentialNames.Tells(words, m.Name));
    }

    /// <summary>Texts of a JSON object, at any depth, by the names of their members.</summary>
    private static List<NamedValue> Members(string text)
    {
        try
        {
            using var json = new JsonTextReader(new StringReader(text)) { MaxDepth = DeepestJson, DateParseHandling = DateParseHandling.None };
            return JToken.ReadFrom(json) is JContainer root ? [.. root.DescendantsAndSelf().OfType<JProperty>().Where(p => p.Value.Type == JTokenType.String).Select(p => new NamedValue(p.Name, (string)p.Value!))] : [];
        }
        catch (JsonException)
        {
            return [];
        }
    }
}
