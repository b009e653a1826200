using System.Text.Json.Nodes;

namespace Bellator.Cli.Tests;

/// <summary><c>bellator audit --baseline</c> and <c>bellator report</c>, as a build server calls them.</summary>
public sealed class BaselineTests : IDisposable
{
    private const string Weak = "<?php\nmysqli_query($c, 'SELECT * FROM hive WHERE a = ' . $_GET['a']);\n";
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-baseline-").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public async Task Only_what_is_new_fails_the_build()
    {
        var (old, now, sarif) = (Code("app-1", ("a.php", Weak)), Code("app-2", ("a.php", "<?php\n// later\n" + Weak[6..])), Path.Combine(_folder, "old.sarif"));
        Assert.Equal(0, await RunAsync("audit", old, "--sarif", sarif, "--quiet"));
        Assert.Equal(0, await RunAsync("audit", now, "--baseline", sarif, "--fail-on-new", "--quiet"));
        await File.WriteAllTextAsync(Path.Combine(now, "b.php"), "<?php\necho $_GET['b'];\n");
        Assert.Equal(1, await RunAsync("audit", now, "--baseline", sarif, "--fail-on-new", "--quiet"));
        Assert.Equal(0, await RunAsync("audit", now, "--baseline", sarif, "--fail-on-new", "--fail-on", "critical", "--quiet"));
        Assert.Equal(2, await RunAsync("audit", now, "--fail-on-new", "--quiet"));
        Assert.Equal(2, await RunAsync("audit", now, "--baseline", Path.Combine(_folder, "none.sarif"), "--quiet"));
    }

    /// <summary>SARIF 2.1.0, section 3.27.24: new, unchanged, updated or absent.</summary>
    [Fact]
    public async Task Sarif_says_what_became_of_each_result()
    {
        var (old, now, sarif, next) = (Code("app-1", ("a.php", Weak), ("gone.php", "<?php\necho $_GET['gone'];\n")), Code("app-2", ("a.php", Weak), ("new.php", "<?php\nsystem($_GET['new']);\n")), Path.Combine(_folder, "old.sarif"), Path.Combine(_folder, "next.sarif"));
        await RunAsync("audit", old, "--sarif", sarif, "--quiet");
        await RunAsync("audit", now, "--baseline", sarif, "--sarif", next, "--quiet");
        var results = JsonNode.Parse(await File.ReadAllTextAsync(next))!["runs"]![0]!["results"]!.AsArray();
        Assert.Equal(
            [("absent", "gone.php"), ("new", "new.php"), ("unchanged", "a.php")],
            results.Select(r => (r!["baselineState"]!.GetValue<string>(), r["locations"]![0]!["physicalLocation"]!["artifactLocation"]!["uri"]!.GetValue<string>())).Order());
        var before = JsonNode.Parse(await File.ReadAllTextAsync(sarif))!["runs"]![0]!["results"]!.AsArray();
        Assert.Equal(Print(before.Single(r => r!["ruleId"]!.GetValue<string>() == "injection/sql")!), Print(results.Single(r => r!["ruleId"]!.GetValue<string>() == "injection/sql")!));

        static string Print(JsonNode result) => result["partialFingerprints"]!["bellator/v1"]!.GetValue<string>();
    }

    [Fact]
    public async Task A_report_is_made_from_code_and_verdicts()
    {
        var (code, json, html, verdicts) = (Code("app", ("a.php", Weak)), Path.Combine(_folder, "r.json"), Path.Combine(_folder, "r.html"), Path.Combine(_folder, "v.json"));
        Assert.Equal(0, await RunAsync("report", code, "--json", json, "--quiet"));
        var print = JsonNode.Parse(await File.ReadAllTextAsync(json))!["causes"]![0]!["findings"]![0]!["fingerprint"]!.GetValue<string>();
        await File.WriteAllTextAsync(verdicts, $$"""{"application":"Register","by":"I. Marsh","verdicts":[{"fingerprint":"{{print}}","verdict":"confirmed","reason":"tried it","by":"I. Marsh"}]}""");
        Assert.Equal(0, await RunAsync("report", code, "--verdicts", verdicts, "--html", html, "--markdown", Path.Combine(_folder, "r.md"), "--csv", Path.Combine(_folder, "r.csv"), "--standards", Path.Combine(_folder, "s.csv"), "--sarif", Path.Combine(_folder, "r.sarif"), "--openapi", Path.Combine(_folder, "o.json"), "--baseline", code, "--quiet"));
        Assert.Contains("Security review of Register", await File.ReadAllTextAsync(html), StringComparison.Ordinal);
        Assert.Contains("confirmed by I. Marsh: tried it", await File.ReadAllTextAsync(html), StringComparison.Ordinal);
        await File.WriteAllTextAsync(verdicts, """{"verdicts":[{"fingerprint":"x","verdict":"lovely","reason":""}]}""");
        Assert.Equal(2, await RunAsync("report", code, "--verdicts", verdicts, "--html", html, "--quiet"));
        Assert.Equal(2, await RunAsync("report", code, "--quiet"));
    }

    private string Code(string name, params (string Path, string Code)[] files)
    {
        var folder = Directory.CreateDirectory(Path.Combine(_folder, name)).FullName;
        foreach (var (path, code) in files)
        {
            File.WriteAllText(Path.Combine(folder, path), code);
        }

        return folder;
    }

    private async Task<int> RunAsync(params string[] arguments) => (await CommandRun.RunAsync(_folder, null, arguments)).Code;
}
