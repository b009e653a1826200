using System.Diagnostics;
using System.Net;
using System.Text.RegularExpressions;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Testing;

namespace Bellator.Web.Tests;

/// <summary>Guessing passwords, living on in old sessions, and making weak accounts, over HTTP as a visitor does it.</summary>
[Collection("one application at a time")]
public sealed partial class GuessingTests(TestApp app) : IClassFixture<TestApp>
{
    private const string Wrong = "none of these words fit";

    [Fact]
    public async Task Guesses_at_once_are_counted_and_a_known_device_still_gets_in()
    {
        await app.AddAccountAsync("H. Teasel", "h.teasel@fernhollow.example");
        using var known = await app.ClientAsync("h.teasel@fernhollow.example");
        using (await TestApp.PostAsync(known, "/", "/sign-out", []))
        {
        }

        using var stranger = await app.ClientAsync();
        var token = await TestApp.TokenAsync(stranger, "/sign-in");
        await Task.WhenAll(Enumerable.Range(0, 25).Select(async _ =>
        {
            using var content = new FormUrlEncodedContent([new("__RequestVerificationToken", token), new("email", "h.teasel@fernhollow.example"), new("password", Wrong)]);
            using var response = await stranger.PostAsync(new Uri("/sign-in", UriKind.Relative), content);
        }));

        // Only the first few were looked at; what strangers tried does not hold the owner's own browser up.
        var (judged, early) = await LoggedAsync("h.teasel@fernhollow.example");
        Assert.InRange(judged, 5, 9);
        Assert.Equal(25, judged + early);
        using var owner = await SignInAsync(known, "h.teasel@fernhollow.example", DemoData.Password);
        Assert.Equal(HttpStatusCode.Redirect, owner.StatusCode);
    }

    [Fact]
    public async Task Unknown_wrong_and_early_take_the_same_time_and_words()
    {
        await app.AddAccountAsync("N. Burnet", "n.burnet@fernhollow.example");
        using var client = await app.ClientAsync();
        var unknown = await MeasuredAsync(client, "nobody.at.all@fernhollow.example");
        var wrong = await MeasuredAsync(client, "n.burnet@fernhollow.example");
        for (var i = 0; i < 5; i++)
        {
            await MeasuredAsync(client, "n.burnet@fernhollow.example");
        }

        var early = await MeasuredAsync(client, "n.burnet@fernhollow.example");
        Assert.Equal(unknown.Words, wrong.Words);
        Assert.Equal(unknown.Words, early.Words);

        // Looking at a password is what takes the time; without it an answer comes in a few milliseconds.
        var least = new[] { unknown.Time, wrong.Time, early.Time }.Min();
        Assert.True(least > TimeSpan.FromMilliseconds(15), $"unknown {unknown.Time}, wrong {wrong.Time}, early {early.Time}");
    }

    [Fact]
    public async Task Signing_in_over_a_session_gives_a_new_one_and_ends_the_old()
    {
        await app.AddAccountAsync("L. Sorrel", "l.sorrel@fernhollow.example");
        using var client = CookieHandler.Client(app.Url, out var cookies);
        using (await SignInAsync(client, "t.alder@fernhollow.example", DemoData.Password))
        {
        }

        var before = cookies.Cookies["__Host-bellator"];

        // The form's token belongs to whoever is signed in, as another page of theirs gives it.
        using var second = await TestApp.PostAsync(client, "/account", "/sign-in", new() { ["email"] = "l.sorrel@fernhollow.example", ["password"] = DemoData.Password });
        Assert.Equal(HttpStatusCode.Redirect, second.StatusCode);
        Assert.NotEqual(before, cookies.Cookies["__Host-bellator"]);
        Assert.Contains("L. Sorrel", await client.GetStringAsync(new Uri("/account", UriKind.Relative)), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.Redirect, await StatusAsync(before));
    }

    [Fact]
    public async Task A_new_password_ends_every_session_and_its_guessing_is_bounded()
    {
        await app.AddAccountAsync("O. Clover", "o.clover@fernhollow.example");
        using var owner = await app.ClientAsync("o.clover@fernhollow.example");
        using var thief = await app.ClientAsync("o.clover@fernhollow.example");
        string? said = null;
        for (var i = 0; i < 8; i++)
        {
            using var guess = await TestApp.PostAsync(thief, "/account", "/account?handler=Password", new() { ["current"] = Wrong + i, ["password"] = "seven dark hives by the river" });
            said = Message(await guess.Content.ReadAsStringAsync());
        }

        Assert.Contains("too many wrong tries", said, StringComparison.Ordinal);
        await Task.Delay(TimeSpan.FromSeconds(5));
        using var changed = await TestApp.PostAsync(owner, "/account", "/account?handler=Password", new() { ["current"] = DemoData.Password, ["password"] = "seven dark hives by the river" });
        Assert.Equal(HttpStatusCode.Redirect, changed.StatusCode);
        foreach (var client in new[] { owner, thief })
        {
            using var response = await client.GetAsync(new Uri("/", UriKind.Relative));
            Assert.Equal(HttpStatusCode.Redirect, response.StatusCode);
        }

        using var again = await app.ClientAsync("o.clover@fernhollow.example", "seven dark hives by the river");
        Assert.Equal(HttpStatusCode.OK, (await again.GetAsync(new Uri("/", UriKind.Relative))).StatusCode);
    }

