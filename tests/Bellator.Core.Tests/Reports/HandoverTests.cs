using System.Text.Json;
using AngleSharp.Html.Parser;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Audit.Reports.Handover;
using Bellator.Audit.Standards;
using Bellator.Text;

namespace Bellator.Core.Tests.Reports;

/// <summary>The report that is handed over: nothing unjudged is passed off as judged, nothing in it does harm, and every form says the same.</summary>
public sealed class HandoverTests
{
    private static ReportContent Content(AuditResult result, Func<ReportedFinding, GivenVerdict?> verdict, ReportSettings? settings = null) => ReportBuilder.Build(new ReportInput(
        "Fernhollow",
        new ReportScope(result.Name, 3, new string('a', 64), result.Figures.Files, result.Figures.Lines, [new("x.bin", "not text")], 1, result.Notes),
        result.Findings,
        result.About,
        result.Findings.Select(f => (f.Fingerprint, Verdict: verdict(f))).Where(v => v.Verdict is not null).ToDictionary(v => v.Fingerprint, v => v.Verdict!),
        _ => null)
    { Date = new DateOnly(2026, 11, 29), Program = "1.0", Settings = settings ?? new() });

    private static GivenVerdict? First(ReportedFinding finding) => finding.CheckId == "injection/sql" ? new(Verdicts.Confirmed, "seen in the code", "I. Marsh", new DateOnly(2026, 11, 28)) : null;

    [Fact]
    public void What_nobody_judged_is_listed_apart()
    {
        var content = Content(Auditor.Demo, First);
        var html = new HtmlParser().ParseDocument(HtmlReport.Write(content));
        var confirmed = html.QuerySelectorAll("#findings article").Select(a => a.QuerySelector("h4")!.TextContent).ToList();
        Assert.NotEmpty(confirmed);
        Assert.All(confirmed, t => Assert.StartsWith("SQL injection", t, StringComparison.Ordinal));
        Assert.DoesNotContain("SQL injection", html.QuerySelector("#open")!.TextContent, StringComparison.Ordinal);
        Assert.Contains($"{content.Count(Verdicts.ToJudge)} not judged yet", html.QuerySelector("#summary")!.TextContent, StringComparison.Ordinal);
        Assert.All(html.QuerySelectorAll("#findings .verdict"), v => Assert.Contains("confirmed by I. Marsh on 28 November 2026: seen in the code", v.TextContent, StringComparison.Ordinal));
    }

    [Fact]
    public void It_is_one_file_without_script_and_every_link_leads_somewhere()
    {
        var html = new HtmlParser().ParseDocument(HtmlReport.Write(Content(Auditor.Demo, First)));
        Assert.Empty(html.QuerySelectorAll("script, link, img, iframe, object, [src], [style], [onclick]"));
        Assert.All(html.QuerySelectorAll("nav a"), a => Assert.NotNull(html.GetElementById(a.GetAttribute("href")![1..])));
        Assert.Equal(html.QuerySelectorAll("[id]").Length, html.QuerySelectorAll("[id]").Select(e => e.Id).Distinct().Count());
        Assert.All(html.QuerySelectorAll("svg"), s => Assert.False(string.IsNullOrWhiteSpace(s.GetAttribute("aria-label"))));
        Assert.All(html.QuerySelectorAll("table thead th"), t => Assert.Equal("col", t.GetAttribute("scope")));
    }

    [Fact]
    public void Code_reasons_and_words_can_do_no_harm()
    {
        const string Hostile = "</p><script>alert(1)</script><img src=x onerror=alert(1)>[x](javascript:alert(1)) ![p](https://elsewhere.example/p.png)";
        var result = Auditor.Run(("a<script>.php", "<?php echo '<b>' . $_GET['</script><script>alert(2)</script>'];"));
        var content = Content(result, _ => new(Verdicts.Confirmed, Hostile, Hostile, null), new ReportSettings { Words = new Dictionary<string, string> { ["summary"] = Hostile } });
        var html = new HtmlParser().ParseDocument(HtmlReport.Write(content));
        Assert.Empty(html.QuerySelectorAll("script, img, [onerror]"));
        Assert.DoesNotContain(html.QuerySelectorAll("a"), a => a.GetAttribute("href")!.StartsWith("javascript", StringComparison.OrdinalIgnoreCase));
        var markdown = new HtmlParser().ParseDocument(SafeMarkdown.Html(MarkdownReport.Write(content)));
        Assert.Empty(markdown.QuerySelectorAll("script, img, [onerror]"));
    }

