using System.Globalization;
using Bellator.Analysis.Libraries;
using Bellator.Tokens.Jwt;
using Bellator.Tokens.Samples;
using Bellator.Tokens.Traffic;

namespace Bellator.Tokens.Cookies;

/// <summary>Judges a <c>Set-Cookie</c> line attribute by attribute.</summary>
public sealed class CookieReview(IdentifierClassifier words)
{
    private const string Standard = "RFC 6265bis";

    /// <summary>Browsers keep a cookie no longer (RFC 6265bis, section 5.5).</summary>
    private static readonly TimeSpan LongestLife = TimeSpan.FromDays(400);

    private static readonly TimeSpan LongSession = TimeSpan.FromDays(30);

    /// <summary>The name tells of something that opens an account; others are held to less.</summary>
    public bool IsCredential(SetCookie cookie) => CredentialNames.Tells(words, cookie.Name);

    public IReadOnlyList<TokenRemark> Review(SetCookie cookie, DateTimeOffset now)
    {
        var remarks = new List<TokenRemark>();
        if (cookie.Clears(now))
        {
            Prefix(cookie, remarks);
            remarks.Add(new(RemarkKind.Note, "Expires", "It clears the cookie. The browser only does so where name, Domain and Path are those it was set with.", Standard + ", section 5.7"));
            return remarks;
        }

        var weak = IsCredential(cookie) ? RemarkKind.Weak : RemarkKind.Note;
        remarks.Add(cookie.IsSecure
            ? new(RemarkKind.Good, "Secure", "It only goes over HTTPS.", Standard + ", section 4.1.2.5")
            : new(weak, "Secure", "It goes over plain HTTP too, where everybody on the way reads it.", "ASVS 5.0 V3.3.1"));
        remarks.Add(cookie.IsHttpOnly
            ? new(RemarkKind.Good, "HttpOnly", "Scripts cannot read it.", Standard + ", section 4.1.2.6")
            : new(weak, "HttpOnly", "Scripts can read it: one injected script takes it away.", "ASVS 5.0 V3.3.4"));
        remarks.Add(Site(cookie, weak));
        Prefix(cookie, remarks);
        Reach(cookie, remarks, weak);
        remarks.Add(Life(cookie, now, weak));
        if (cookie.IsPartitioned && !cookie.IsSecure)
        {
            remarks.Add(new(RemarkKind.Broken, "Partitioned", "Partitioned needs Secure: browsers drop the cookie.", "draft CHIPS, section 2.1 (from memory)"));
        }

        foreach (var ignored in cookie.Ignored)
        {
            remarks.Add(new(RemarkKind.Weak, "attributes", $"“{ignored}” is not an attribute that browsers read; they pass over it.", Standard + ", section 5.6"));
        }

        Value(cookie, remarks);
        return remarks;
    }

    private static TokenRemark Site(SetCookie cookie, RemarkKind weak) => cookie.SameSite switch
    {
        SameSite.None when !cookie.IsSecure => new(RemarkKind.Broken, "SameSite", "SameSite=None needs Secure: browsers drop the cookie.", Standard + ", section 5.7"),
        SameSite.None => new(weak, "SameSite", "Requests that other sites cause carry it: every change needs protection against forgery of its own.", "ASVS 5.0 V3.3.2"),
        SameSite.Lax => new(RemarkKind.Good, "SameSite", "Lax: requests from other sites carry it only where a link leads here, by GET. What GET changes can still be forged.", Standard + ", section 5.2"),
        SameSite.Strict => new(RemarkKind.Good, "SameSite", "Strict: no request from another site carries it.", Standard + ", section 5.2"),
        _ when cookie.SameSiteText is { } text => new(RemarkKind.Weak, "SameSite", $"“{text}” is not one of Strict, Lax and None: it counts as if it were not there.", Standard + ", section 5.6.7"),
        _ => new(weak, "SameSite", "Not set: what happens is the browser’s choice. Some send it with a cross-site POST for two minutes after it was set, some always.", Standard + ", sections 5.6.7.2 and 8.8"),
    };

