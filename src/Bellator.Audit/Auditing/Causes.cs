using System.Globalization;
using Bellator.Audit.Checks;

namespace Bellator.Audit.Auditing;

/// <summary>A place in a file, as causes refer to it.</summary>
public readonly record struct CodePlace(string Path, int Line)
{
    public override string ToString() => $"{Path}:{Line}";
}

/// <summary>One flow of a cause: the finding with where its value comes in.</summary>
public sealed record CauseFlow(ReportedFinding Finding, CodePlace Source, CodePlace Mend);

/// <summary>What kind of place a cause is: how a person would say what to change.</summary>
public enum CauseKind
{
    /// <summary>A line of code.</summary>
    Place,

    /// <summary>A function or statement through which several values flow.</summary>
    Helper,

    /// <summary>Something that is missing in several places and belongs before all of them: middleware, or a setting.</summary>
    Missing,

    /// <summary>A declaration in the schema.</summary>
    Column,

    /// <summary>A page template.</summary>
    Template,
}

/// <summary>Findings that one change mends: one thing to understand.</summary>
/// <param name="CheckId">The weakness.</param>
/// <param name="Sink">Where all of them end.</param>
/// <param name="Cut">The place where one change mends most of them.</param>
/// <param name="CutCount">How many that is.</param>
/// <param name="Flows">The findings, by where their values come in.</param>
public sealed record Cause(string CheckId, CauseKind Kind, CodePlace Sink, CodePlace Cut, int CutCount, IReadOnlyList<CauseFlow> Flows)
{
    public double Score { get; } = Flows.Max(f => f.Finding.Score);

    public Certainty Certainty { get; } = Flows.Max(f => f.Finding.Certainty);

    /// <summary>Endpoints from which it is reached, open ones first.</summary>
    public IReadOnlyList<ReportedWay> Ways { get; } = [.. Flows.SelectMany(f => f.Finding.Ways).Distinct().OrderBy(w => w.SignIn == "notNeeded" ? 0 : w.SignIn == "unclear" ? 1 : 2).ThenBy(w => w.Path, StringComparer.Ordinal)];

    public int OpenWays => Ways.Count(w => w.SignIn == "notNeeded");

    /// <summary>
    /// What a reviewer would open first: severity, and on top of it how sure it is, whether anybody can reach it without signing in, and
    /// how many ways lead in. The parts are ours; no standard says them.
    /// </summary>
    public double Rank => Score + Sure + Reached + Many;

    /// <summary>Why it stands where it does, in a few words.</summary>
    public string RankReason => string.Create(CultureInfo.InvariantCulture, $"severity {Score:0.0}, {Certainty.ToString().ToLowerInvariant()}{(OpenWays > 0 ? ", reachable without signing in" : Ways.Count > 0 ? Ways.Any(w => w.SignIn == "unclear") ? ", unclear whether sign-in is needed" : ", behind sign-in" : "")}{(Flows.Count > 1 ? $", {Flows.Count} ways in" : "")}");

    private double Sure => Certainty switch { Certainty.Proved => 1, Certainty.Traced => 0.5, _ => 0 };

    private double Reached => OpenWays > 0 ? 1 : Ways.Count == 0 || Ways.Any(w => w.SignIn == "unclear") ? 0.3 : 0;

    private double Many => Math.Min(1, Math.Log2(Flows.Count) * 0.2);
}

/// <summary>Groups findings by what they have in common.</summary>
public static class Causes
{
    private static readonly string[] TemplateEndings = [".erb", ".ejs", ".html", ".htm", ".cshtml", ".razor", ".blade.php", ".twig", ".phtml", ".hbs", ".handlebars", ".vue", ".jinja", ".jinja2", ".j2"];

    /// <summary>What a reviewer would open first, first.</summary>
    public static IReadOnlyList<Cause> Of(IEnumerable<ReportedFinding> findings) =>
        [.. findings.Select(Flow)
            .GroupBy(f => KeyOf(f.Flow.Finding, f.Sink))
            .Select(g =>
            {
                var flows = g.Select(f => f.Flow).OrderBy(f => f.Source.Path, StringComparer.Ordinal).ThenBy(f => f.Source.Line).ToList();
                var cut = flows.GroupBy(f => f.Mend).OrderByDescending(m => m.Count()).ThenBy(m => m.Key.Path, StringComparer.Ordinal).ThenBy(m => m.Key.Line).First();
                return new Cause(g.Key.CheckId, KindOf(g.Key.CheckId, g.First().Sink, flows.Count), g.First().Sink, cut.Key, cut.Count(), flows);
            })
            .OrderByDescending(c => c.Rank).ThenBy(c => c.Sink.Path, StringComparer.Ordinal).ThenBy(c => c.Sink.Line).ThenBy(c => c.CheckId, StringComparer.Ordinal)];

    /// <summary>A step that journeys lack is one thing to add, wherever it is missing.</summary>
    private static (string CheckId, CodePlace Sink) KeyOf(ReportedFinding finding, CodePlace sink) => IsMissing(finding.CheckId) ? (finding.CheckId, default) : (finding.CheckId, sink);

    private static bool IsMissing(string check) => CheckList.Find(check) is StepCheck { Area: "sessions" };

    private static CauseKind KindOf(string check, CodePlace sink, int flows) =>
        IsMissing(check) ? CauseKind.Missing
        : sink.Path.EndsWith(".sql", StringComparison.OrdinalIgnoreCase) || sink.Path.EndsWith(".prisma", StringComparison.OrdinalIgnoreCase) || check.Contains("column", StringComparison.Ordinal) ? CauseKind.Column
        : TemplateEndings.Any(e => sink.Path.EndsWith(e, StringComparison.OrdinalIgnoreCase)) ? CauseKind.Template
        : flows > 1 ? CauseKind.Helper : CauseKind.Place;

    private static (CauseFlow Flow, CodePlace Sink) Flow(ReportedFinding finding)
    {
        var mend = new CodePlace(finding.Path, finding.Region.StartLine);
        var first = finding.Steps.Count > 0 ? new CodePlace(finding.Steps[0].Path, finding.Steps[0].Region.StartLine) : mend;
        var last = finding.Steps.Count > 0 ? new CodePlace(finding.Steps[^1].Path, finding.Steps[^1].Region.StartLine) : mend;
        return (new CauseFlow(finding, first, mend), last);
    }
}
