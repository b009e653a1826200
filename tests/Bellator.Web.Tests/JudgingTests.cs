using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Bellator.Testing;
using static Bellator.Web.Tests.ReviewSteps;

namespace Bellator.Web.Tests;

/// <summary>From findings to a report: judged in bulk and taken back, kept over versions of the code, compared, handed over.</summary>
[Collection("one application at a time")]
public sealed partial class JudgingTests(TestApp app) : IClassFixture<TestApp>
{
    private static readonly string Page = "<?php\nfunction hives($c) {\n    $year = $_GET['year'];\n    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . $year . \"'\");\n}\nhives($c);\n";
    private const string Mended = "<?php\nfunction hives($c) {\n    $year = (int) $_GET['year'];\n    return mysqli_query($c, \"SELECT * FROM hive WHERE year = '\" . $year . \"'\");\n}\nhives($c);\n";
    private const string Other = "<?php\nmysqli_query($c, 'DELETE FROM swarm WHERE id = ' . $_POST['id']);\n";
    private const string New = "<?php\necho '<p>' . $_GET['name'];\n";

    [Fact]
    public async Task Verdicts_outlive_a_new_release_and_what_was_fixed_is_told()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Releases");
        await HandInAsync(client, review, 1, ("app-1.0/hives.php", Page), ("app-1.0/swarm.php", Other));
        await JudgeAllAsync(client, review, "confirmed", "seen in 1.0");

