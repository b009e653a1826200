using System.Text;
using System.Text.Json;
using Bellator.Analysis.Libraries;
using Bellator.Tokens;
using Bellator.Tokens.Traffic;

namespace Bellator.Core.Tests.Tokens;

/// <summary>Captures are written here by hand in the layout of HTTP Archive 1.2.</summary>
public sealed class TrafficTests
{
    private const string A = "0123456789abcdef0123456789abcdef";
    private const string B = "fedcba9876543210fedcba9876543210";
    private static readonly IdentifierClassifier Words = new(LibraryModels.Shipped);

    [Fact]
    public void An_id_that_stays_over_sign_in_is_told()
    {
        var review = Review(
            Get("/", setCookie: $"sid={A}; Secure; HttpOnly; SameSite=Lax"),
            SignIn(cookie: $"sid={A}"),
            Get("/hives", cookie: $"sid={A}"));
        var remark = Assert.Single(review.Remarks, r => r.Subject == "id kept over sign-in");
        Assert.Equal(RemarkKind.Broken, remark.Kind);
        Assert.Equal([0, 1, 2], remark.Exchanges);
        Assert.Equal(TrafficEventKind.SignIn, Assert.Single(review.Events).Kind);
    }

    [Fact]
    public void An_id_that_is_renewed_is_not()
    {
        var review = Review(
            Get("/", setCookie: $"sid={A}; Secure; HttpOnly; SameSite=Lax"),
            SignIn(cookie: $"sid={A}", setCookie: $"sid={B}; Secure; HttpOnly; SameSite=Lax"),
            Get("/hives", cookie: $"sid={B}"));
        Assert.DoesNotContain(review.Remarks, r => r.Subject == "id kept over sign-in");
        Assert.Contains(review.Remarks, r => r.Subject == "id renewed" && r.Kind == RemarkKind.Good);
        var credential = Assert.Single(review.Credentials);
        Assert.Equal([("A", 1), ("B", (int?)null)], credential.Values.Select(v => (v.Label, v.Replaced)));
    }

    [Fact]
    public void A_second_cookie_at_sign_in_leaves_it_open_which_decides() =>
        Assert.Equal(RemarkKind.Unclear, Assert.Single(Review(Get("/", setCookie: $"sid={A}"), SignIn(cookie: $"sid={A}", setCookie: $"auth={B}"), Get("/hives", cookie: $"sid={A}; auth={B}")).Remarks, r => r.Subject == "id kept over sign-in").Kind);

    [Fact]
    public void A_sign_in_that_leads_back_to_itself_is_none() =>
        Assert.Empty(Review(Get("/", setCookie: $"sid={A}"), SignIn(cookie: $"sid={A}", location: "/sign-in?again"), Get("/hives", cookie: $"sid={A}")).Events);

    [Fact]
    public void A_value_that_is_still_good_after_sign_out_is_told()
    {
        var review = Review(
            SignIn(setCookie: $"sid={A}"),
            Get("/hives", cookie: $"sid={A}"),
            Get("/sign-out", cookie: $"sid={A}", setCookie: "sid=; Max-Age=0", status: 302, location: "/"),
            Get("/hives", cookie: $"sid={A}"));
        Assert.Contains(review.Remarks, r => r.Subject == "accepted after its end" && r.Kind == RemarkKind.Broken && r.Exchanges.SequenceEqual([2, 3]));
    }

    [Theory]
    [InlineData(302, "/sign-in")]
    [InlineData(401, null)]
    public void One_that_is_refused_after_sign_out_is_not(int status, string? location) =>
        Assert.DoesNotContain(
            Review(SignIn(setCookie: $"sid={A}"), Get("/hives", cookie: $"sid={A}"), Get("/sign-out", cookie: $"sid={A}", setCookie: "sid=; Max-Age=0"), Get("/hives", cookie: $"sid={A}", status: status, location: location)).Remarks,
            r => r.Subject == "accepted after its end");

    [Fact]
    public void A_token_in_an_answer_is_followed_into_the_header_after_sign_out_too()
    {
        var review = Review(
            SignIn(json: $$"""{"user":{"name":"x"},"access_token":"{{A}}"}"""),
            Get("/api/hives", bearer: A),
            Post("/api/logout", bearer: A),
            Get("/api/hives", bearer: A));
        var credential = Assert.Single(review.Credentials);
        Assert.Equal(("access_token", "body"), (credential.Name, credential.Carrier));
        Assert.Contains(review.Remarks, r => r.Subject == "accepted after its end");
    }

    [Fact]
    public void Of_several_that_are_sent_together_it_is_not_said_which() =>
        Assert.Contains(
            Review(SignIn(setCookie: $"sid={A}"), Get("/hives", cookie: $"sid={A}; auth={B}"), Get("/logout", cookie: $"sid={A}; auth={B}"), Get("/hives", cookie: $"sid={A}; auth={B}")).Remarks,
            r => r.Subject == "accepted after its end" && r.Text.StartsWith("“sid” (value A) or “auth” (value A) is", StringComparison.Ordinal));

