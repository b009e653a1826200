using Bellator.Analysis.Libraries;
using Bellator.Tokens.Cookies;

namespace Bellator.Tokens.Traffic;

public enum TrafficEventKind
{
    SignIn,
    SignOut,
    PasswordChange,
}

/// <summary>Something that happens to the account in the capture.</summary>
public sealed record TrafficEvent(TrafficEventKind Kind, int Exchange);

/// <param name="Exchanges">Those that show it.</param>
public sealed record TrafficRemark(RemarkKind Kind, string Subject, string Text, string Source, IReadOnlyList<int> Exchanges);

/// <summary>An exchange as it is listed; headers and bodies are not kept.</summary>
public sealed record ListedExchange(int Index, DateTimeOffset Started, string Method, string Scheme, string Host, string Path, int Status);

/// <summary>Follows each credential of a capture by its value: when it is issued, sent, replaced, cleared, and whether it is still good afterwards.</summary>
public sealed class TrafficReview
{
    private readonly IdentifierClassifier _words;
    private readonly Dictionary<(string Name, string Carrier, string Site), CapturedCredential> _credentials = [];
    private readonly Dictionary<string, CapturedCredential> _byValue = new(StringComparer.Ordinal);
    private readonly List<ListedExchange> _listed = [];
    private readonly List<TrafficEvent> _events = [];
    private readonly TrafficRemarks _remarks;

    private TrafficReview(IdentifierClassifier words)
    {
        _words = words;
        _remarks = new TrafficRemarks(words);
    }

    public IReadOnlyList<ListedExchange> Exchanges => _listed;

    public IReadOnlyCollection<CapturedCredential> Credentials => _credentials.Values;

    public IReadOnlyList<TrafficEvent> Events => _events;

    public IReadOnlyList<TrafficRemark> Remarks { get; private set; } = [];

    /// <exception cref="TokenFormatException">The file is not a capture.</exception>
    public static TrafficReview Of(TextReader har, IdentifierClassifier words, CancellationToken cancel = default) => Of(new HarReader(words).Read(har, cancel), words);

    public static TrafficReview Of(IEnumerable<TrafficExchange> exchanges, IdentifierClassifier words)
    {
        var review = new TrafficReview(words);
        foreach (var exchange in exchanges)
        {
            review.Take(exchange);
        }

        review.Remarks = review._remarks.All(review);
        return review;
    }

    private void Take(TrafficExchange exchange)
    {
        _listed.Add(new ListedExchange(exchange.Index, exchange.Started, exchange.Method, exchange.Url.Scheme, exchange.Url.Authority, exchange.Url.AbsolutePath, exchange.Status));
        var sent = Sent(exchange).ToList();
        foreach (var (credential, value) in sent)
        {
            value.Sent.Add(exchange.Index);
        }

        _remarks.Sent(exchange, sent, _byValue);
        Happens(exchange);
        Issued(exchange);
    }

    /// <summary>Credentials that the request carries.</summary>
    private IEnumerable<(CapturedCredential Credential, CapturedValue Value)> Sent(TrafficExchange exchange)
    {
        foreach (var cookie in exchange.Cookies.Where(c => c.Value.Length >= CredentialNames.ShortestValue && (_byValue.ContainsKey(c.Value) || CredentialNames.Tells(_words, c.Name))))
        {
            yield return See(cookie.Name, "cookie", exchange, cookie.Value, wasIssued: false);
        }

        foreach (var header in exchange.RequestHeaders.Where(h => h.Name.Equals("Authorization", StringComparison.OrdinalIgnoreCase) || (h.Value.Length >= CredentialNames.ShortestValue && !h.Name.Contains("cookie", StringComparison.OrdinalIgnoreCase) && (_words.IsCredential(h.Name) || _words.IsSecretToken(h.Name)))))
        {
            var value = header.Value.StartsWith("Bearer ", StringComparison.OrdinalIgnoreCase) ? header.Value["Bearer ".Length..].Trim() : header.Value;
            if (value.Length >= CredentialNames.ShortestValue && !value.StartsWith("Basic ", StringComparison.OrdinalIgnoreCase))
            {
                yield return See(header.Name, "header", exchange, value, wasIssued: false);
            }
        }
    }

