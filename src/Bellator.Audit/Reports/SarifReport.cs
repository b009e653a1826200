using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Text;

namespace Bellator.Audit.Reports;

/// <summary>A judgement that goes into a report.</summary>
public sealed record SarifVerdict(string Verdict, string Reason);

/// <summary>A finding as a report says it.</summary>
/// <param name="State">What became of it since the baseline; null where there is none.</param>
public sealed record SarifResult(ReportedFinding Finding, SarifVerdict? Verdict, FindingState? State = null);

/// <summary>Writes SARIF 2.1.0 (OASIS Standard, "Static Analysis Results Interchange Format Version 2.1.0").</summary>
public static class SarifReport
{
    private const string Schema = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";
    /// <summary>Names of the partial fingerprints; SARIF 2.1.0, section 3.27.17, asks for the version at the end.</summary>
    internal const string Fingerprint = "bellator/v1";
    internal const string CodePrint = "bellatorCode/v2";
    internal const string ShapePrint = "bellatorShape/v2";
    internal const string WayPrint = "bellatorWay/v2";

    private const int CweTaxonomy = 0;
    private const int AsvsTaxonomy = 1;

    /// <param name="verdicts">Judgements by fingerprint that take a finding out of what is open; written as suppressions with their reason.</param>
    public static string Write(AuditResult result, string version, IReadOnlyDictionary<string, SarifVerdict>? verdicts = null) =>
        Write(result, version, result.Findings.Select(f => new SarifResult(f, verdicts?.GetValueOrDefault(f.Fingerprint))));

    /// <param name="results">The findings of this version, and, where there is a baseline, those that are gone.</param>
    public static string Write(AuditResult about, string version, IEnumerable<SarifResult> results)
    {
        using var stream = new MemoryStream();
        using (var writer = Begin(stream, about, version, out var cwes))
        {
            foreach (var result in results)
            {
                Result(result, cwes).WriteTo(writer);
            }

            End(writer);
        }

        return Encoding.UTF8.GetString(stream.GetBuffer(), 0, (int)stream.Length);
    }

    /// <summary>Writes findings as they come: no more of the report is in memory than a few of them.</summary>
    /// <param name="about">What there is to say of the audit besides its findings.</param>
    public static async Task WriteAsync(Stream output, AuditResult about, string version, IAsyncEnumerable<SarifResult> results, CancellationToken cancel)
    {
        await using var writer = Begin(output, about, version, out var cwes);
        await foreach (var result in results.WithCancellation(cancel))
        {
            Result(result, cwes).WriteTo(writer);
            if (writer.BytesPending > FlushedBytes)
            {
                await writer.FlushAsync(cancel);
            }
        }

        End(writer);
        await writer.FlushAsync(cancel);
    }

    private const int FlushedBytes = 32 * 1024;

    private static Utf8JsonWriter Begin(Stream output, AuditResult result, string version, out List<int> cwes)
    {
        var checks = CheckList.All;
        cwes = [.. checks.SelectMany(c => c.Cwes).Concat(result.Findings.SelectMany(f => f.Cwes)).Distinct().Order()];
        var requirements = checks.SelectMany(c => c.Asvs).Distinct().Order(StringComparer.Ordinal).ToList();
        var run = new JsonObject
        {
            ["tool"] = new JsonObject
            {
                ["driver"] = new JsonObject
                {
                    ["name"] = "Bellator",
                    ["version"] = version,
                    ["semanticVersion"] = version,
                    ["rules"] = new JsonArray([.. checks.Select(Rule)]),
                    ["supportedTaxonomies"] = new JsonArray(Component("CWE"), Component("ASVS")),
                },
            },
            ["columnKind"] = "utf16CodeUnits",
            ["originalUriBaseIds"] = new JsonObject { ["SOURCE"] = new JsonObject { ["description"] = new JsonObject { ["text"] = "The audited folder, archive or file." } } },
            ["taxonomies"] = new JsonArray(
                Taxonomy("CWE", "MITRE", "Common Weakness Enumeration", cwes.Select(c => c.ToString(System.Globalization.CultureInfo.InvariantCulture))),
                Taxonomy("ASVS", "OWASP", "OWASP Application Security Verification Standard 5.0", requirements)),
            ["invocations"] = new JsonArray(Invocation(result)),
            ["properties"] = new JsonObject
            {
                ["files"] = result.Figures.Files,
                ["lines"] = result.Figures.Lines,
                ["opaqueNodes"] = result.Figures.OpaqueNodes,
                ["nodes"] = result.Figures.Nodes,
            },
        };
        var writer = new Utf8JsonWriter(output, new JsonWriterOptions { Indented = true, Encoder = JsonReport.Indented.Encoder, MaxDepth = JsonReport.Indented.MaxDepth });
        writer.WriteStartObject();
        writer.WriteString("$schema", Schema);
        writer.WriteString("version", "2.1.0");
        writer.WriteStartArray("runs");
        writer.WriteStartObject();
        foreach (var (name, value) in run)
        {
            writer.WritePropertyName(name);
            value!.WriteTo(writer);
        }

        writer.WriteStartArray("results");
        return writer;
    }

