using System.IO.Compression;
using System.Net;
using Bellator.Storage.Reviews;
using Bellator.Testing;
using Bellator.Web.Security;

namespace Bellator.Web.Tests;

/// <summary>The application's own sign-in, sessions, record rules, forms and uploads.</summary>
[Collection("one application at a time")]
public sealed class OwnSecurityTests(TestApp app) : IClassFixture<TestApp>
{
    [Fact]
    public async Task Nobody_signed_in_is_sent_to_sign_in_from_every_route()
    {
        var (review, _) = await app.DemoReviewAsync();
        using var client = await app.ClientAsync();
        foreach (var path in Routes(review, 1, Guid.NewGuid()).Append("/").Append("/account").Append("/sign-out"))
        {
            using var response = await client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.True(response.StatusCode == HttpStatusCode.Redirect && response.Headers.Location!.ToString().Contains("/sign-in", StringComparison.Ordinal), path);
        }
    }

    [Fact]
    public async Task Somebody_elses_review_is_not_found_on_any_route()
    {
        var (review, run) = await app.DemoReviewAsync();
        await app.AddAccountAsync("R. Vetch", "r.vetch@fernhollow.example");
        using var stranger = await app.ClientAsync("r.vetch@fernhollow.example");
        using var member = await app.ClientAsync(DemoData.Email);
        var finding = await FirstFindingAsync();
        foreach (var path in Routes(review, finding, run.Id))
        {
            using var theirs = await stranger.GetAsync(new Uri(path, UriKind.Relative));
            Assert.True(theirs.StatusCode == HttpStatusCode.NotFound, path);
            using var ours = await member.GetAsync(new Uri(path, UriKind.Relative), HttpCompletionOption.ResponseHeadersRead);
            Assert.True(ours.StatusCode == HttpStatusCode.OK, path);
        }

        foreach (var (path, fields) in new (string, Dictionary<string, string>)[]
        {
            ($"/reviews/{review}/findings/{finding}", new() { ["verdict"] = "false positive", ["reason"] = "not mine" }),
            ($"/reviews/{review}/findings?handler=Judge", new() { ["all"] = "1", ["verdict"] = "fixed", ["reason"] = "not mine" }),
            ($"/reviews/{review}/findings?handler=Assign", new() { ["all"] = "1" }),
            ($"/reviews/{review}/findings?handler=Save", new() { ["name"] = "x" }),
            ($"/reviews/{review}/findings/{finding}?handler=Note", new() { ["note"] = "x" }),
            ($"/reviews/{review}/compare?handler=Fixed", new() { ["finding"] = "x" }),
            ($"/reviews/{review}/standards", new() { ["number"] = "V6.2.1", ["state"] = "met", ["reason"] = "x" }),
            ($"/reviews/{review}/report/save", []),
            ($"/reviews/{review}/report/handover", []),
            ($"/reviews/{review}?handler=Audit", []),
            ($"/reviews/{review}?handler=Cancel&run={run.Id}", []),
            ($"/reviews/{review}/passwords?handler=Keep", new() { ["Values"] = "x" }),
            ($"/reviews/{review}/passwords?handler=Forget", []),
            ($"/reviews/{review}/sessions/capture", new() { ["example"] = "sign-in-kept.har", ["keep"] = "true" }),
            ($"/reviews/{review}/sessions/capture?handler=Forget", []),
            ($"/reviews/{review}/sessions/bench?handler=Token", new() { ["Token"] = "x" }),
            ($"/reviews/{review}/sessions/bench?handler=Search", new() { ["Token"] = "x" }),
            ($"/reviews/{review}?handler=AddMember", new() { ["email"] = "r.vetch@fernhollow.example" }),
        })
        {
            using var response = await TestApp.PostAsync(stranger, "/", path, fields);
            Assert.True(response.StatusCode == HttpStatusCode.NotFound, path);
        }
    }