    private void Issued(TrafficExchange exchange)
    {
        foreach (var line in exchange.ResponseHeaders.Where(h => h.Name.Equals("Set-Cookie", StringComparison.OrdinalIgnoreCase)).SelectMany(h => h.Value.Split('\n', StringSplitOptions.RemoveEmptyEntries)))
        {
            if (Read(line) is { } cookie && CredentialNames.Tells(_words, cookie.Name))
            {
                Set(exchange, cookie);
            }
        }

        foreach (var member in exchange.Issued)
        {
            See(member.Name, "body", exchange, member.Value, wasIssued: true);
        }
    }

    private void Set(TrafficExchange exchange, SetCookie cookie)
    {
        var known = _credentials.GetValueOrDefault(Key(cookie.Name, "cookie", exchange));
        var current = known?.Values.LastOrDefault(v => v.Replaced is null && v.Cleared is null);
        if (cookie.Clears(exchange.Started) || cookie.Value.Length == 0)
        {
            if (current is not null)
            {
                current.Cleared = exchange.Index;
            }

            return;
        }

        var (credential, value) = See(cookie.Name, "cookie", exchange, cookie.Value, wasIssued: true);
        credential.SetBy.Add((exchange.Index, cookie));
        if (current is not null && current != value)
        {
            current.Replaced = exchange.Index;
        }
    }

    /// <summary>A value that was issued under one name is the same credential wherever it is sent.</summary>
    private (CapturedCredential Credential, CapturedValue Value) See(string name, string carrier, TrafficExchange exchange, string text, bool wasIssued)
    {
        if (!_byValue.TryGetValue(text, out var credential))
        {
            var key = Key(name, carrier, exchange);
            if (!_credentials.TryGetValue(key, out credential))
            {
                _credentials[key] = credential = new CapturedCredential(name, carrier, exchange.Url.Authority);
            }

            _byValue[text] = credential;
        }

        if (credential.Find(text) is not { } value)
        {
            credential.Values.Add(value = new CapturedValue(Label(credential.Values.Count), text, exchange.Index, wasIssued));
        }

        return (credential, value);
    }

    private static (string, string, string) Key(string name, string carrier, TrafficExchange exchange) => (name, carrier, exchange.Url.Host.ToLowerInvariant());

    /// <summary>A to Z, then A2 and so on.</summary>
    private static string Label(int index) => (char)('A' + (index % 26)) + (index < 26 ? "" : ((index / 26) + 1).ToString(System.Globalization.CultureInfo.InvariantCulture));

    private static SetCookie? Read(string line)
    {
        try
        {
            return SetCookie.Read(line);
        }
        catch (TokenFormatException)
        {
            return null;
        }
    }

    /// <summary>Signing in is a form with one password that is not turned away; with two of them it is a change.</summary>
    private void Happens(TrafficExchange exchange)
    {
        if (exchange.Method is "POST" or "PUT" or "PATCH" && exchange.Status is >= 200 and < 400 && !IsTurnedBack(exchange))
        {
            var passwords = exchange.Form.Count(f => _words.IsPassword(f.Name) && f.Value.Length > 0);
            if (passwords > 0)
            {
                _events.Add(new TrafficEvent(passwords == 1 ? TrafficEventKind.SignIn : TrafficEventKind.PasswordChange, exchange.Index));
            }
        }

        if (IsSignOut(exchange) && exchange.Status is > 0 and < 400)
        {
            _events.Add(new TrafficEvent(TrafficEventKind.SignOut, exchange.Index));
            foreach (var value in _credentials.Values.Where(c => c.Host == exchange.Url.Authority).SelectMany(c => c.Values).Where(v => v.Sent.Count > 0 && v.Ended is null))
            {
                value.SignedOut = exchange.Index;
            }
        }
    }

    /// <summary>The address says so, or the session is deleted as a thing.</summary>
    private bool IsSignOut(TrafficExchange exchange)
    {
        var segments = exchange.Url.Segments.Select(s => s.Trim('/')).Where(s => s.Length > 0).ToList();
        return segments.Exists(s => _words.TellsOfSigningOut(System.IO.Path.GetFileNameWithoutExtension(s))) || (exchange.Method == "DELETE" && segments is [.., var last] && (_words.IsCredential(last) || _words.IsCredential(IdentifierClassifier.Singular(last))));
    }

    /// <summary>A redirect to the page that it came from.</summary>
    private static bool IsTurnedBack(TrafficExchange exchange) =>
        exchange.Status is >= 300 and < 400 && exchange.Header("Location") is { } location && Uri.TryCreate(exchange.Url, location, out var target) && target.AbsolutePath == exchange.Url.AbsolutePath;
}
