using System.Text.Json.Nodes;
using Bellator.Audit.Checks;
using Bellator.Audit.Reports;
using Bellator.Audit.Scoring;
using NJsonSchema;

namespace Bellator.Core.Tests;

/// <summary>Reports against what others published.</summary>
public sealed class ReportTests
{
    private const string Weak = "<?php\n$db = new mysqli('h', 'root', '');\n$a = $_GET['a'];\n$db->query(\"SELECT * FROM t WHERE a = '$a'\");\n";

    /// <summary>The schema is OASIS's sarif-schema-2.1.0.json as an npm package ships it.</summary>
    [Fact]
    public async Task Sarif_is_valid_against_its_schema()
    {
        var schema = await JsonSchema.FromFileAsync(Path.Combine(AppContext.BaseDirectory, "Outside", "sarif-schema-2.1.0.json"));
        var text = SarifReport.Write(Auditor.Run(("a b/ä.php", Weak), ("broken.js", "function (")), "1.2.3", new Dictionary<string, SarifVerdict>());
        var errors = schema.Validate(text);
        Assert.True(errors.Count == 0, string.Join("; ", errors.Take(5)));
    }

    [Fact]
    public void Sarif_says_where_how_and_what()
    {
        var run = JsonNode.Parse(SarifReport.Write(Auditor.Run(("a b/ä.php", Weak)), "1.2.3"))!["runs"]![0]!;
        var result = run["results"]!.AsArray().Single(r => r!["ruleId"]!.GetValue<string>() == "injection/sql")!;
        var place = result["locations"]![0]!["physicalLocation"]!;
        Assert.Equal("a%20b/%C3%A4.php", place["artifactLocation"]!["uri"]!.GetValue<string>());
        Assert.Equal(4, place["region"]!["startLine"]!.GetValue<int>());
        Assert.Contains(result["taxa"]!.AsArray(), t => t!["id"]!.GetValue<string>() == "89" && t["toolComponent"]!["name"]!.GetValue<string>() == "CWE");
        Assert.Equal("proved", result["properties"]!["certainty"]!.GetValue<string>());
        Assert.Equal("' OR 1=1 -- ", result["properties"]!["witness"]!["value"]!.GetValue<string>());
        Assert.Equal("injection", result["properties"]!["area"]!.GetValue<string>());
        Assert.True(result["codeFlows"]![0]!["threadFlows"]![0]!["locations"]!.AsArray().Count >= 2);
        Assert.StartsWith("CVSS:3.1/", result["properties"]!["cvss"]!.GetValue<string>(), StringComparison.Ordinal);
        var rule = run["tool"]!["driver"]!["rules"]![result["ruleIndex"]!.GetValue<int>()]!;
        Assert.Equal("injection/sql", rule["id"]!.GetValue<string>());
        Assert.Equal(["CWE", "ASVS"], rule["relationships"]!.AsArray().Select(r => r!["target"]!["toolComponent"]!["name"]!.GetValue<string>()));
        Assert.Equal(["CWE", "ASVS"], run["taxonomies"]!.AsArray().Select(t => t!["name"]!.GetValue<string>()));
    }

    [Fact]
    public void A_fingerprint_survives_edits_elsewhere_in_the_file()
    {
        var before = Auditor.Run(("a.php", Weak)).Findings.Select(f => f.Fingerprint);
        var after = Auditor.Run(("a.php", Weak.Replace("<?php\n", "<?php\n// A new line.\nfunction other() { return 1; }\n", StringComparison.Ordinal))).Findings.Select(f => f.Fingerprint);
        Assert.Equal(before, after);
        Assert.Equal(before.Count(), before.Distinct().Count());
    }

    [Fact]
    public void The_summary_prints_nothing_that_steers_a_terminal()
    {
        using var output = new StringWriter();
        SummaryReport.Write(Auditor.Run(("a\u001b[31m.php", Weak)), output);
        Assert.DoesNotContain('\u001b', output.ToString());
    }

    /// <summary>Vectors and scores of FIRST's "CVSS v3.1 Examples", from memory of that document.</summary>
    [Theory]
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:C/C:L/I:L/A:N", 6.4)] // MySQL stored procedure SQL injection (CVE-2013-0375)
    [InlineData("CVSS:3.1/AV:N/AC:H/PR:N/UI:R/S:U/C:L/I:N/A:N", 3.1)] // SSLv3 POODLE (CVE-2014-3566)
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:N/A:N", 7.5)] // OpenSSL Heartbleed (CVE-2014-0160)
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H", 9.8)] // GNU Bash Shellshock (CVE-2014-6271)
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:C/C:H/I:H/A:H", 9.9)] // VMware guest to host escape (CVE-2012-1516)
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:C/C:L/I:L/A:N", 6.1)] // phpMyAdmin reflected XSS (CVE-2013-1937)
    [InlineData("CVSS:3.1/AV:A/AC:L/PR:N/UI:N/S:C/C:H/I:N/A:H", 9.3)] // Juniper Proxy ARP denial of service (CVE-2013-6014)
    [InlineData("CVSS:3.1/AV:P/AC:L/PR:N/UI:N/S:U/C:N/I:H/A:N", 4.6)] // iOS lock screen bypass (CVE-2014-2005 like)
    [InlineData("CVSS:3.1/AV:L/AC:L/PR:N/UI:R/S:U/C:N/I:N/A:N", 0.0)]
    public void Cvss_base_scores_are_those_of_first(string vector, double score) => Assert.Equal(score, Cvss31.BaseScore(vector));

    [Theory]
    [InlineData("CVSS:3.0/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:N/A:N")]
    [InlineData("CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:N")]
    [InlineData("CVSS:3.1/AV:X/AC:L/PR:N/UI:N/S:U/C:H/I:N/A:N")]
    [InlineData("CVSS:3.1/AV:N/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:N/A:N")]
    public void Malformed_vectors_are_refused(string vector) => Assert.Throws<FormatException>(() => Cvss31.BaseScore(vector));

    [Fact]
    public void Every_check_is_complete()
    {
        Assert.All(CheckList.All, check =>
        {
            Assert.Matches("^[a-z]+/[a-z-]+$", check.Id);
            Assert.Contains(check.Area, CheckList.Areas);
            Assert.NotEmpty(check.Cwes);
            Assert.NotEmpty(check.Asvs);
            Assert.True(check.Score > 0);
            Assert.True(check.Title.Length > 8);
            Assert.All(new[] { check.Why, check.FalsePositiveIf, check.HowToFix("php"), check.HowToFix("javascript") }, text => Assert.True(text.Length > 20));
        });
    }
}
