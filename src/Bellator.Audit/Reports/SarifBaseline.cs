using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Text;

namespace Bellator.Audit.Reports;

/// <summary>A file that is taken as a baseline is not one.</summary>
public sealed class BaselineException(string message) : Exception(message);

/// <param name="Findings">In the order of the file.</param>
/// <param name="Verdicts">Suppressions, by fingerprint; only of reports that are our own.</param>
/// <param name="Unknown">Results that are about no weakness that Bellator looks for.</param>
public sealed record Baseline(IReadOnlyList<ReportedFinding> Findings, IReadOnlyDictionary<string, SarifVerdict> Verdicts, int Unknown);

/// <summary>
/// Reads the results of a SARIF 2.1.0 log as the findings of an earlier version. Of our own reports all that recognises a finding is there;
/// of others the place, and by its CWE the weakness.
/// </summary>
public static partial class SarifBaseline
{
    private const int MostResults = 200_000;

    /// <exception cref="BaselineException">It is no SARIF 2.1.0 log.</exception>
    public static Baseline Read(byte[] content)
    {
        try
        {
            using var json = JsonDocument.Parse(content, new JsonDocumentOptions { MaxDepth = 256 });
            if (json.RootElement.ValueKind != JsonValueKind.Object || Text(json.RootElement, "version") != "2.1.0")
            {
                throw new BaselineException("it is no SARIF 2.1.0 log");
            }

            var findings = new List<ReportedFinding>();
            var verdicts = new Dictionary<string, SarifVerdict>(StringComparer.Ordinal);
            var unknown = 0;
            foreach (var run in Items(json.RootElement, "runs"))
            {
                var rules = RulesOf(run);
                foreach (var result in Items(run, "results"))
                {
                    // What a log says to be gone since its own baseline is no part of its version.
                    if (Text(result, "baselineState") == "absent" || Text(result, "kind") is not ("" or "fail" or "open" or "review"))
                    {
                        continue;
                    }

                    if (findings.Count == MostResults)
                    {
                        throw new BaselineException($"it has more than {MostResults} results");
                    }

                    if (Finding(result, rules) is not { } finding)
                    {
                        unknown++;
                        continue;
                    }

                    findings.Add(finding);
                    if (finding.Fingerprint.Length > 0 && Verdict(result) is { } verdict)
                    {
                        verdicts[finding.Fingerprint] = verdict;
                    }
                }
            }

            return new Baseline(findings, verdicts, unknown);
        }
        catch (Exception e) when (e is JsonException or InvalidOperationException or FormatException or KeyNotFoundException)
        {
            throw new BaselineException("it is no SARIF 2.1.0 log: " + e.Message);
        }
    }

    private static ReportedFinding? Finding(JsonElement result, IReadOnlyDictionary<string, JsonElement> rules)
    {
        var rule = Text(result, "ruleId") is { Length: > 0 } id ? id : Object(result, "rule") is { } reference ? Text(reference, "id") : "";
        var ours = CheckList.Find(rule);
        if ((ours ?? CheckOf(result, rules, rule)) is not { } alike)
        {
            return null;
        }

        if (Items(result, "locations").Select(PlaceOf).FirstOrDefault(p => p is not null) is not { } place)
        {
            return null;
        }

        var prints = Object(result, "partialFingerprints");
        var properties = Object(result, "properties");
        var steps = Items(result, "codeFlows").Take(1).SelectMany(f => Items(f, "threadFlows").Take(1)).SelectMany(t => Items(t, "locations"))
            .Select(l => Object(l, "location")).OfType<JsonElement>()
            .Select(l => PlaceOf(l) is { } at ? new ReportedStep(Object(l, "properties") is { } p ? Text(p, "kind") : "", Object(l, "properties") is { } q ? Text(q, "note") : "", at.Path, at.Region) : null)
            .OfType<ReportedStep>().ToList();
        return new ReportedFinding(
            alike.Id,
            alike.Area,
            Enum.TryParse<Certainty>(properties is { } known ? Text(known, "certainty") : "", ignoreCase: true, out var certainty) ? certainty : Certainty.Matched,
            Object(result, "message") is { } message ? Text(message, "text") : "",
            place.Path,
            place.Region,
            "",
            alike.Cwes,
            ours is not null && properties is { } scored && scored.TryGetProperty("cvssScore", out var score) && score.ValueKind == JsonValueKind.Number ? score.GetDouble() : alike.Score,
            steps,
            [],
            ours is not null && prints is { } own ? Text(own, SarifReport.Fingerprint) : "",
            null,
            ours is not null && prints is { } digests && Text(digests, SarifReport.CodePrint) is { Length: > 0 } code
                ? new FindingTraits(code, Text(digests, SarifReport.ShapePrint), Text(digests, SarifReport.WayPrint), Property("scope"), Property("around"), Property("lines"), Property("source"), Property("names"), Property("nearby"), Property("aroundShape"))
                : null);

        string Property(string name) => properties is { } bag ? Text(bag, name) : "";
    }

