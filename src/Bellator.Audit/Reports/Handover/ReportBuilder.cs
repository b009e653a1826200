using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Standards;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Reports.Handover;

/// <summary>A verdict as reports say it.</summary>
public sealed record GivenVerdict(string Verdict, string Reason, string? By, DateOnly? At, DateOnly? Until = null);

/// <summary>What a report is made from.</summary>
/// <param name="Verdicts">By fingerprint; findings without one are to judge.</param>
/// <param name="States">What became of findings since the version before, by fingerprint.</param>
public sealed record ReportInput(string Application, ReportScope Scope, IReadOnlyList<ReportedFinding> Findings, ReportedApplication About, IReadOnlyDictionary<string, GivenVerdict> Verdicts, Func<string, SourceFile?> Files)
{
    public IReadOnlyDictionary<string, string> States { get; init; } = new Dictionary<string, string>();

    public IReadOnlyList<RequirementJudgement> Judgements { get; init; } = [];

    public ReportChanges? Changes { get; init; }

    public ReportSettings Settings { get; init; } = new();

    public string By { get; init; } = "";

    public required DateOnly Date { get; init; }

    public required string Program { get; init; }
}

/// <summary>Puts a report together from findings and what was judged of them.</summary>
public static class ReportBuilder
{
    private const int MostRows = 5;
    private const int LongestLine = 220;

    /// <summary>Weaknesses of which the code itself is a secret.</summary>
    private static readonly string[] SecretInCode = ["passwords/hard-coded-credential", "sessions/secret-in-code", "sessions/secret-in-settings", "passwords/fixed-salt"];

    public static ReportContent Build(ReportInput input)
    {
        GivenVerdict Judged(ReportedFinding finding) => input.Verdicts.GetValueOrDefault(finding.Fingerprint) ?? new GivenVerdict(Verdicts.ToJudge, "", null, null);
        var judged = input.Findings.Select(f => new JudgedFinding(f.CheckId, f.Cwes, f.Path, f.Region.StartLine, Judged(f).Verdict, f.Fingerprint)).ToList();
        return new ReportContent
        {
            Application = input.Application,
            By = input.By,
            Date = input.Date,
            Program = input.Program,
            Scope = input.Scope,
            Settings = input.Settings,
            Causes = [.. Causes.Of(input.Findings).Select(c => CauseOf(c, input, Judged))],
            Standards = [.. Standard.All.Select(s => StandardOf(s, StandardAssessment.Assess(s, judged, input.About, input.Judgements)))],
            About = input.About,
            Changes = input.Changes,
        };
    }

    /// <summary>A digest of all files: whoever has the same material gets the same one.</summary>
    public static string DigestOf(IEnumerable<SourceFile> files)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        foreach (var file in files.OrderBy(f => f.Path, StringComparer.Ordinal))
        {
            hash.AppendData(Encoding.UTF8.GetBytes(file.Path + "\n"));
            hash.AppendData(SHA256.HashData(file.Content));
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    private static ReportCause CauseOf(Cause cause, ReportInput input, Func<ReportedFinding, GivenVerdict> judged)
    {
        var check = cause.Flows[0].Finding.Check;
        var language = cause.Flows[0].Finding.Language;
        return new ReportCause(
            cause.CheckId,
            check.Title,
            check.Area,
            cause.Score,
            cause.Certainty.ToString().ToLowerInvariant(),
            check.Vector,
            [.. cause.Flows.SelectMany(f => f.Finding.Cwes).Distinct().Order()],
            check.Asvs,
            cause.Cut.ToString(),
            CausePlaceText.Of(cause.Kind, cause.Cut.ToString(), cause.CutCount, cause.Flows.Count, cause.Sink.ToString()),
            cause.Ways,
            check.Why,
            check.HowToFix(language),
            check.FalsePositiveIf,
            cause.RankReason,
            [.. cause.Flows.Select(f => FindingOf(f.Finding, judged(f.Finding), input))]);
    }

    private static ReportFinding FindingOf(ReportedFinding finding, GivenVerdict verdict, ReportInput input)
    {
        var isSecret = SecretInCode.Contains(finding.CheckId);
        string Shown(string text) => input.Settings.ShowsSecrets ? text : Masking.Of(text);
        string Code(string line) => input.Settings.ShowsSecrets ? line : isSecret ? Masking.Texts(line) : Masking.Of(line);
        var steps = finding.Steps.Count > 0 ? finding.Steps : [new ReportedStep("sink", "here", finding.Path, finding.Region)];
        return new ReportFinding(
            finding.Fingerprint,
            isSecret ? Code(finding.Message) : Shown(finding.Message),
            finding.Path,
            finding.Region.StartLine,
            finding.Certainty.ToString().ToLowerInvariant(),
            verdict.Verdict,
            verdict.Reason.Length > 0 ? verdict.Reason : null,
            verdict.By,
            verdict.At,
            verdict.Until,
            input.States.GetValueOrDefault(finding.Fingerprint),
            [.. steps.Select(s => new ReportStep(StepText.Of(s), s.Path, s.Region.StartLine, Cut(Code(input.Files(s.Path)?.Line(s.Region.StartLine).Trim() ?? ""))))],
            finding.Witness is { } witness ? new ReportWitness(witness.Kind, Shown(witness.Ordinary), Shown(witness.Crafted), witness.Explanation, witness.Replay is { } replay ? Shown(RowsOf(replay.Crafted)) : null) : null);
    }

    private static string RowsOf(ReplayedStatement replay) => replay.Error is { Length: > 0 } error ? error
        : replay.Columns.Count == 0 ? $"{replay.Count} rows {(replay.Changed ? "changed" : "returned")}"
        : string.Join('\n', new[] { string.Join(" | ", replay.Columns) }.Concat(replay.Rows.Take(MostRows).Select(r => string.Join(" | ", r)))) + (replay.Count > MostRows ? $"\n… {replay.Count} rows in all" : "");

    private static string Cut(string line) => line.Length > LongestLine ? line[..LongestLine] + "…" : line;

    private static ReportStandard StandardOf(Standard standard, IReadOnlyList<AssessedRequirement> assessed)
    {
        var byNumber = assessed.ToDictionary(a => a.Requirement.Number, StringComparer.Ordinal);
        return new ReportStandard(standard.Title, standard.IsFromMemory, StandardAssessment.Coverage(assessed), [.. standard.Chapters.Select(c => new ReportChapter(c.Title, [.. c.Requirements.Select(r => byNumber[r.Number]).Select(a => new ReportRequirement(
            a.Requirement.Number,
            a.Requirement.Text,
            StandardAssessment.Word(a.Verdict),
            [.. a.Evidence.Select(e => e.At is { } at ? $"{e.Text}, {at.Path}:{at.Region.StartLine}" : e.Text)],
            a.Judgement?.Reason,
            a.Judgement?.By))]))]);
    }
}