        // The same code by another name: nothing is judged twice.
        await HandInAsync(client, review, 2, ("app-1.1/hives.php", Page), ("app-1.1/swarm.php", Other));
        Assert.Contains("2 findings, all judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        Assert.Contains("Nothing that an audit sees has changed", await GetAsync(client, review + "/compare"), StringComparison.Ordinal);

        // One is fixed, one is new, one has moved.
        await HandInAsync(client, review, 3, ("app-1.2/hives.php", Mended), ("app-1.2/lib/swarm.php", Other), ("app-1.2/name.php", New));
        var compare = WebUtility.HtmlDecode(await GetAsync(client, review + "/compare"));
        Assert.Contains("1 new, 0 changed, 1 moved, 0 still there, 1 gone", compare, StringComparison.Ordinal);
        Assert.Contains("hives.php:3 does it: “$year = (int) $_GET['year'];”", compare, StringComparison.Ordinal);
        Assert.Contains("1 of 2 judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        var lost = Regex.Match(compare, "name=\"finding\" value=\"([0-9a-f]+)\"").Groups[1].Value;
        Assert.Contains("class=\"sides\"", await GetAsync(client, $"{review}/compare?lost={lost}"), StringComparison.Ordinal);
        using (var offered = await TestApp.PostAsync(client, review + "/compare", review + "/compare?handler=Fixed", new() { ["finding"] = lost }))
        {
            Assert.Equal(HttpStatusCode.Redirect, offered.StatusCode);
        }

        Assert.DoesNotContain("name=\"finding\"", await GetAsync(client, review + "/compare"), StringComparison.Ordinal);

        // It comes back: the verdict “fixed” does not hold any more, and that is said.
        await HandInAsync(client, review, 4, ("app-1.3/hives.php", Page), ("app-1.3/lib/swarm.php", Other), ("app-1.3/name.php", New));
        compare = await GetAsync(client, review + "/compare");
        Assert.Contains("1 back", compare, StringComparison.Ordinal);
        Assert.Contains("What was gone is there again", compare, StringComparison.Ordinal);
        var back = await GetAsync(client, $"{review}/findings/{Regex.Match(await GetAsync(client, review + "/findings?state=back&view=list"), "/findings/([0-9]+)").Groups[1].Value}");
        Assert.Contains("it was fixed, and is back", back, StringComparison.Ordinal);
        Assert.Contains("seen in 1.0", back, StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_false_positive_is_open_again_once_its_line_has_changed()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Reasons");
        await HandInAsync(client, review, 1, ("a/hives.php", Page), ("a/swarm.php", Other));
        await JudgeAllAsync(client, review, "false positive", "it is a number");
        await HandInAsync(client, review, 2, ("a/hives.php", Page.Replace("$_GET['year']", "trim($_GET['year'])", StringComparison.Ordinal)), ("a/swarm.php", "<?php\n\n// later\n" + Other[6..]));
        var list = WebUtility.HtmlDecode(await GetAsync(client, review + "/findings"));
        Assert.Contains("1 of 2 judged; worst open: SQL injection", list, StringComparison.Ordinal);
        var id = Regex.Match(await GetAsync(client, review + "/findings?verdict=to%20judge&view=list"), "/findings/([0-9]+)").Groups[1].Value;
        Assert.Contains("a line that the reason stood on has changed", await GetAsync(client, $"{review}/findings/{id}"), StringComparison.Ordinal);

        // Judged with the new line on the screen, it stays so when the same code is audited once more.
        await JudgeAllAsync(client, review, "false positive", "trimmed, and still a number");
        using (var again = await TestApp.PostAsync(client, review, review + "?handler=Audit", []))
        {
            Assert.Equal(HttpStatusCode.Redirect, again.StatusCode);
        }

        await UntilDoneAsync(client, review, 2);
        Assert.Equal("2 findings, all judged.", Summary().Match(await GetAsync(client, review + "/findings")).Groups[1].Value);
    }

    [Fact]
    public async Task A_judgement_of_many_is_taken_back_as_one()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Bulk");
        await HandInAsync(client, review, 1, ("a.php", string.Concat(Enumerable.Range(0, 300).Select(i => i == 0 ? "<?php\n" : $"echo $_GET['x{i}'];\n"))));
        var batch = await JudgeAllAsync(client, review, "risk accepted", "only inside the house", DateTime.UtcNow.AddDays(30).ToString("yyyy-MM-dd", System.Globalization.CultureInfo.InvariantCulture));
        Assert.Contains("299 findings, all judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
        using var undone = await TestApp.PostAsync(client, review + "/findings", review + "/findings?handler=Undo", new() { ["batch"] = batch });
        Assert.Contains("0 of 299 judged", await GetAsync(client, review + "/findings"), StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_a_colleague_judged_meanwhile_is_not_overwritten_unseen()
    {
        var (demo, _) = await app.DemoReviewAsync();
        using var one = await app.ClientAsync(DemoData.Email);
        using var two = await app.ClientAsync("t.alder@fernhollow.example");
        var page = await GetAsync(one, $"/reviews/{demo}/findings?view=list&area=passwords");
        var print = Regex.Match(page, "name=\"finding\" value=\"([0-9a-f]+)\"").Groups[1].Value;
        var seen = Regex.Match(page, "data-seen=\"([0-9]+)\"").Groups[1].Value;
        var address = $"/reviews/{demo}/findings?view=list&area=passwords";
        using (var theirs = await TestApp.PostAsync(two, address, address + "&handler=Judge", new() { ["finding"] = print, ["verdict"] = "confirmed", ["reason"] = "tried it", ["seen"] = seen }))
        {
            Assert.Equal(HttpStatusCode.Redirect, theirs.StatusCode);
        }

        using var mine = await TestApp.PostAsync(one, address, address + "&handler=Judge", new() { ["finding"] = print, ["verdict"] = "false positive", ["reason"] = "no", ["seen"] = seen });
        Assert.Contains("left=1", mine.Headers.Location!.ToString(), StringComparison.Ordinal);
        Assert.Contains("1 finding was left as a colleague judged it meanwhile", await GetAsync(one, mine.Headers.Location!.ToString()), StringComparison.Ordinal);
        var row = Regex.Match(await GetAsync(one, address), "/findings/([0-9]+)").Groups[1].Value;
        Assert.Contains("tried it", await GetAsync(one, $"/reviews/{demo}/findings/{row}"), StringComparison.Ordinal);

        // Back as it was, for the other tests.
        using var undone = await TestApp.PostAsync(two, address, address + "&handler=Judge", new() { ["finding"] = print, ["verdict"] = "to judge", ["reason"] = "again" });
    }

    [Fact]
    public async Task A_report_that_was_handed_over_stays_as_it_was()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Handed over");
        await HandInAsync(client, review, 1, ("a.php", Page), ("b.php", Other));
        await JudgeAllAsync(client, review, "confirmed", "seen <b>by eye</b>");
        using (var saved = await TestApp.PostAsync(client, review + "/report", review + "/report/save", new() { ["section"] = "findings", ["words-findings"] = "For *developers*." }))
        {
            Assert.Equal(HttpStatusCode.Redirect, saved.StatusCode);
        }

        using (var handed = await TestApp.PostAsync(client, review + "/report", review + "/report/handover", []))
        {
            Assert.Equal(HttpStatusCode.Redirect, handed.StatusCode);
        }

        await JudgeAllAsync(client, review, "fixed", "later");
        Assert.Contains("Two reports have to be handed over", await GetAsync(client, review + "/reports"), StringComparison.Ordinal);
        using (var second = await TestApp.PostAsync(client, review + "/report", review + "/report/handover", []))
        {
            Assert.Equal(HttpStatusCode.Redirect, second.StatusCode);
        }

        var compared = WebUtility.HtmlDecode(await GetAsync(client, review + "/reports"));
        Assert.Contains("0 findings more, 0 findings gone, 2 verdicts changed", compared, StringComparison.Ordinal);
        Assert.Contains("confirmed → fixed", compared, StringComparison.Ordinal);
        Assert.Contains("Both reports say the same.", await GetAsync(client, review + "/reports?from=1&to=1"), StringComparison.Ordinal);
        var kept = await GetAsync(client, review + "/report/file?form=html&number=1");
        Assert.Contains("confirmed by I. Marsh", kept, StringComparison.Ordinal);
        Assert.Contains("seen &lt;b&gt;by eye&lt;/b&gt;", kept, StringComparison.Ordinal);
        Assert.Contains("<em>developers</em>", kept, StringComparison.Ordinal);
        Assert.DoesNotContain("id=\"appendix\"", kept, StringComparison.Ordinal);
        Assert.DoesNotContain("confirmed by I. Marsh", await GetAsync(client, review + "/report/file?form=html"), StringComparison.Ordinal);
        foreach (var form in new[] { "md", "json", "csv", "standards", "openapi", "verdicts" })
        {
            using var file = await client.GetAsync(new Uri($"{review}/report/file?form={form}", UriKind.Relative));
            Assert.True(file.StatusCode == HttpStatusCode.OK && file.Content.Headers.ContentDisposition?.DispositionType == "attachment", form);
        }

        using var read = await client.GetAsync(new Uri(review + "/report/file?form=html&inline=true", UriKind.Relative));
        Assert.Contains("sandbox", read.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Choices_notes_and_requirements_are_kept_for_the_review()
    {
        using var client = await app.ClientAsync(DemoData.Email);
        var review = await BeginAsync(client, "Teamwork");
        await HandInAsync(client, review, 1, ("a.php", Page));
        using (var saved = await TestApp.PostAsync(client, review + "/findings", review + "/findings?area=injection&handler=Save", new() { ["name"] = "first things" }))
        {
            Assert.Equal(HttpStatusCode.Redirect, saved.StatusCode);
        }

        var list = await GetAsync(client, review + "/findings");
        Assert.Contains("first things", list, StringComparison.Ordinal);
        var finding = $"{review}/findings/{Regex.Match(list, "/findings/([0-9]+)").Groups[1].Value}";
        using (var noted = await TestApp.PostAsync(client, finding, finding + "?handler=Note", new() { ["note"] = "see **hives** <script>alert(1)</script>" }))
        {
            Assert.Equal(HttpStatusCode.Redirect, noted.StatusCode);
        }

        var page = await GetAsync(client, finding);
        Assert.Contains("<strong>hives</strong>", page, StringComparison.Ordinal);
        Assert.DoesNotContain("<script>alert(1)", page, StringComparison.Ordinal);
        using (var judged = await TestApp.PostAsync(client, review + "/standards", review + "/standards?id=asvs-5.0", new() { ["number"] = "V6.3.3", ["state"] = "not applicable", ["reason"] = "nobody signs in" }))
        {
            Assert.Equal(HttpStatusCode.Redirect, judged.StatusCode);
        }

        Assert.Contains("nobody signs in", await GetAsync(client, review + "/standards"), StringComparison.Ordinal);
        Assert.Contains("nobody signs in", await GetAsync(client, review + "/report/file?form=standards"), StringComparison.Ordinal);
    }

    [GeneratedRegex("data-live=\"summary\">([^<]*)<")]
    private static partial Regex Summary();
}