    [Theory]
    [InlineData("http://fernhollow.example/hives", "plain HTTP")]
    [InlineData("https://fernhollow.example/hives?access_token=" + A, "in the URL")]
    public void Where_a_credential_should_not_travel(string url, string subject)
    {
        var review = Review(SignIn(setCookie: $"sid={A}"), Get(url, cookie: $"sid={A}"));
        Assert.Contains(review.Remarks, r => r.Subject == subject);
    }

    [Fact]
    public void A_loopback_address_is_no_plain_http() => Assert.DoesNotContain(Review(Get("http://127.0.0.1:8080/hives", cookie: $"sid={A}")).Remarks, r => r.Subject == "plain HTTP");

    [Fact]
    public void A_referer_with_the_value_is_told() =>
        Assert.Contains(Review(Get("/", setCookie: $"sid={A}"), Get("https://elsewhere.example/pixel.gif", referer: $"https://fernhollow.example/hives?sid={A}")).Remarks, r => r.Subject == "in a Referer");

    [Theory]
    [InlineData("public, max-age=600", RemarkKind.Weak)]
    [InlineData("max-age=600", RemarkKind.Weak)]
    [InlineData("private, max-age=600", RemarkKind.Note)]
    [InlineData("", RemarkKind.Note)]
    [InlineData("no-store", null)]
    public void Private_answers_that_may_be_kept(string cacheControl, RemarkKind? expected) =>
        Assert.Equal(expected, Review(SignIn(setCookie: $"sid={A}; Secure; HttpOnly; SameSite=Lax"), Get("/hives", cookie: $"sid={A}", cacheControl: cacheControl)).Remarks.FirstOrDefault(r => r.Subject == "may be cached")?.Kind);

    [Theory]
    [InlineData("[]")]
    [InlineData("{\"log\":{}}")]
    [InlineData("{\"log\":{\"entries\":[{\"request\":")]
    [InlineData("not json")]
    [InlineData("")]
    public void What_is_no_capture_is_refused(string text) => Assert.Throws<TokenFormatException>(() => TrafficReview.Of(new StringReader(text), Words));

    [Theory]
    [InlineData("""{"log":{"version":"1.2","entries":[7,{"request":null,"response":3}]}}""")]
    [InlineData("""{"log":{"version":"1.2","creator":{"entries":[1]},"entries":[{"request":{"url":["x"],"headers":{}},"response":{}}, {"request":{"url":"https://a.example/","headers":[1,null,{"name":5}],"postData":[]},"response":{"status":"200","content":"x"}}]}}""")]
    public void Odd_entries_are_passed_over(string text) => Assert.True(TrafficReview.Of(new StringReader(text), Words).Exchanges.Count <= 1);

    [Fact]
    public void Nesting_has_an_end() => Assert.Throws<TokenFormatException>(() => TrafficReview.Of(new StringReader("{\"log\":{\"entries\":[{\"request\":" + new string('[', 5000)), Words));

    private static object Get(string path, string? cookie = null, string? setCookie = null, string? bearer = null, string? referer = null, string cacheControl = "no-store", int status = 200, string? location = null) =>
        Entry("GET", path, cookie, setCookie, bearer, referer, cacheControl, status, location, null, null);

    private static object Post(string path, string? bearer = null) => Entry("POST", path, null, null, bearer, null, "no-store", 204, null, null, null);

    private static object SignIn(string? cookie = null, string? setCookie = null, string location = "/hives", string? json = null) =>
        Entry("POST", "/sign-in", cookie, setCookie, null, null, "no-store", json is null ? 302 : 200, json is null ? location : null, "email=a%40fernhollow.example&password=propolis", json);

    private static object Entry(string method, string path, string? cookie, string? setCookie, string? bearer, string? referer, string cacheControl, int status, string? location, string? form, string? json)
    {
        static object[] Headers(params (string Name, string? Value)[] all) => [.. all.Where(h => h.Value is not null).Select(h => new { name = h.Name, value = h.Value })];
        return new
        {
            startedDateTime = "2026-01-01T12:00:00.000Z",
            request = new { method, url = path.StartsWith('/') ? "https://fernhollow.example" + path : path, headers = Headers(("Cookie", cookie), ("Authorization", bearer is null ? null : "Bearer " + bearer), ("Referer", referer)), postData = form is null ? null : new { mimeType = "application/x-www-form-urlencoded", text = form } },
            response = new { status, headers = Headers(("Set-Cookie", setCookie), ("Location", location), ("Cache-Control", cacheControl), ("Content-Type", json is null ? "text/html" : "application/json")), content = new { text = json ?? "", mimeType = "" } },
        };
    }

    private static TrafficReview Review(params object[] entries) =>
        TrafficReview.Of(new StreamReader(new MemoryStream(Encoding.UTF8.GetBytes(JsonSerializer.Serialize(new { log = new { version = "1.2", creator = new { name = "by hand", version = "1" }, pages = new[] { new { id = "p" } }, entries } })))), Words);
}
