using Bellator.Analysis.Libraries;
using Bellator.Tokens;
using Bellator.Tokens.Cookies;
using Microsoft.Net.Http.Headers;

namespace Bellator.Core.Tests.Tokens;

public sealed class CookieTests
{
    private static readonly DateTimeOffset Now = new(2026, 1, 1, 12, 0, 0, TimeSpan.Zero);
    private static readonly CookieReview Review = new(new IdentifierClassifier(LibraryModels.Shipped));

    /// <summary>The rules of RFC 6265bis (draft-ietf-httpbis-rfc6265bis), as a table.</summary>
    [Theory]
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax; Path=/", "", "")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; HttpOnly; SameSite=Lax", "Secure", "Weak")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; SameSite=Lax", "HttpOnly", "Weak")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly", "SameSite", "Weak")] // 5.6.7.2
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Whatever", "SameSite", "Weak")] // 5.6.7: unknown is Default
    [InlineData("sid=0123456789abcdef0123456789abcdef; HttpOnly; SameSite=None", "SameSite", "Broken")] // 5.7, step 19 in draft 20
    [InlineData("__Host-sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax", "name", "Broken")] // 4.1.3.2: no Path
    [InlineData("__Host-sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax; Path=/; Domain=fernhollow.example", "name", "Broken")]
    [InlineData("__host-sid=0123456789abcdef0123456789abcdef; HttpOnly; SameSite=Lax; Path=/", "name", "Broken")] // the case of a prefix does not matter
    [InlineData("__Secure-sid=0123456789abcdef0123456789abcdef; HttpOnly; SameSite=Lax", "name", "Broken")] // 4.1.3.1
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax; Domain=.fernhollow.example", "Domain", "Weak")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax; Max-Age=63072000", "Expires", "Weak")] // 5.5: 400 days
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; HttpOnly; SameSite=Lax; Partitioned", "", "")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; HttpOnly; SameSite=Lax; Partitioned", "Partitioned", "Broken")]
    [InlineData("sid=0123456789abcdef0123456789abcdef; Secure; Http-Only; SameSite=Lax", "attributes", "Weak")]
    [InlineData("sid=48213; Secure; HttpOnly; SameSite=Lax", "value", "Weak")]
    [InlineData("theme=dark; Path=/", "", "")]
    public void Attributes_are_judged(string line, string subject, string kind)
    {
        var bad = Review.Review(SetCookie.Read(line), Now).Where(r => r.Kind is RemarkKind.Broken or RemarkKind.Weak).ToList();
        if (subject.Length == 0)
        {
            Assert.Empty(bad);
        }
        else
        {
            Assert.Contains(bad, r => r.Subject == subject && r.Kind.ToString() == kind);
        }
    }

    [Theory]
    [InlineData("sid=; Max-Age=0")]
    [InlineData("sid=x; Max-Age=-1")]
    [InlineData("sid=x; Expires=Thu, 01 Jan 1970 00:00:00 GMT")]
    public void Clearing_is_seen(string line) => Assert.True(SetCookie.Read(line).Clears(Now));

    [Fact]
    public void Max_age_goes_before_expires() => Assert.False(SetCookie.Read("sid=x; Max-Age=60; Expires=Thu, 01 Jan 1970 00:00:00 GMT").Clears(Now));

    /// <summary>As .NET’s own parser of Set-Cookie reads them (Microsoft.Net.Http.Headers.SetCookieHeaderValue).</summary>
    [Theory]
    [InlineData("sid=abc; path=/; secure; httponly; samesite=strict")]
    [InlineData("sid=abc; Path=/apiaries; Max-Age=3600; SameSite=Lax")]
    [InlineData("sid=abc; Domain=fernhollow.example; Expires=Wed, 21 Oct 2026 07:28:00 GMT; Secure")]
    [InlineData("sid=abc; Expires=Wed, 21-Oct-2026 07:28:00 GMT")]
    [InlineData("a=b")]
    [InlineData("sid=abc; samesite=none; secure")]
    public void Attributes_are_read_as_another_parser_reads_them(string line)
    {
        var other = SetCookieHeaderValue.Parse(line);
        var ours = SetCookie.Read("Set-Cookie: " + line);
        Assert.Equal(
            (other.Name.ToString(), other.Value.ToString(), other.Secure, other.HttpOnly, other.Domain.Value, other.Path.Value, (long?)other.MaxAge?.TotalSeconds, other.Expires, other.SameSite.ToString().Replace("Unspecified", "Default", StringComparison.Ordinal)),
            (ours.Name, ours.Value, ours.IsSecure, ours.IsHttpOnly, ours.Domain, ours.Path, ours.MaxAge, ours.Expires, ours.SameSite.ToString()));
    }

    /// <summary>Dates of the examples and grammar of RFC 6265, section 5.1.1.</summary>
    [Theory]
    [InlineData("Sun, 06 Nov 1994 08:49:37 GMT", "1994-11-06T08:49:37")]
    [InlineData("Sunday, 06-Nov-94 08:49:37 GMT", "1994-11-06T08:49:37")]
    [InlineData("Sun Nov  6 08:49:37 1994", "1994-11-06T08:49:37")]
    [InlineData("6 nov 26 8:49:37", "2026-11-06T08:49:37")]
    [InlineData("31 Feb 2026 08:49:37", null)]
    [InlineData("06 Nov 2026 25:49:37", null)]
    [InlineData("06 Nov 1600 08:49:37", null)]
    [InlineData("tomorrow", null)]
    public void Dates_are_read_as_leniently_as_the_standard_says(string text, string? expected) =>
        Assert.Equal(expected, SetCookie.Read("a=b; Expires=" + text).Expires?.ToString("s", System.Globalization.CultureInfo.InvariantCulture));

    [Theory]
    [InlineData("")]
    [InlineData("=")]
    [InlineData("a=b\u0001c")]
    public void What_browsers_drop_is_refused(string line) => Assert.Throws<TokenFormatException>(() => SetCookie.Read(line));

    [Fact]
    public void Too_long_a_cookie_is_refused() => Assert.Throws<TokenFormatException>(() => SetCookie.Read("a=" + new string('b', 4096)));
}
