using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using Bellator.Storage;
using Bellator.Testing;
using Microsoft.Extensions.DependencyInjection;
using Npgsql;

namespace Bellator.Web.Tests;

/// <summary>What the service bears: large reviews, bodies and files, impatient visitors, and a database that goes away.</summary>
[Collection("one application at a time")]
public sealed class ServiceTests(TestApp app) : IClassFixture<TestApp>
{
    [Theory]
    [InlineData("/sign-in")]
    [InlineData("/problem/500")]
    [InlineData("/account?handler=Password")]
    [InlineData("/nothing-here")]
    public async Task A_body_where_no_file_is_taken_ends_at_64_kib(string path)
    {
        using var client = await app.ClientAsync();
        using var content = new StreamContent(new EndlessStream(8 * 1024 * 1024));
        content.Headers.ContentType = new("application/x-www-form-urlencoded");
        try
        {
            using var response = await client.PostAsync(new Uri(path, UriKind.Relative), content);
            Assert.True(response.StatusCode is HttpStatusCode.RequestEntityTooLarge or HttpStatusCode.NotFound or HttpStatusCode.Redirect or HttpStatusCode.BadRequest or HttpStatusCode.OK, response.StatusCode.ToString());
        }
        catch (HttpRequestException)
        {
            // The connection is cut while the visitor still sends.
        }

        Assert.True(EndlessStream.Sent < 4 * 1024 * 1024);
    }