    [Fact]
    public void Sections_are_reordered_left_out_and_written_in()
    {
        var settings = new ReportSettings { Sections = ["open", "summary"], Words = new Dictionary<string, string> { ["summary"] = "For the **board**." } };
        var html = new HtmlParser().ParseDocument(HtmlReport.Write(Content(Auditor.Demo, _ => null, settings)));
        Assert.Equal(["open", "summary"], html.QuerySelectorAll("main > section").Select(s => s.Id));
        Assert.Equal("board", html.QuerySelector("#summary .words strong")!.TextContent);
    }

    [Fact]
    public async Task The_json_can_be_read_again_and_fits_its_schema()
    {
        var content = Content(Auditor.Demo, First);
        var json = content.Write();
        Assert.Equal(json, ReportContent.Read(json)!.Write());
        Assert.Equal(HtmlReport.Write(content), HtmlReport.Write(ReportContent.Read(json)!));
        var schema = await NJsonSchema.JsonSchema.FromFileAsync(SchemaFile);
        Assert.Empty(schema.Validate(json));
        Assert.NotEmpty(schema.Validate(json.Replace("\"application\"", "\"applications\"", StringComparison.Ordinal)));
    }

    private static readonly string SchemaFile = Path.Combine(Folders.Home, "docs", "report.schema.json");

    /// <summary>The schema is the one that System.Text.Json makes of the types; BELLATOR_WRITE_SCHEMA=1 writes it anew.</summary>
    [Fact]
    public void The_schema_is_up_to_date()
    {
        var schema = System.Text.Json.Schema.JsonSchemaExporter.GetJsonSchemaAsNode(ReportContent.Json, typeof(ReportContent), new() { TreatNullObliviousAsNonNullable = true }).AsObject();
        schema["title"] = "Report of a security review, format 1";
        schema["$schema"] = "https://json-schema.org/draft/2020-12/schema";
        var text = schema.ToJsonString(ReportContent.Json) + "\n";
        if (Environment.GetEnvironmentVariable("BELLATOR_WRITE_SCHEMA") == "1")
        {
            File.WriteAllText(SchemaFile, text);
        }

        Assert.Equal(File.ReadAllText(SchemaFile), text);
    }

    [Fact]
    public void Csv_has_a_line_for_each_finding_and_no_formula()
    {
        var content = Content(Auditor.Demo, _ => new(Verdicts.Confirmed, "=cmd()", null, null));
        using var reader = new CsvHelper.CsvReader(new StringReader(CsvReport.Findings(content)), System.Globalization.CultureInfo.InvariantCulture);
        var rows = reader.GetRecords<dynamic>().Cast<IDictionary<string, object>>().ToList();
        Assert.Equal(Auditor.Demo.Findings.Count, rows.Count);
        Assert.All(rows, r => Assert.DoesNotMatch("^[=+@-]", (string)r["reason"]));
    }

    /// <summary>Values of the kinds that crypt(5), RFC 9106 and common hexadecimal digests look like; made for this test.</summary>
    [Theory]
    [InlineData("'$2y$10$abcdefghijklmnopqrstuuJ8Qp5n3mXo0s1v2w3x4y5z6A7B8C9D0'", "abcdefghij")]
    [InlineData("$argon2id$v=19$m=65536,t=3,p=4$c29tZXNhbHQ$RdescudvJCsgt3ub+b4dWRWJTmaaJObG", "RdescudvJC")]
    [InlineData("password_hash: 5f4dcc3b5aa765d61d8327deb882cf99", "a765d61d83")]
    [InlineData("$config['db_password'] = 'smoke before opening';", "before opening")]
    [InlineData("SECRET_KEY = \"swarm-in-the-orchard\"", "in-the-orchard")]
    public void Secrets_and_hashes_are_masked(string text, string secret)
    {
        Assert.Contains(secret, text, StringComparison.Ordinal);
        Assert.DoesNotContain(secret, Masking.Of(text), StringComparison.Ordinal);
        Assert.Equal(Masking.Of(text), Masking.Of(Masking.Of(text)));
    }

