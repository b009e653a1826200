using Bellator.Analysis.Libraries;
using Bellator.Tokens.Cookies;

namespace Bellator.Tokens.Traffic;

/// <summary>Gathers what a capture shows that is wrong with the way credentials travel.</summary>
internal sealed class TrafficRemarks(IdentifierClassifier words)
{
    private const int MostNamed = 6;
    private readonly Dictionary<(string Subject, string Name), (RemarkKind Kind, string Text, string Source, List<int> Exchanges)> _gathered = [];

    /// <summary>Addresses that answered to a credential which was still good.</summary>
    private readonly HashSet<string> _answered = new(StringComparer.Ordinal);

    /// <summary>Looks at one request, in the order of the capture.</summary>
    public void Sent(TrafficExchange exchange, List<(CapturedCredential Credential, CapturedValue Value)> sent, IReadOnlyDictionary<string, CapturedCredential> byValue)
    {
        var isLocal = exchange.Url.IsLoopback;
        foreach (var (credential, value) in sent)
        {
            if (exchange.Url.Scheme == "http" && !isLocal)
            {
                Gather("plain HTTP", credential.Name, RemarkKind.Broken, $"“{credential.Name}” is sent over plain HTTP: everybody on the way reads it.", "ASVS 5.0 V12.2.1", exchange.Index);
            }

            if (credential.Carrier != "cookie" && !exchange.Url.Authority.Equals(credential.Host, StringComparison.OrdinalIgnoreCase) && value.WasIssued)
            {
                Gather("other host", credential.Name, RemarkKind.Note, $"“{credential.Name}” was issued by {credential.Host} and is sent to {exchange.Url.Authority}, too.", TokenRemark.CommonPractice, exchange.Index);
            }
        }

        foreach (var parameter in exchange.Query.Where(p => byValue.ContainsKey(p.Value) || (p.Value.Length >= CredentialNames.ShortestValue && (words.IsSecretToken(p.Name) || words.IsCredential(p.Name)))))
        {
            Gather("in the URL", parameter.Name, RemarkKind.Weak, $"“{parameter.Name}” stands in the URL: logs, browser histories and Referer headers keep it.", "ASVS 5.0 V14.2.1; CWE-598", exchange.Index);
        }

        if (exchange.Sent("Referer") is { } referer && byValue.FirstOrDefault(v => referer.Contains(v.Key, StringComparison.Ordinal)).Value is { } told)
        {
            Gather("in a Referer", told.Name, RemarkKind.Weak, $"The Referer header tells {exchange.Url.Authority} the value of “{told.Name}”.", "CWE-598", exchange.Index);
        }

        Cached(exchange, sent);
        Accepted(exchange, sent);
    }

    public IReadOnlyList<TrafficRemark> All(TrafficReview review)
    {
        foreach (var signIn in review.Events.Where(e => e.Kind == TrafficEventKind.SignIn))
        {
            Renewed(review, signIn.Exchange);
        }

        StillAccepted(review);
        foreach (var credential in review.Credentials)
        {
            Attributes(credential, review);
        }

        return [.. _gathered.OrderBy(g => g.Value.Kind).ThenBy(g => g.Value.Exchanges[0]).Select(g => new TrafficRemark(g.Value.Kind, g.Key.Subject, g.Value.Text, g.Value.Source, g.Value.Exchanges))];
    }

    /// <summary>Where several values that were ended are sent together, one of them is what is accepted.</summary>
    private void StillAccepted(TrafficReview review)
    {
        var accepted = review.Credentials.SelectMany(c => c.Values.Where(v => v.AcceptedAfter.Count > 0).Select(v => (Credential: c, Value: v)));
        foreach (var together in accepted.GroupBy(a => string.Join(',', a.Value.AcceptedAfter)))
        {
            var all = together.ToList();
            var names = string.Join(" or ", all.Select(a => $"“{a.Credential.Name}” (value {a.Value.Label})"));
            var end = all[0].Value.SignedOut is not null ? "signing out" : all[0].Value.Cleared is not null ? "it was cleared" : "it was replaced";
            Gather("accepted after its end", names, RemarkKind.Broken, $"{names} is still accepted after {end}: the same request is answered as before.", "ASVS 5.0 V7.4.1", [.. new[] { all[0].Value.Ended ?? 0 }.Concat(all[0].Value.AcceptedAfter)]);
        }
    }