    [Theory]
    [InlineData("TRACE / HTTP/1.1\r\nHost: localhost", "405")]
    [InlineData("PUT / HTTP/1.1\r\nHost: localhost\r\nContent-Length: 0", "405")]
    [InlineData("GET /sign-in HTTP/1.1\r\nHost: attacker.example", "400")]
    [InlineData("GET /sign-in HTTP/1.1\r\nHost: ", "400")]
    [InlineData("GET /sign-in?next=%00 HTTP/1.1\r\nHost: localhost", "400")]
    [InlineData("GET /sign-in HTTP/1.1\r\nHost: localhost", "200")]
    public async Task Other_methods_hosts_and_signs_are_refused(string request, string status)
    {
        using var tcp = new TcpClient();
        await tcp.ConnectAsync("localhost", new Uri(app.Url).Port);
        await using var stream = tcp.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes(request + "\r\nConnection: close\r\n\r\n"));
        using var reader = new StreamReader(stream);
        Assert.Contains(status, await reader.ReadLineAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Signs_that_no_database_takes_are_no_error_in_a_form()
    {
        var (review, _) = await app.DemoReviewAsync();
        using var client = await app.ClientAsync(DemoData.Email);
        using var named = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = "a\0b" });
        Assert.True(named.StatusCode is HttpStatusCode.Redirect or HttpStatusCode.BadRequest, named.StatusCode.ToString());
        using var signIn = await TestApp.PostAsync(await app.ClientAsync(), "/sign-in", "/sign-in", new() { ["email"] = "a\0@fernhollow.example", ["password"] = "x\0y" });
        Assert.True(signIn.StatusCode is HttpStatusCode.OK or HttpStatusCode.BadRequest, signIn.StatusCode.ToString());
        using var found = await client.GetAsync(new Uri($"/reviews/{review}/findings?text=%F0%9F", UriKind.Relative));
        Assert.Equal(HttpStatusCode.OK, found.StatusCode);
    }

    [Fact]
    public async Task Pages_of_a_large_review_cost_what_they_show()
    {
        var (review, run) = await LargeAsync(20_000);
        using var client = await app.ClientAsync(DemoData.Email);
        var list = await client.GetStringAsync(new Uri($"/reviews/{review}/findings", UriKind.Relative));
        Assert.InRange(list.Length, 10_000, 300_000);
        Assert.Contains("0 of 20,000 judged", list, StringComparison.Ordinal);
        var next = System.Text.RegularExpressions.Regex.Match(list, "rel=\"next\" href=\"([^\"]+)\"").Groups[1].Value;
        Assert.NotEqual(list, await client.GetStringAsync(new Uri(WebUtility.HtmlDecode(next), UriKind.Relative)));
        var id = System.Text.RegularExpressions.Regex.Match(list, "/findings/([0-9]+)").Groups[1].Value;
        Assert.InRange((await client.GetStringAsync(new Uri($"/reviews/{review}/findings/{id}", UriKind.Relative))).Length, 5000, 120_000);
        Assert.InRange((await client.GetStringAsync(new Uri($"/reviews/{review}/findings?view=list", UriKind.Relative))).Length, 10_000, 150_000);
        Assert.InRange((await client.GetStringAsync(new Uri($"/reviews/{review}/injection", UriKind.Relative))).Length, 5000, 300_000);
        using var sarif = await client.GetAsync(new Uri($"/reviews/{review}/sarif", UriKind.Relative), HttpCompletionOption.ResponseHeadersRead);
        using var text = System.Text.Json.JsonDocument.Parse(await sarif.Content.ReadAsStreamAsync());
        Assert.Equal(20_000, text.RootElement.GetProperty("runs")[0].GetProperty("results").GetArrayLength());
        Assert.NotEqual(Guid.Empty, run);
    }

    [Fact]
    public async Task A_small_review_does_not_slow_with_findings_of_others()
    {
        var (review, _) = await app.DemoReviewAsync();
        await LargeAsync(20_000);
        await using var connection = new NpgsqlConnection(app.Cluster.Cluster.ConnectionFor("bellator_web"));
        await connection.OpenAsync();
        await using var transaction = await connection.BeginTransactionAsync();
        await Sql.Command(connection, "SELECT set_config('bellator.account', $1, true)", (await app.AccountAsync("t.alder@fernhollow.example")).Id.ToString()).RunAsync();

        // The planner's own count of what it touches, as somebody who is a member of the small one only.
        foreach (var sql in new[] { "SELECT sum(to_judge) FROM run_count c JOIN run r ON r.id = c.run_id WHERE r.review_id = $1", "SELECT count(*) FROM (SELECT * FROM finding WHERE review_id = $1 LIMIT 100) x" })
        {
            var plan = string.Join('\n', await Sql.Command(connection, "EXPLAIN (ANALYZE, BUFFERS) " + sql, review).ListAsync(r => r.GetString(0)));
            var buffers = System.Text.RegularExpressions.Regex.Matches(plan, "shared hit=([0-9]+)").Select(m => int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture)).DefaultIfEmpty().Max();
            Assert.True(buffers < 500, plan);
        }
    }

    [Fact]
    public async Task A_file_of_fifty_thousand_lines_is_shown_by_windows()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        using var created = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = "Long" });
        var review = created.Headers.Location!.ToString();
        var code = "<?php\n" + string.Concat(Enumerable.Range(0, 49_999).Select(i => $"f({i}); // {i}\n"));
        using var content = new MultipartFormDataContent
        {
            { new StringContent(await TestApp.TokenAsync(client, review)), "__RequestVerificationToken" },
            { new ByteArrayContent(Encoding.UTF8.GetBytes(code)), "files", "long.php" },
        };
        using (await client.PostAsync(new Uri(review + "?handler=Upload", UriKind.Relative), content))
        {
        }

        string html = "";
        for (var i = 0; i < 100 && !html.Contains("id=\"L1\"", StringComparison.Ordinal); i++)
        {
            await Task.Delay(100);
            using var page = await client.GetAsync(new Uri(review + "/file?path=long.php", UriKind.Relative));
            html = await page.Content.ReadAsStringAsync();
        }

        Assert.Contains("Lines 1 to 1000 of 50,000", html, StringComparison.Ordinal);
        var middle = await client.GetStringAsync(new Uri(review + "/file?path=long.php&line=25000", UriKind.Relative));
        Assert.Contains("id=\"L25000\"", middle, StringComparison.Ordinal);
        Assert.Contains("class=\"t-comment\"", middle, StringComparison.Ordinal);
        Assert.Equal(1000, System.Text.RegularExpressions.Regex.Count(middle, "id=\"L[0-9]+\""));
    }

    [Fact]
    public async Task Impatient_visitors_of_the_bench_leave_nothing_open()
    {
        var (review, _) = await app.DemoReviewAsync();
        using var client = await app.ClientAsync(DemoData.Email);
        var token = await TestApp.TokenAsync(client, $"/reviews/{review}/passwords");
        var values = string.Join('\n', Enumerable.Range(0, 10).Select(i => $"$argon2id$v=19$m=262144,t={20 + i},p=1$c29tZXNhbHQ$RdescudvJCsgt3ub+b5dWRWJTmaaJObG"));
        await Task.WhenAll(Enumerable.Range(0, 34).Select(async _ =>
        {
            using var gone = new CancellationTokenSource(TimeSpan.FromSeconds(1));
            try
            {
                using var content = new FormUrlEncodedContent([new("__RequestVerificationToken", token), new("Values", values)]);
                using var response = await client.PostAsync(new Uri($"/reviews/{review}/passwords?handler=Rate", UriKind.Relative), content, gone.Token);
            }
            catch (OperationCanceledException)
            {
                // That is what they do.
            }
        }));
        Assert.Equal(0, await OpenTransactionsAsync());
        var watch = Stopwatch.StartNew();
        Assert.Equal(HttpStatusCode.OK, (await client.GetAsync(new Uri("/", UriKind.Relative))).StatusCode);
        Assert.InRange(watch.Elapsed.TotalSeconds, 0, 15);
    }

    [Fact]
    public async Task A_database_that_dies_is_a_moment_of_503_and_then_all_is_as_before()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var id = File.ReadLines(Path.Combine(app.Cluster.Folder, "data", "postmaster.pid")).First();
        using (var kill = Process.Start("kill", ["-9", id]))
        {
            await kill.WaitForExitAsync();
        }

        // A process of the database that is already there may still answer for a moment.
        var asking = Stopwatch.StartNew();
        var asked = await client.GetAsync(new Uri("/", UriKind.Relative));
        while (asked.StatusCode == HttpStatusCode.OK && asking.Elapsed < TimeSpan.FromSeconds(10))
        {
            asked.Dispose();
            asked = await client.GetAsync(new Uri("/", UriKind.Relative));
        }

        using (var away = asked)
        {
            Assert.Equal(HttpStatusCode.ServiceUnavailable, away.StatusCode);
            Assert.NotNull(away.Headers.RetryAfter);
            Assert.Contains("Back in a moment", await away.Content.ReadAsStringAsync(), StringComparison.Ordinal);
        }

        var watch = Stopwatch.StartNew();
        while (true)
        {
            if (await app.Cluster.Cluster.RestoreAsync(default))
            {
                app.Cluster.Database.Clear();
                app.Services.GetRequiredService<Database>().Clear();
            }

            using var response = await client.GetAsync(new Uri("/", UriKind.Relative));
            if (response.StatusCode == HttpStatusCode.OK)
            {
                return;
            }

            Assert.True(watch.Elapsed < TimeSpan.FromSeconds(10), response.StatusCode.ToString());
            await Task.Delay(200);
        }
    }

    private async Task<int> OpenTransactionsAsync()
    {
        await using var connection = new NpgsqlConnection(app.Cluster.Cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        return await Sql.Command(connection, "SELECT count(*)::int FROM pg_stat_activity WHERE state = 'idle in transaction' AND now() - state_change > interval '1 second'").FirstAsync(r => r.GetInt32(0));
    }

    /// <summary>A review of its own whose findings are copies of one of the demo's.</summary>
    private async Task<(Guid Review, Guid Run)> LargeAsync(int findings)
    {
        var (demo, source) = await app.DemoReviewAsync();
        var (review, snapshot, run) = (Guid.CreateVersion7(), Guid.CreateVersion7(), Guid.CreateVersion7());
        await using var connection = new NpgsqlConnection(app.Cluster.Cluster.ConnectionFor("bellator_owner"));
        await connection.OpenAsync();
        await LargeReview.MakeAsync(connection, (await app.AccountAsync(DemoData.Email)).Id, source.Id, (review, snapshot, run), findings);
        Assert.NotEqual(demo, review);
        return (review, run);
    }

    private sealed class EndlessStream(long length) : MemoryStream
    {
        public static long Sent { get; private set; }

        private long _read;

        public override int ReadByte() => throw new NotSupportedException();

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            await Task.Yield();
            var part = (int)Math.Min(buffer.Length, length - _read);
            buffer.Span[..part].Fill((byte)'a');
            Sent = _read += part;
            return part;
        }
    }
}