    [Theory]
    [InlineData("APP_KEY=hives-and-honey-77", "APP_KEY=hive…")]
    [InlineData("  secret_key_base: 4be19f20aa73c1d0e5", "  secret_key_base: 4be1…")]
    [InlineData("    \"Key\": \"hives-and-honey-77\",", "    \"Key\": \"hive…\",")]
    [InlineData("$key = getKey($name);", "$key = getKey($name);")]
    public void Settings_without_quotes_are_hidden_too(string line, string shown) => Assert.Equal(shown, Masking.Texts(line));

    [Theory]
    [InlineData("SELECT * FROM hive WHERE year = '2024'")]
    [InlineData("$stmt = $db->prepare('SELECT password FROM member');")]
    public void What_is_no_secret_stays(string text) => Assert.Equal(text, Masking.Of(text));

    /// <summary>CommonMark 0.31.2, section 2.4 (any ASCII punctuation may be escaped) and 6.1 (code spans), through a reader that is not ours.</summary>
    [Theory]
    [InlineData("*a* _b_ [c](d) <e> `f` # g | h \\ & ~i~ !j")]
    [InlineData("a`b``c")]
    [InlineData("1. x")]
    public void Escaped_text_stays_what_it_is(string text)
    {
        var parser = new HtmlParser();
        Assert.Equal(text, parser.ParseDocument(Markdig.Markdown.ToHtml("x " + MarkdownReport.Escape(text))).Body!.TextContent.Trim()[2..]);
        Assert.Equal(text, parser.ParseDocument(Markdig.Markdown.ToHtml("x " + MarkdownReport.Code(text))).QuerySelector("code")!.TextContent);
    }

    [Fact]
    public void A_file_of_verdicts_says_what_is_wrong_with_it()
    {
        Assert.Contains("no verdict", Assert.Throws<JsonException>(() => VerdictFile.Read("{\"verdicts\":[{\"fingerprint\":\"a\",\"verdict\":\"nice\",\"reason\":\"\"}]}")).Message, StringComparison.Ordinal);
        Assert.Contains("no requirement", Assert.Throws<JsonException>(() => VerdictFile.Read("{\"requirements\":[{\"standard\":\"asvs-5.0\",\"number\":\"V99\",\"state\":\"met\",\"reason\":\"\"}]}")).Message, StringComparison.Ordinal);
        Assert.Equal(Verdicts.FalsePositive, VerdictFile.Read("{\"verdicts\":[{\"fingerprint\":\"a\",\"verdict\":\"rejected\",\"reason\":\"x\"}]}").ByFingerprint()["a"].Verdict);
    }

    [Fact]
    public void Standards_name_checks_that_there_are_and_each_number_once()
    {
        foreach (var standard in Standard.All)
        {
            Assert.True(standard.IsFromMemory);
            Assert.Equal(standard.Requirements.Count(), standard.Requirements.Select(r => r.Number).Distinct().Count());
        }

        Assert.Equal(25, Standard.Find("cwe-top-25")!.Requirements.Count());

        // A check names the requirements that it speaks of; a standard that left one out would not count it.
        var known = Standard.Find("asvs-5.0")!.Requirements.Select(r => r.Number).ToHashSet();
        Assert.DoesNotContain(CheckList.All.SelectMany(c => c.Asvs), n => !known.Contains(n) && !Unlisted.Contains(n));
    }

    /// <summary>Requirements of chapters that the standards page does not have.</summary>
    private static readonly string[] Unlisted = ["V3.7.2", "V4.2.4", "V6.3.5", "V13.2.3", "V13.3.1"];

