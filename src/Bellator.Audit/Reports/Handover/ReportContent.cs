using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;

namespace Bellator.Audit.Reports.Handover;

/// <summary>
/// All that a report says, with nothing looked up later: it is kept as it is when it is handed over, and written as HTML, Markdown, JSON or CSV.
/// docs/report.schema.json describes it.
/// </summary>
public sealed record ReportContent
{
    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true, Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping, TypeInfoResolver = new DefaultJsonTypeInfoResolver() };

    /// <summary>Raised when a member changes its meaning or goes.</summary>
    public int Format { get; init; } = 1;

    public required string Application { get; init; }

    /// <summary>Whose report it is; empty for nobody's in particular.</summary>
    public string By { get; init; } = "";

    public required DateOnly Date { get; init; }

    public required string Program { get; init; }

    public required ReportScope Scope { get; init; }

    public ReportSettings Settings { get; init; } = new();

    public IReadOnlyList<ReportCause> Causes { get; init; } = [];

    public IReadOnlyList<ReportStandard> Standards { get; init; } = [];

    public ReportedApplication About { get; init; } = new(ReportedSurface.Empty);

    /// <summary>What changed since an earlier version; null where there is none to compare with.</summary>
    public ReportChanges? Changes { get; init; }

    public IEnumerable<ReportFinding> Findings => Causes.SelectMany(c => c.Findings);

    public int Count(string verdict) => Findings.Count(f => f.Verdict == verdict);

    public string Write() => JsonSerializer.Serialize(this, Json);

    public static ReportContent? Read(string json) => JsonSerializer.Deserialize<ReportContent>(json, Json);
}

/// <param name="Name">Of what was handed in.</param>
/// <param name="Digest">SHA-256 over the paths and contents of all files, in the order of their paths.</param>
/// <param name="LeftOut">What was left out and why; not all of it need be listed.</param>
/// <param name="Notes">What could not be audited as it should, with limits that were hit.</param>
public sealed record ReportScope(string Name, int? Snapshot, string Digest, int Files, long Lines, IReadOnlyList<ReportOmission> LeftOut, int LeftOutCount, IReadOnlyList<AuditNote> Notes)
{
    /// <summary>What reviewers stated of the code and the audit took their word for.</summary>
    public IReadOnlyList<string> Stated { get; init; } = [];
}

public sealed record ReportOmission(string Path, string Reason);

/// <summary>What a reviewer decides of a report: order, own words, what is left out.</summary>
public sealed record ReportSettings
{
    /// <summary>Sections in their order; those that are not named are left out. Empty for all in the usual order.</summary>
    public IReadOnlyList<string> Sections { get; init; } = [];

    /// <summary>Markdown that is put at the head of sections, by section.</summary>
    public IReadOnlyDictionary<string, string> Words { get; init; } = new Dictionary<string, string>();

    /// <summary>Secrets and hashes are shown; masked otherwise.</summary>
    public bool ShowsSecrets { get; init; }
}

public sealed record ReportCause(string CheckId, string Title, string Area, double Score, string Certainty, string Vector, IReadOnlyList<int> Cwes, IReadOnlyList<string> Asvs, string Place, string WhereToChange, IReadOnlyList<ReportedWay> Ways, string Why, string HowToFix, string FalsePositiveIf, string RankReason, IReadOnlyList<ReportFinding> Findings)
{
    /// <summary>The gravest of the verdicts: what is confirmed comes before what is open, and that before the rest.</summary>
    public string Verdict => Findings.Any(f => f.Verdict == Verdicts.Confirmed) ? Verdicts.Confirmed
        : Findings.Any(f => f.Verdict == Verdicts.ToJudge) ? Verdicts.ToJudge
        : Findings.Any(f => f.Verdict == Verdicts.RiskAccepted) ? Verdicts.RiskAccepted
        : Findings.Any(f => f.Verdict == Verdicts.Fixed) ? Verdicts.Fixed : Verdicts.FalsePositive;
}

/// <param name="State">What became of it since the version before; null where there is none.</param>
public sealed record ReportFinding(string Fingerprint, string Message, string Path, int Line, string Certainty, string Verdict, string? Reason, string? By, DateOnly? At, DateOnly? Until, string? State, IReadOnlyList<ReportStep> Steps, ReportWitness? Witness);

/// <param name="Code">The line, as it stands in the file.</param>
public sealed record ReportStep(string Text, string Path, int Line, string Code);

/// <param name="Rows">What the statement returned on invented rows; null where it was not run.</param>
public sealed record ReportWitness(string Kind, string Ordinary, string Crafted, string Explanation, string? Rows);

public sealed record ReportStandard(string Title, bool IsFromMemory, string Coverage, IReadOnlyList<ReportChapter> Chapters);

public sealed record ReportChapter(string Title, IReadOnlyList<ReportRequirement> Requirements);

public sealed record ReportRequirement(string Number, string Text, string State, IReadOnlyList<string> Evidence, string? Reason, string? By);

public sealed record ReportChanges(string Since, string Headline, IReadOnlyList<ReportChange> Findings, IReadOnlyList<PartChange> Parts);

public sealed record ReportChange(string State, string Title, string Place, string Reason);

/// <summary>The sections of a report.</summary>
public static class ReportSections
{
    public const string Summary = "summary";
    public const string Scope = "scope";
    public const string Method = "method";
    public const string Findings = "findings";
    public const string Open = "open";
    public const string Accepted = "accepted";
    public const string Changes = "changes";
    public const string Standards = "standards";
    public const string Journeys = "journeys";
    public const string Dismissed = "dismissed";
    public const string Appendix = "appendix";

    public static IReadOnlyList<string> Usual { get; } = [Summary, Scope, Method, Findings, Open, Accepted, Changes, Journeys, Standards, Dismissed, Appendix];

    public static string Title(string section) => section switch
    {
        Summary => "Summary",
        Scope => "Scope",
        Method => "Method and its limits",
        Findings => "Confirmed findings",
        Open => "Findings not judged yet",
        Accepted => "Accepted risks",
        Changes => "What changed",
        Standards => "Standards",
        Journeys => "Accounts and journeys",
        Dismissed => "False positives and fixed findings",
        _ => "Appendix: endpoints, tables, password policy",
    };

    /// <summary>The sections of a report that have something to say, in its order.</summary>
    public static IReadOnlyList<string> Of(ReportContent content)
    {
        var order = content.Settings.Sections.Count > 0 ? content.Settings.Sections.Where(Usual.Contains).Distinct() : Usual;
        return [.. order.Where(s => content.Settings.Words.ContainsKey(s) || s switch
        {
            Open => content.Count(Verdicts.ToJudge) > 0,
            Accepted => content.Count(Verdicts.RiskAccepted) > 0,
            Dismissed => content.Count(Verdicts.FalsePositive) + content.Count(Verdicts.Fixed) > 0,
            Changes => content.Changes is not null,
            Standards => content.Standards.Count > 0,
            Journeys => content.About.Accounts is { Journeys.Count: > 0 },
            _ => true,
        })];
    }
}