    private static void Prefix(SetCookie cookie, List<TokenRemark> remarks)
    {
        if (cookie.Name.StartsWith("__Host-", StringComparison.OrdinalIgnoreCase))
        {
            var missing = new[] { (cookie.IsSecure, "Secure"), (cookie.Path == "/", "Path=/"), (cookie.Domain is null, "no Domain") }.Where(r => !r.Item1).Select(r => r.Item2).ToList();
            remarks.Add(missing.Count == 0
                ? new(RemarkKind.Good, "name", "The prefix __Host- ties it to this host: no neighbour can set it.", Standard + ", section 4.1.3.2")
                : new(RemarkKind.Broken, "name", $"A name with __Host- needs {string.Join(" and ", missing)}: browsers drop the cookie.", Standard + ", section 4.1.3.2"));
        }
        else if (cookie.Name.StartsWith("__Secure-", StringComparison.OrdinalIgnoreCase))
        {
            remarks.Add(cookie.IsSecure
                ? new(RemarkKind.Good, "name", "The prefix __Secure-: it can only be set over HTTPS.", Standard + ", section 4.1.3.1")
                : new(RemarkKind.Broken, "name", "A name with __Secure- needs Secure: browsers drop the cookie.", Standard + ", section 4.1.3.1"));
        }
    }

    private static void Reach(SetCookie cookie, List<TokenRemark> remarks, RemarkKind weak)
    {
        if (cookie.Domain is { } domain)
        {
            remarks.Add(new(weak, "Domain", $"Every host below {domain} gets it, and can set one of the same name.", Standard + ", section 4.1.2.3"));
        }

        if (cookie.Path is { Length: > 1 } path)
        {
            remarks.Add(new(RemarkKind.Note, "Path", $"It is sent below {path}. That is no protection: a page of another path on this host can get at it.", Standard + ", section 8.6"));
        }
    }

    private static TokenRemark Life(SetCookie cookie, DateTimeOffset now, RemarkKind weak)
    {
        var life = cookie.MaxAge is { } age ? TimeSpan.FromSeconds(Math.Min(age, int.MaxValue)) : cookie.Expires - now;
        if (life is not { } lasting)
        {
            return new(RemarkKind.Good, "Expires", "It ends with the browser’s session; browsers that restore tabs keep it longer. What ends it on the server is another matter.", Standard + ", section 5.7");
        }

        var text = JwtReview.Span(lasting.TotalSeconds);
        return lasting > LongestLife ? new(weak, "Expires", $"It is to last {text}; browsers keep it for 400 days at most.", Standard + ", section 5.5")
            : lasting > LongSession ? new(weak, "Expires", $"It lasts {text} in every browser in which it was left.", TokenRemark.CommonPractice)
            : new(RemarkKind.Note, "Expires", $"It lasts {text}.", Standard + ", section 4.1.2.2");
    }

    private void Value(SetCookie cookie, List<TokenRemark> remarks)
    {
        if (cookie.Value.Length == 0)
        {
            return;
        }

        if (IdStructure.Of(cookie.Value) is { } structure)
        {
            remarks.Add(new(structure.IsGuessable && IsCredential(cookie) ? RemarkKind.Weak : RemarkKind.Note, "value", $"The value is {structure.Name}{(structure.Detail.Length > 0 ? ": " + structure.Detail : "")}.", structure.Source));
        }
        else if (IsCredential(cookie) && SampleAlphabet.Of(cookie.Value) is { } alphabet && cookie.Value.Length * alphabet.Bits < EntropyRating.LeastBits)
        {
            remarks.Add(new(RemarkKind.Weak, "value", string.Create(CultureInfo.InvariantCulture, $"{cookie.Value.Length} characters of {alphabet.Name} hold {cookie.Value.Length * alphabet.Bits:0} bits at most; {EntropyRating.LeastBits} are asked for."), EntropyRating.LeastSource));
        }
    }
}