    [Fact]
    public async Task A_finding_of_another_review_is_not_found_through_ones_own()
    {
        await app.AddAccountAsync("S. Rush", "s.rush@fernhollow.example");
        using var client = await app.ClientAsync("s.rush@fernhollow.example");
        using var created = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = "Mine" });
        var finding = await FirstFindingAsync();
        using var response = await client.GetAsync(new Uri($"{created.Headers.Location}/findings/{finding}", UriKind.Relative));
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
    }

    [Fact]
    public async Task A_form_without_its_token_is_refused()
    {
        var (review, _) = await app.DemoReviewAsync();
        using var client = await app.ClientAsync(DemoData.Email);
        foreach (var path in new[] { "/", "/sign-out", "/account?handler=Password", $"/reviews/{review}?handler=Audit", $"/reviews/{review}/findings/{await FirstFindingAsync()}" })
        {
            using var content = new FormUrlEncodedContent([new("Name", "forged")]);
            using var response = await client.PostAsync(new Uri(path, UriKind.Relative), content);
            Assert.True(response.StatusCode == HttpStatusCode.BadRequest, path + " " + response.StatusCode);
        }
    }

    [Fact]
    public async Task Signing_out_ends_the_session_on_the_server()
    {
        var handler = new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false };
        using var raw = new HttpClient(handler) { BaseAddress = new Uri(app.Url) };
        using var page = await raw.GetAsync(new Uri("/sign-in", UriKind.Relative));
        var form = Cookie(page, "__Host-bellator-form");
        using var signIn = new HttpRequestMessage(HttpMethod.Post, "/sign-in")
        {
            Content = new FormUrlEncodedContent([new("email", DemoData.Email), new("password", DemoData.Password), new("__RequestVerificationToken", await TokenAsync(raw, form))]),
        };
        signIn.Headers.Add("Cookie", form);
        using var signedIn = await raw.SendAsync(signIn);
        var set = signedIn.Headers.GetValues("Set-Cookie").Single(c => c.StartsWith("__Host-bellator=", StringComparison.Ordinal));
        Assert.Contains("httponly", set, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("secure", set, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("samesite=strict", set, StringComparison.OrdinalIgnoreCase);
        var session = set.Split(';')[0];
        Assert.Equal(HttpStatusCode.OK, await StatusAsync(raw, session));
        using var signOut = new HttpRequestMessage(HttpMethod.Post, "/sign-out")
        {
            Content = new FormUrlEncodedContent([new("__RequestVerificationToken", await TokenAsync(raw, form + "; " + session, "/"))]),
        };
        signOut.Headers.Add("Cookie", form + "; " + session);
        using var signedOut = await raw.SendAsync(signOut);
        Assert.Equal(HttpStatusCode.Redirect, signedOut.StatusCode);

        // The old cookie, kept by somebody, opens nothing.
        Assert.Equal(HttpStatusCode.Redirect, await StatusAsync(raw, session));
    }

    [Fact]
    public async Task Both_failures_of_sign_in_look_the_same()
    {
        using var client = await app.ClientAsync();
        using var unknown = await TestApp.PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = "nobody@fernhollow.example", ["password"] = "wrong wrong wrong" });
        using var known = await TestApp.PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = "t.alder@fernhollow.example", ["password"] = "wrong wrong wrong" });
        Assert.Equal(unknown.StatusCode, known.StatusCode);
        Assert.Equal(Message(await unknown.Content.ReadAsStringAsync()), Message(await known.Content.ReadAsStringAsync()));
    }

    [Fact]
    public async Task A_return_address_outside_is_not_followed()
    {
        using var client = await app.ClientAsync();
        using var response = await TestApp.PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = DemoData.Email, ["password"] = DemoData.Password, ["next"] = "//elsewhere.example/" });
        Assert.Equal("/", response.Headers.Location!.ToString());
    }

    [Fact]
    public async Task Every_answer_carries_the_headers()
    {
        using var client = await app.ClientAsync();
        foreach (var path in new[] { "/sign-in", "/css/bellator.css", "/nothing-here" })
        {
            using var response = await client.GetAsync(new Uri(path, UriKind.Relative));
            Assert.Equal(SecurityHeaders.Policy, response.Headers.GetValues("Content-Security-Policy").Single());
            Assert.Equal("nosniff", response.Headers.GetValues("X-Content-Type-Options").Single());
            Assert.False(response.Headers.Contains("Server"));
        }
    }

    [Theory]
    [InlineData("../../evil.php", "a path that is not safe")]
    [InlineData("evil.exe", "no reader")]
    public async Task A_hostile_upload_is_refused_with_a_reason(string entry, string reason)
    {
        var (status, html) = await UploadAsync(Zip((entry, "<?php"u8.ToArray())));
        Assert.Equal(HttpStatusCode.Redirect, status);
        Assert.Contains(reason, html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_archive_bomb_is_refused()
    {
        var zeros = new byte[1024 * 1024];
        var (_, html) = await UploadAsync(Zip([.. Enumerable.Range(0, 40).Select(i => ($"f{i}.php", zeros))]));
        Assert.Contains("archive bomb", html, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_uploaded_is_shown_escaped()
    {
        var (status, _) = await UploadAsync(Zip(("<img src=x onerror=alert(1)>.php", "<?php mysqli_query($c, \"<script>alert(1)</script>\" . $_GET['a']);"u8.ToArray())), "t.alder@fernhollow.example", out var review);
        Assert.Equal(HttpStatusCode.Redirect, status);
        using var client = await app.ClientAsync("t.alder@fernhollow.example");
        var html = await client.GetStringAsync(new Uri(review, UriKind.Relative));
        Assert.DoesNotContain("<img src=x", html, StringComparison.Ordinal);
        var file = await client.GetStringAsync(new Uri(review + "/file?path=" + Uri.EscapeDataString("<img src=x onerror=alert(1)>.php"), UriKind.Relative));
        Assert.DoesNotContain("<script>alert", file, StringComparison.Ordinal);
        Assert.Contains("&lt;script&gt;alert", file, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Accounts_cannot_be_made_by_strangers_once_there_is_one()
    {
        using var client = await app.ClientAsync();
        using var response = await client.GetAsync(new Uri("/first-account", UriKind.Relative));
        Assert.Equal(HttpStatusCode.NotFound, response.StatusCode);
    }

    private static IEnumerable<string> Routes(Guid review, long finding, Guid run) =>
    [
        $"/reviews/{review}", $"/reviews/{review}/findings", $"/reviews/{review}/findings/{finding}", $"/reviews/{review}/file?path=portal%2Flib%2Fdb.php",
        $"/reviews/{review}/report", $"/reviews/{review}/report/file?form=html", $"/reviews/{review}/report/file?form=verdicts&secrets=true", $"/reviews/{review}/standards", $"/reviews/{review}/compare", $"/reviews/{review}/verdicts/events", $"/reviews/{review}/sarif", $"/reviews/{review}/runs/{run}/events",
    ];

    private async Task<long> FirstFindingAsync()
    {
        var (_, run) = await app.DemoReviewAsync();
        await using var scope = await app.Cluster.Database.OpenAsAsync((await app.AccountAsync(DemoData.Email)).Id);
        return (await new FindingTable(scope).AfterAsync(run.Id, new(), -1))[0].Id;
    }

    private Task<(HttpStatusCode Status, string Html)> UploadAsync(byte[] zip) => UploadAsync(zip, DemoData.Email, out _);

    private Task<(HttpStatusCode Status, string Html)> UploadAsync(byte[] zip, string email, out string review)
    {
        var client = app.ClientAsync(email).GetAwaiter().GetResult();
        using var created = TestApp.PostAsync(client, "/", "/", new() { ["Name"] = "Upload" }).GetAwaiter().GetResult();
        review = created.Headers.Location!.ToString();
        return SendAsync(client, review, zip);
    }

    private static async Task<(HttpStatusCode Status, string Html)> SendAsync(HttpClient client, string review, byte[] zip)
    {
        using var content = new MultipartFormDataContent
        {
            { new StringContent(await TestApp.TokenAsync(client, review)), "__RequestVerificationToken" },
            { new ByteArrayContent(zip), "files", "code.zip" },
        };
        using var response = await client.PostAsync(new Uri(review + "?handler=Upload", UriKind.Relative), content);
        for (var tries = 0; ; tries++)
        {
            // What was handed in is taken apart after the request.
            var html = await client.GetStringAsync(new Uri(review, UriKind.Relative));
            if (!html.Contains("data-state=\"reading\"", StringComparison.Ordinal) || tries > 100)
            {
                return (response.StatusCode, WebUtility.HtmlDecode(html));
            }

            await Task.Delay(100);
        }
    }

    private static byte[] Zip(params (string Path, byte[] Content)[] files)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, content) in files)
            {
                using var entry = zip.CreateEntry(path, CompressionLevel.SmallestSize).Open();
                entry.Write(content);
            }
        }

        return stream.ToArray();
    }

    private static string Cookie(HttpResponseMessage response, string name) =>
        response.Headers.GetValues("Set-Cookie").Single(c => c.StartsWith(name + "=", StringComparison.Ordinal)).Split(';')[0];

    private static async Task<string> TokenAsync(HttpClient client, string cookies, string page = "/sign-in")
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, page);
        request.Headers.Add("Cookie", cookies);
        using var response = await client.SendAsync(request);
        return System.Text.RegularExpressions.Regex.Match(await response.Content.ReadAsStringAsync(), "name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"").Groups[1].Value;
    }

    private static async Task<HttpStatusCode> StatusAsync(HttpClient client, string cookie)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, "/");
        request.Headers.Add("Cookie", cookie);
        using var response = await client.SendAsync(request);
        return response.StatusCode;
    }

    private static string Message(string html) => System.Text.RegularExpressions.Regex.Match(html, "role=\"alert\">([^<]+)<").Groups[1].Value;
}
