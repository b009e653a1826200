using System.Net;
using System.Text.RegularExpressions;
using Bellator.Testing;
using static Bellator.Web.Tests.ReviewSteps;

namespace Bellator.Web.Tests;

/// <summary>A reason is turned into a fact: tried beside the review, kept, and switched off again.</summary>
[Collection("one application at a time")]
public sealed class KnowledgeTests(TestApp app) : IClassFixture<TestApp>
{
    private const string Code =
        """
        <?php
        function tag($x) { return trim($x); }
        mysqli_query($c, "SELECT * FROM hive WHERE tag = '" . tag($_GET['tag']) . "'");
        mysqli_query($c, "DELETE FROM hive WHERE tag = '" . tag($_POST['tag']) . "'");
        mysqli_query($c, "SELECT * FROM hive WHERE note = '" . $_GET['note'] . "'");
        """;

    [Fact]
    public async Task A_fact_is_tried_before_it_is_kept_and_answers_the_like_at_once()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Facts");
        await HandInAsync(client, review, 1, ("hives.php", Code));
        var list = await GetAsync(client, review + "/findings?view=list");
        Assert.Contains("0 of 3 judged", list, StringComparison.Ordinal);
        var finding = Regex.Match(list, "/findings/([0-9]+)[^>]*>[^<]*</a>.{0,800}?hives.php:3", RegexOptions.Singleline).Groups[1].Value;
        var page = await GetAsync(client, $"{review}/knowledge?finding={finding}");
        Assert.Contains("<option value=\"tag\">", page, StringComparison.Ordinal);
        Assert.DoesNotContain("value=\"mysqli_query\"", page, StringComparison.Ordinal);
        using (var stated = await TestApp.PostAsync(client, $"{review}/knowledge?finding={finding}", $"{review}/knowledge?finding={finding}&handler=State", new() { ["function"] = "tag", ["kind"] = "MakesHarmless", ["argument"] = "1", ["where"] = "here", ["reason"] = "tags are <b>digits</b>" }))
        {
            Assert.Equal(HttpStatusCode.Redirect, stated.StatusCode);
        }

        // While it is only proposed, the review is as it was.
        var tried = WebUtility.HtmlDecode(await UntilTriedAsync(client, review));
        Assert.Contains("2 findings would go, 0 findings would be new.", tried, StringComparison.Ordinal);
        Assert.Contains("tag() makes its first argument harmless as sql-text", tried, StringComparison.Ordinal);
        Assert.DoesNotContain("<b>digits</b>", await GetAsync(client, review + "/knowledge"), StringComparison.Ordinal);
        Assert.Contains("0 of 3 judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        Assert.Contains("There is nothing to compare yet", await GetAsync(client, review + "/compare"), StringComparison.Ordinal);

        await DecideAsync(client, review, "keep");
        await UntilDoneAsync(client, review, 1);
        Assert.Contains("0 of 1 judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        var compare = WebUtility.HtmlDecode(await GetAsync(client, review + "/compare"));
        Assert.Contains("answered by a reviewer", compare, StringComparison.Ordinal);
        Assert.Contains("I. Marsh stated: tag() makes", compare, StringComparison.Ordinal);
        Assert.DoesNotContain("name=\"finding\"", compare, StringComparison.Ordinal);
        Assert.Contains("2 findings", await GetAsync(client, review + "/knowledge"), StringComparison.Ordinal);

        // The report says what the audit took somebody's word for.
        Assert.Contains("tag() makes its first argument harmless", WebUtility.HtmlDecode(await GetAsync(client, review + "/report/file?form=html")), StringComparison.Ordinal);

        // Switched off, what it answered is back, and said to be.
        await DecideAsync(client, review, "off");
        await UntilDoneAsync(client, review, 1);
        Assert.Contains("0 of 3 judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        Assert.Contains("2 back", await GetAsync(client, review + "/compare"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_fact_that_is_not_understood_is_refused_with_the_reason_and_nothing_typed_is_lost()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Wrong facts");
        await HandInAsync(client, review, 1, ("hives.php", Code));
        foreach (var (facts, says) in new[] { ("library: a\nlanguage: cobol\n", "cobol"), ("functions: [", "these facts, line"), ("a: &x 1\nb: *x\n", "references") })
        {
            using var refused = await TestApp.PostAsync(client, review + "/knowledge", review + "/knowledge?handler=Write", new() { ["title"] = "typed", ["facts"] = facts, ["reason"] = "because" });
            var html = WebUtility.HtmlDecode(await refused.Content.ReadAsStringAsync());
            Assert.Contains(says, html, StringComparison.Ordinal);
            Assert.Contains(facts.Split('\n')[0], html, StringComparison.Ordinal);
        }

        Assert.DoesNotContain("class=\"fact\"", await GetAsync(client, review + "/knowledge"), StringComparison.Ordinal);

        // What is discarded leaves no trace in the findings.
        using (var written = await TestApp.PostAsync(client, review + "/knowledge", review + "/knowledge?handler=Write", new() { ["title"] = "nothing", ["facts"] = "library: a\nlanguage: php\nfunctions:\n  nobody: { sanitizes: flag }\n", ["reason"] = "to see" }))
        {
            Assert.Equal(HttpStatusCode.Redirect, written.StatusCode);
        }

        var tried = WebUtility.HtmlDecode(await UntilTriedAsync(client, review));
        Assert.Contains("It changes nothing.", tried, StringComparison.Ordinal);
        Assert.Contains("no function of this code has that name", tried, StringComparison.Ordinal);
        await DecideAsync(client, review, "off");
        Assert.Contains("No fact is in force.", await GetAsync(client, review + "/knowledge"), StringComparison.Ordinal);
    }

    private static async Task<string> UntilTriedAsync(HttpClient client, string review)
    {
        for (var i = 0; i < 300; i++)
        {
            var html = await GetAsync(client, review + "/knowledge");
            if (html.Contains("Tried on snapshot", StringComparison.Ordinal))
            {
                return html;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException(await GetAsync(client, review + "/knowledge"));
    }

    private static async Task DecideAsync(HttpClient client, string review, string decision)
    {
        var fact = Regex.Match(await GetAsync(client, review + "/knowledge"), "name=\"fact\" value=\"([0-9]+)\"").Groups[1].Value;
        using var decided = await TestApp.PostAsync(client, review + "/knowledge", review + "/knowledge?handler=Decide", new() { ["fact"] = fact, ["decision"] = decision });
        Assert.Equal(HttpStatusCode.Redirect, decided.StatusCode);
    }
}