    private static Check? CheckOf(JsonElement result, IReadOnlyDictionary<string, JsonElement> rules, string rule) =>
        Cwes(result, rules.TryGetValue(rule, out var declared) ? declared : null)
            .Select(c => CheckList.All.Where(k => k.Cwes.Contains(c)).MinBy(k => k.Cwes.ToList().IndexOf(c))).FirstOrDefault(k => k is not null);

    /// <summary>The weakness that a result is about, from its taxa, and from what its rule says in whatever words.</summary>
    private static IEnumerable<int> Cwes(JsonElement result, JsonElement? rule)
    {
        foreach (var taxon in Items(result, "taxa"))
        {
            if (int.TryParse(Text(taxon, "id"), NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            {
                yield return number;
            }
        }

        foreach (var text in (IEnumerable<string?>)[Text(result, "ruleId"), rule?.GetRawText()])
        {
            foreach (Match match in Cwe().Matches(text ?? ""))
            {
                yield return int.Parse(match.Groups[1].Value, CultureInfo.InvariantCulture);
            }
        }
    }

    private static ReportedPlace? PlaceOf(JsonElement location)
    {
        if (Object(location, "physicalLocation") is not { } physical || Object(physical, "artifactLocation") is not { } artifact || Text(artifact, "uri") is not { Length: > 0 } uri)
        {
            return null;
        }

        var path = Uri.UnescapeDataString(uri);
        path = path.StartsWith("file:///", StringComparison.OrdinalIgnoreCase) ? path[8..] : path.StartsWith("./", StringComparison.Ordinal) ? path[2..] : path;
        if (Object(physical, "region") is not { } region)
        {
            return new ReportedPlace(path, new Region(1, 1, 1, 1));
        }

        var line = Number(region, "startLine", 1);
        var column = Number(region, "startColumn", 1);
        var endLine = Number(region, "endLine", line);
        return new ReportedPlace(path, new Region(line, column, endLine, Number(region, "endColumn", endLine == line ? column : 1)));
    }

    private static SarifVerdict? Verdict(JsonElement result)
    {
        foreach (var suppression in Items(result, "suppressions"))
        {
            var text = Text(suppression, "justification");
            var colon = text.IndexOf(": ", StringComparison.Ordinal);
            if (colon > 0)
            {
                return new SarifVerdict(Verdicts.Current(text[..colon]), text[(colon + 2)..]);
            }
        }

        return null;
    }

    private static Dictionary<string, JsonElement> RulesOf(JsonElement run)
    {
        var rules = new Dictionary<string, JsonElement>(StringComparer.Ordinal);
        if (Object(run, "tool") is { } tool)
        {
            foreach (var rule in (Object(tool, "driver") is { } driver ? Items(driver, "rules") : []).Concat(Items(tool, "extensions").SelectMany(e => Items(e, "rules"))))
            {
                rules.TryAdd(Text(rule, "id"), rule);
            }
        }

        return rules;
    }

    private static IEnumerable<JsonElement> Items(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.Array ? value.EnumerateArray() : [];

    private static JsonElement? Object(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.Object ? value : null;

    private static string Text(JsonElement element, string name) =>
        element.ValueKind == JsonValueKind.Object && element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.String ? value.GetString()! : "";

    private static int Number(JsonElement element, string name, int otherwise) =>
        element.TryGetProperty(name, out var value) && value.ValueKind == JsonValueKind.Number && value.TryGetInt32(out var number) ? Math.Max(1, number) : otherwise;

    [GeneratedRegex(@"cwe[-_/: ]{0,2}0*([0-9]{1,5})", RegexOptions.IgnoreCase, 500)]
    private static partial Regex Cwe();
}