    [Fact]
    public void What_is_not_judged_is_never_met()
    {
        var nothing = StandardAssessment.Assess(Standard.Find("asvs-5.0")!, [], null, []);
        Assert.All(nothing, r => Assert.Equal(RequirementVerdict.NotJudged, r.Verdict));
        var finding = new JudgedFinding("injection/sql", [89], "a.php", 1, Verdicts.ToJudge, "f");
        Assert.Equal(RequirementVerdict.NotMet, Of("V1.2.4", finding));
        Assert.Equal(RequirementVerdict.NotJudged, Of("V1.2.4", finding with { Verdict = Verdicts.FalsePositive }));
        Assert.Equal(RequirementVerdict.NotMet, Of("V1.2.4", finding with { Verdict = Verdicts.RiskAccepted }));
        var said = new RequirementJudgement("asvs-5.0", "V1.2.4", RequirementVerdict.Met, "looked at all of it", "I. Marsh", DateTimeOffset.UnixEpoch);
        Assert.Equal(RequirementVerdict.Met, StandardAssessment.Assess(Standard.Find("asvs-5.0")!, [finding], null, [said]).Single(r => r.Requirement.Number == "V1.2.4").Verdict);

        static RequirementVerdict Of(string number, JudgedFinding finding) => StandardAssessment.Assess(Standard.Find("asvs-5.0")!, [finding], null, []).Single(r => r.Requirement.Number == number).Verdict;
    }

    [Fact]
    public void A_step_that_is_shown_in_every_journey_is_evidence()
    {
        var assessed = StandardAssessment.Assess(Standard.Find("asvs-5.0")!, [], Auditor.Demo.About, []);
        var met = assessed.Where(a => a.Verdict == RequirementVerdict.Met).ToList();
        Assert.NotEmpty(met);
        Assert.All(met, m => Assert.NotEmpty(m.Evidence));
        Assert.All(assessed.Where(a => a.Verdict == RequirementVerdict.NotMet), m => Assert.NotEmpty(m.Evidence));
    }

    [Fact]
    public void The_digest_is_of_paths_and_contents()
    {
        SourceFile File(string path, string code) => Auditor.File(path, code);
        var one = ReportBuilder.DigestOf([File("a.php", "x"), File("b.php", "y")]);
        Assert.Equal(one, ReportBuilder.DigestOf([File("b.php", "y"), File("a.php", "x")]));
        Assert.NotEqual(one, ReportBuilder.DigestOf([File("a.php", "y"), File("b.php", "x")]));
    }

    [Fact]
    public void Two_reports_say_what_one_has_and_the_other_has_not()
    {
        var before = Auditor.Run(("a.php", "<?php\necho $_GET['a'];\n"), ("b.php", "<?php\nmysqli_query($c, 'SELECT 1 FROM t WHERE a = ' . $_GET['a']);\n"));
        var after = Auditor.Run(("a.php", "<?php\necho $_GET['a'];\n"), ("c.php", "<?php\nsystem('ls ' . $_GET['a']);\n"));
        var first = Content(before, f => f.CheckId == "injection/page-output" ? new GivenVerdict("to judge", "", null, null) : null);
        var second = Content(after, f => f.CheckId == "injection/page-output" ? new GivenVerdict("confirmed", "tried it", "I. Marsh", null) : null);
        second = second with { Scope = second.Scope with { Stated = ["tag() gives digits"] } };
        var compared = ReportComparison.Of(first, second);
        Assert.Equal("c.php:2", Assert.Single(compared.New).Place);
        Assert.Equal("b.php:2", Assert.Single(compared.Gone).Place);
        Assert.Equal(("to judge", "confirmed", "tried it"), Assert.Single(compared.Judged) is var row ? (row.Was, row.Verdict, row.Reason) : default);
        Assert.Equal("stated: tag() gives digits", Assert.Single(compared.Stated));
        Assert.NotEmpty(compared.Requirements);
        Assert.All(compared.Requirements, r => Assert.NotEqual(r.Was, r.State));
        Assert.Contains(compared.Parts, p => p is { Kind: "added", Subject: var subject } && subject.Contains("c.php", StringComparison.Ordinal));
        Assert.StartsWith("1 finding more, 1 finding gone, 1 verdict changed, ", compared.Headline, StringComparison.Ordinal);
        Assert.True(ReportComparison.Of(second, second).IsSame);

        // Kept as it was written, a report is compared as it was.
        Assert.True(ReportComparison.Of(second, ReportContent.Read(second.Write())!).IsSame);
    }
}