    [Theory]
    [InlineData("aaaaaaaaaaaaaaaa", "tried first")]
    [InlineData("password12345678", "tried first")]
    [InlineData("qwertyuiopasdfgh", "tried first")]
    [InlineData("M. Campion 2026!", "tried first")]
    [InlineData("abcdefghijklmnopq", "tried first")]
    [InlineData("too short", "15 to 128")]
    public async Task Weak_passwords_are_refused_as_strictly_as_others_are_told_to(string password, string says)
    {
        using var client = await app.ClientAsync("t.alder@fernhollow.example");
        using var response = await TestApp.PostAsync(client, "/account", "/account?handler=Colleague", new() { ["name"] = "M. Campion", ["email"] = "m.campion@fernhollow.example", ["initial"] = password });
        Assert.Contains(says, Message(await response.Content.ReadAsStringAsync()), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("a@fernhollow.example\r\nBcc: b@fernhollow.example")]
    [InlineData("a@fernhollow.example\n")]
    [InlineData("A B <a@fernhollow.example>")]
    [InlineData("a b@fernhollow.example")]
    [InlineData("no address")]
    public async Task Addresses_with_more_in_them_are_refused(string email)
    {
        using var client = await app.ClientAsync("t.alder@fernhollow.example");
        using var response = await TestApp.PostAsync(client, "/account", "/account?handler=Colleague", new() { ["name"] = "X", ["email"] = email, ["initial"] = DemoData.Password });
        var said = Message(await response.Content.ReadAsStringAsync());
        Assert.True(said.Contains("e-mail address", StringComparison.Ordinal) || email.EndsWith('\n'), said);
    }

    [Fact]
    public async Task A_progress_stream_ends_with_its_session()
    {
        var (review, _) = await app.DemoReviewAsync();
        using var client = await app.ClientAsync("t.alder@fernhollow.example");
        var marsh = await app.AccountAsync(DemoData.Email);
        Guid run;
        await using (var scope = await app.Cluster.Database.OpenAsAsync(marsh.Id))
        {
            run = await new RunTable(scope).QueueAsync(review, (await new SnapshotTable(scope).ListAsync(review))[0].Id);
            await scope.CommitAsync();
        }

        await using (var connection = await app.Cluster.Database.Worker.OpenConnectionAsync())
        {
            // Somebody has it, and says so for the next minutes.
            await Sql.Command(connection, "UPDATE run SET state = 'running', heartbeat_at = now() + interval '5 minutes' WHERE id = $1", run).RunAsync();
        }

        using var response = await client.GetAsync(new Uri($"/reviews/{review}/runs/{run}/events", UriKind.Relative), HttpCompletionOption.ResponseHeadersRead);
        using var reader = new StreamReader(await response.Content.ReadAsStreamAsync());
        Assert.StartsWith("data:", await reader.ReadLineAsync(), StringComparison.Ordinal);
        using (await TestApp.PostAsync(client, "/account", "/sign-out", []))
        {
        }

        var watch = Stopwatch.StartNew();
        await reader.ReadToEndAsync().WaitAsync(TimeSpan.FromSeconds(20));
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 15);
        await using var cancel = await app.Cluster.Database.Worker.OpenConnectionAsync();
        await Sql.Command(cancel, "UPDATE run SET state = 'cancelled' WHERE id = $1", run).RunAsync();
    }

    private async Task<(int Judged, int Early)> LoggedAsync(string email)
    {
        await using var connection = new Npgsql.NpgsqlConnection(app.Cluster.Cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        return await Sql.Command(connection, "SELECT count(*) FILTER (WHERE event = 'sign-in refused')::int, count(*) FILTER (WHERE event = 'sign-in too early')::int FROM audit_log WHERE account_id = $1", (await app.AccountAsync(email)).Id)
            .FirstAsync(r => (r.GetInt32(0), r.GetInt32(1)));
    }

    private static Task<HttpResponseMessage> SignInAsync(HttpClient client, string email, string password) =>
        TestApp.PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = email, ["password"] = password });

    private static async Task<(TimeSpan Time, string Words)> MeasuredAsync(HttpClient client, string email)
    {
        var token = await TestApp.TokenAsync(client, "/sign-in");
        using var content = new FormUrlEncodedContent([new("__RequestVerificationToken", token), new("email", email), new("password", Wrong)]);
        var watch = Stopwatch.StartNew();
        using var response = await client.PostAsync(new Uri("/sign-in", UriKind.Relative), content);
        var time = watch.Elapsed;
        return (time, response.StatusCode + " " + Message(await response.Content.ReadAsStringAsync()));
    }

    private async Task<HttpStatusCode> StatusAsync(string session)
    {
        using var client = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false }) { BaseAddress = new Uri(app.Url) };
        using var request = new HttpRequestMessage(HttpMethod.Get, "/");
        request.Headers.Add("Cookie", "__Host-bellator=" + session);
        using var response = await client.SendAsync(request);
        return response.StatusCode;
    }

    private static string Message(string html) => WebUtility.HtmlDecode(Alert().Match(html).Groups[1].Value);

    [GeneratedRegex("role=\"alert\">([^<]+)<")]
    private static partial Regex Alert();
}
