namespace Bellator.Testing;

/// <summary>Keeps cookies by name; the usual container would not send secure ones over plain loopback.</summary>
public sealed class CookieHandler(HttpMessageHandler inner) : DelegatingHandler(inner)
{
    private readonly Dictionary<string, string> _cookies = new(StringComparer.Ordinal);

    /// <summary>The cookies as they are now.</summary>
    public IReadOnlyDictionary<string, string> Cookies => _cookies;

    /// <summary>A client like a browser that follows no redirects.</summary>
    public static HttpClient Client(string url) => Client(url, out _);

    public static HttpClient Client(string url, out CookieHandler cookies)
    {
        cookies = new CookieHandler(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false });
        return new HttpClient(cookies) { BaseAddress = new Uri(url) };
    }

    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        lock (_cookies)
        {
            if (_cookies.Count > 0)
            {
                request.Headers.Add("Cookie", string.Join("; ", _cookies.Select(c => c.Key + "=" + c.Value)));
            }
        }

        var response = await base.SendAsync(request, cancellationToken);
        lock (_cookies)
        {
            foreach (var cookie in response.Headers.TryGetValues("Set-Cookie", out var set) ? set : [])
            {
                var pair = cookie.Split(';')[0];
                var name = pair[..pair.IndexOf('=', StringComparison.Ordinal)];
                if (pair.EndsWith('='))
                {
                    _cookies.Remove(name);
                }
                else
                {
                    _cookies[name] = pair[(name.Length + 1)..];
                }
            }
        }

        return response;
    }
}