    private static void End(Utf8JsonWriter writer)
    {
        writer.WriteEndArray();
        writer.WriteEndObject();
        writer.WriteEndArray();
        writer.WriteEndObject();
    }

    private static JsonObject Component(string name) => new() { ["name"] = name };

    private static JsonObject Rule(Check check) => new()
    {
        ["id"] = check.Id,
        ["name"] = string.Concat(check.Id.Split('/', '-').Select(w => char.ToUpperInvariant(w[0]) + w[1..])),
        ["shortDescription"] = new JsonObject { ["text"] = check.Title + "." },
        ["fullDescription"] = new JsonObject { ["text"] = check.Why },
        ["help"] = new JsonObject { ["text"] = check.HowToFix("") + " It would be a false alarm if: " + check.FalsePositiveIf },
        ["defaultConfiguration"] = new JsonObject { ["level"] = "warning" },
        ["properties"] = new JsonObject
        {
            ["area"] = check.Area,
            ["cvss"] = check.Vector,
            ["cvssScore"] = check.Score,
        },
        ["relationships"] = new JsonArray([
            .. check.Cwes.Select(c => Relationship("CWE", c.ToString(System.Globalization.CultureInfo.InvariantCulture), CweTaxonomy)),
            .. check.Asvs.Select(a => Relationship("ASVS", a, AsvsTaxonomy))]),
    };

    private static JsonObject Relationship(string component, string id, int index) => new()
    {
        ["target"] = new JsonObject { ["id"] = id, ["toolComponent"] = new JsonObject { ["name"] = component, ["index"] = index } },
        ["kinds"] = new JsonArray("relevant"),
    };

    private static JsonObject Taxonomy(string name, string organization, string title, IEnumerable<string> ids) => new()
    {
        ["name"] = name,
        ["organization"] = organization,
        ["shortDescription"] = new JsonObject { ["text"] = title },
        ["taxa"] = new JsonArray([.. ids.Select(id => new JsonObject { ["id"] = id })]),
    };

    private static JsonObject Invocation(AuditResult result)
    {
        var notifications = new JsonArray();
        foreach (var skipped in result.Skipped)
        {
            notifications.Add(Notification("note", $"Left out: {SkipText.Of(skipped)}", skipped.Path));
        }

        foreach (var note in result.Notes)
        {
            notifications.Add(Notification("warning", note.Text, note.Path));
        }

        return new JsonObject { ["executionSuccessful"] = true, ["toolExecutionNotifications"] = notifications };
    }

    private static JsonObject Notification(string level, string text, string path)
    {
        var notification = new JsonObject { ["level"] = level, ["message"] = new JsonObject { ["text"] = text } };
        if (path.Length > 0)
        {
            notification["locations"] = new JsonArray(new JsonObject { ["physicalLocation"] = new JsonObject { ["artifactLocation"] = Artifact(path) } });
        }

        return notification;
    }