    /// <summary>The id with which somebody comes to the sign-in must not be the one with which they leave.</summary>
    private void Renewed(TrafficReview review, int signIn)
    {
        var issued = review.Credentials.SelectMany(c => c.Values.Select(v => (c, v))).Where(p => p.v.FirstSeen == signIn && p.v.WasIssued).ToList();
        foreach (var credential in review.Credentials.Where(c => c.Carrier == "cookie"))
        {
            if (credential.Values.Find(v => v.Sent.Contains(signIn) && v.Sent.Exists(s => s > signIn)) is { } kept && (kept.Replaced is null || kept.Replaced > signIn))
            {
                Gather("id kept over sign-in", credential.Name, issued.Count == 0 ? RemarkKind.Broken : RemarkKind.Unclear, issued.Count == 0
                    ? $"“{credential.Name}” (value {kept.Label}) is the same before and after signing in: whoever gave it to the person is signed in with them."
                    : $"“{credential.Name}” (value {kept.Label}) is the same before and after signing in; “{issued[0].c.Name}” is new. Which of the two decides is to be seen in the code.", "ASVS 5.0 V7.2.4; CWE-384", kept.FirstSeen, signIn, kept.Sent.First(s => s > signIn));
            }
            else if (credential.Values.Exists(v => v.Replaced == signIn))
            {
                Gather("id renewed", credential.Name, RemarkKind.Good, $"“{credential.Name}” is another after signing in.", "ASVS 5.0 V7.2.4", signIn);
            }
        }
    }

    private void Attributes(CapturedCredential credential, TrafficReview review)
    {
        if (credential.SetBy.Count == 0)
        {
            return;
        }

        var (exchange, cookie) = credential.SetBy[^1];
        foreach (var remark in new CookieReview(words).Review(cookie, review.Exchanges[exchange].Started).Where(r => r.Kind is RemarkKind.Broken or RemarkKind.Weak))
        {
            Gather(remark.Subject, credential.Name, remark.Kind, $"“{credential.Name}”: {char.ToLowerInvariant(remark.Text[0])}{remark.Text[1..]}", remark.Source, exchange);
        }
    }

    /// <summary>An answer for one person that a cache may keep for others (RFC 9111, section 3.5, for the Authorization header).</summary>
    private void Cached(TrafficExchange exchange, List<(CapturedCredential Credential, CapturedValue Value)> sent)
    {
        if (sent.Count == 0 || exchange.Method != "GET" || exchange.Status != 200 || !exchange.IsContent)
        {
            return;
        }

        var control = (exchange.Header("Cache-Control") ?? "").ToLowerInvariant();
        var isHeader = sent.TrueForAll(s => s.Credential.Carrier != "cookie");
        if (control.Contains("public", StringComparison.Ordinal) || (!isHeader && control.Contains("max-age", StringComparison.Ordinal) && !control.Contains("private", StringComparison.Ordinal) && !control.Contains("no-store", StringComparison.Ordinal) && !control.Contains("max-age=0", StringComparison.Ordinal)))
        {
            Gather("may be cached", "shared", RemarkKind.Weak, "Answers to a signed-in person may be kept by a shared cache and given to others.", "RFC 9111, sections 3 and 5.2.2", exchange.Index);
        }
        else if (!control.Contains("no-store", StringComparison.Ordinal))
        {
            Gather("may be cached", "browser", RemarkKind.Note, "Answers to a signed-in person stay in the browser’s cache after signing out: no-store is missing.", "ASVS 5.0 V14.3.2", exchange.Index);
        }
    }

    /// <summary>A value that was ended, sent again to where it was good before.</summary>
    private void Accepted(TrafficExchange exchange, List<(CapturedCredential Credential, CapturedValue Value)> sent)
    {
        var isGood = exchange.Status is >= 200 and < 300;
        var key = exchange.Url.Host + " " + exchange.Address;
        foreach (var (_, value) in sent)
        {
            if (isGood && exchange.IsContent && _answered.Contains(key) && value.Ended < exchange.Index && !sent.Exists(s => s.Value.Ended is null))
            {
                value.AcceptedAfter.Add(exchange.Index);
            }
        }

        if (isGood && sent.Exists(s => s.Value.Ended is null))
        {
            _answered.Add(key);
        }
    }

    private void Gather(string subject, string name, RemarkKind kind, string text, string source, params int[] exchanges)
    {
        if (!_gathered.TryGetValue((subject, name), out var known))
        {
            _gathered[(subject, name)] = known = (kind, text, source, []);
        }

        known.Exchanges.AddRange(exchanges.Except(known.Exchanges).Take(Math.Max(0, MostNamed * 10 - known.Exchanges.Count)));
    }
}
