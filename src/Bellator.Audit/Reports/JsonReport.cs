using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Witnesses;

namespace Bellator.Audit.Reports;

/// <summary>Writes a plain JSON report with Bellator's own names.</summary>
public static class JsonReport
{
    internal static readonly JsonSerializerOptions Indented = new() { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    /// <param name="compared">What became of findings since a baseline; null where there is none.</param>
    public static string Write(AuditResult result, string version, IReadOnlyList<ComparedFinding>? compared = null)
    {
        var report = Report(result, version);
        if (compared is not null)
        {
            report["sinceBaseline"] = new JsonArray([.. compared.Select(c => new JsonObject
            {
                ["state"] = ComparisonReport.Title(c.State).ToLowerInvariant(),
                ["fingerprint"] = (c.After ?? c.Before)!.Fingerprint,
                ["check"] = (c.After ?? c.Before)!.CheckId,
                ["before"] = c.Before is { } b ? $"{b.Path}:{b.Region.StartLine}" : null,
                ["after"] = c.After is { } a ? $"{a.Path}:{a.Region.StartLine}" : null,
                ["reason"] = c.Reason,
                ["gone"] = c.Lost is { } lost ? ComparisonReport.Of(lost.Kind) : null,
            })]);
        }

        return report.ToJsonString(Indented);
    }

    private static JsonObject Report(AuditResult result, string version) => new()
    {
        ["bellator"] = version,
        ["name"] = result.Name,
        ["figures"] = new JsonObject
        {
            ["files"] = result.Figures.Files,
            ["lines"] = result.Figures.Lines,
            ["functions"] = result.Figures.Functions,
            ["nodes"] = result.Figures.Nodes,
            ["opaqueNodes"] = result.Figures.OpaqueNodes,
            ["parseErrors"] = result.Figures.ParseErrors,
            ["milliseconds"] = (long)result.Figures.TotalTime.TotalMilliseconds,
        },
        ["findings"] = new JsonArray([.. result.Findings.Select(Finding)]),
        ["skipped"] = new JsonArray([.. result.Skipped.Select(s => new JsonObject { ["path"] = s.Path, ["reason"] = SkipText.Of(s) })]),
        ["notes"] = new JsonArray([.. result.Notes.Select(n => new JsonObject { ["path"] = n.Path, ["text"] = n.Text })]),
    };

    private static JsonObject Finding(ReportedFinding finding) => new()
    {
        ["check"] = finding.CheckId,
        ["area"] = finding.Area,
        ["certainty"] = finding.Certainty.ToString().ToLowerInvariant(),
        ["message"] = finding.Message,
        ["path"] = finding.Path,
        ["line"] = finding.Region.StartLine,
        ["column"] = finding.Region.StartColumn,
        ["cwe"] = new JsonArray([.. finding.Cwes.Select(c => (JsonNode)c)]),
        ["score"] = finding.Score,
        ["vector"] = finding.Check.Vector,
        ["fingerprint"] = finding.Fingerprint,
        ["witness"] = finding.Witness is { } w ? new JsonObject { ["kind"] = w.Kind, ["value"] = w.Value, ["ordinary"] = w.Ordinary, ["crafted"] = w.Crafted, ["explanation"] = w.Explanation, ["replay"] = w.Replay is { } r ? new JsonObject { ["ordinary"] = Replayed(r.Ordinary), ["crafted"] = Replayed(r.Crafted) } : null } : null,
        ["steps"] = new JsonArray([.. finding.Steps.Select(s => new JsonObject { ["what"] = StepText.Of(s), ["path"] = s.Path, ["line"] = s.Region.StartLine })]),
    };

    private static JsonObject Replayed(ReplayedStatement statement) => new()
    {
        ["count"] = statement.Count,
        ["changed"] = statement.Changed,
        ["columns"] = new JsonArray([.. statement.Columns.Select(c => (JsonNode)c)]),
        ["rows"] = new JsonArray([.. statement.Rows.Select(r => new JsonArray([.. r.Select(c => (JsonNode)c)]))]),
        ["error"] = statement.Error,
    };
}