    private static JsonObject Result(SarifResult reported, List<int> cwes)
    {
        var (finding, verdict, state) = reported;
        var checks = CheckList.All;
        var index = 0;
        while (checks[index].Id != finding.CheckId)
        {
            index++;
        }

        var result = new JsonObject
        {
            ["ruleId"] = finding.CheckId,
            ["ruleIndex"] = index,
            ["level"] = Level(finding),
            ["rank"] = finding.Score * 10,
            ["message"] = new JsonObject { ["text"] = finding.Message },
            ["locations"] = new JsonArray(Location(finding.Path, finding.Region)),
            ["partialFingerprints"] = new JsonObject { [Fingerprint] = finding.Fingerprint },
            ["taxa"] = new JsonArray([.. finding.Cwes.Select(c => Taxon(c, cwes.IndexOf(c)))]),
            ["properties"] = new JsonObject
            {
                ["area"] = finding.Area,
                ["certainty"] = finding.Certainty.ToString().ToLowerInvariant(),
                ["cvss"] = finding.Check.Vector,
                ["cvssScore"] = finding.Score,
            },
        };
        if (finding.Traits is { } traits)
        {
            result["partialFingerprints"]![CodePrint] = traits.Code;
            result["partialFingerprints"]![ShapePrint] = traits.Shape;
            result["partialFingerprints"]![WayPrint] = traits.Way;
            result["properties"]!["scope"] = traits.Scope;
            result["properties"]!["around"] = traits.Around;
            result["properties"]!["lines"] = traits.Lines;
            result["properties"]!["source"] = traits.Source;
            result["properties"]!["names"] = traits.Names;
            result["properties"]!["nearby"] = traits.Nearby;
            result["properties"]!["aroundShape"] = traits.AroundShape;
        }

        if (state is { } since)
        {
            // SARIF 2.1.0, section 3.27.24.
            result["baselineState"] = since switch
            {
                FindingState.New => "new",
                FindingState.Gone => "absent",
                FindingState.Changed => "updated",
                _ => "unchanged",
            };
        }

        if (finding.Witness is { } witness)
        {
            result["properties"]!["witness"] = new JsonObject
            {
                ["kind"] = witness.Kind,
                ["value"] = witness.Value,
                ["ordinary"] = witness.Ordinary,
                ["crafted"] = witness.Crafted,
                ["explanation"] = witness.Explanation,
            };
        }

        if (verdict is not null)
        {
            result["suppressions"] = new JsonArray(new JsonObject { ["kind"] = "external", ["status"] = "accepted", ["justification"] = verdict.Verdict + ": " + verdict.Reason });
        }

        if (finding.Related.Count > 0)
        {
            result["relatedLocations"] = new JsonArray([.. finding.Related.Select(r => Location(r.Path, r.Region))]);
        }

        if (finding.Steps.Count > 0)
        {
            result["codeFlows"] = new JsonArray(new JsonObject
            {
                ["threadFlows"] = new JsonArray(new JsonObject
                {
                    ["locations"] = new JsonArray([.. finding.Steps.Select(s =>
                    {
                        var location = Location(s.Path, s.Region);
                        location["message"] = new JsonObject { ["text"] = StepText.Of(s) };
                        location["properties"] = new JsonObject { ["kind"] = s.Kind, ["note"] = s.Note };
                        return new JsonObject { ["location"] = location };
                    })]),
                }),
            });
        }

        return result;
    }

    /// <param name="index">Where the taxonomy lists it; below 0 where it does not, for the list is written before the findings are known.</param>
    private static JsonObject Taxon(int cwe, int index)
    {
        var taxon = new JsonObject
        {
            ["id"] = cwe.ToString(System.Globalization.CultureInfo.InvariantCulture),
            ["toolComponent"] = new JsonObject { ["name"] = "CWE", ["index"] = CweTaxonomy },
        };
        if (index >= 0)
        {
            taxon["index"] = index;
        }

        return taxon;
    }

    private static string Level(ReportedFinding finding) =>
        finding.Certainty == Certainty.Matched && finding.Area == "injection" ? "note" : finding.Score >= 7 && finding.Certainty != Certainty.Matched ? "error" : "warning";

    private static JsonObject Location(string path, Region region) => new()
    {
        ["physicalLocation"] = new JsonObject
        {
            ["artifactLocation"] = Artifact(path),
            ["region"] = new JsonObject
            {
                ["startLine"] = region.StartLine,
                ["startColumn"] = region.StartColumn,
                ["endLine"] = region.EndLine,
                ["endColumn"] = Math.Max(region.EndColumn, region.EndLine == region.StartLine ? region.StartColumn : 1),
            },
        },
    };

    private static JsonObject Artifact(string path) => new()
    {
        ["uri"] = string.Join('/', path.Split('/').Select(Uri.EscapeDataString)),
        ["uriBaseId"] = "SOURCE",
    };
}
