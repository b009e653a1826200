using System.Text.Json;
using Bellator.Audit.Comparison;
using Bellator.Audit.Standards;

namespace Bellator.Audit.Reports.Handover;

/// <summary>What was judged, as a file: it goes from the web application to the command line, or is written by hand.</summary>
public sealed record VerdictFile
{
    public string Application { get; init; } = "";

    public string By { get; init; } = "";

    public IReadOnlyList<VerdictEntry> Verdicts { get; init; } = [];

    public IReadOnlyList<RequirementEntry> Requirements { get; init; } = [];

    public ReportSettings Settings { get; init; } = new();

    public string Write() => JsonSerializer.Serialize(this, ReportContent.Json);

    /// <exception cref="JsonException">It is not one, or says something that there is not.</exception>
    public static VerdictFile Read(string json)
    {
        var file = JsonSerializer.Deserialize<VerdictFile>(json, ReportContent.Json) ?? new();
        foreach (var entry in file.Verdicts)
        {
            if (string.IsNullOrEmpty(entry.Fingerprint))
            {
                throw new JsonException("a verdict has no fingerprint");
            }

            if (!Comparison.Verdicts.All.Contains(Comparison.Verdicts.Current(entry.Verdict)))
            {
                throw new JsonException($"there is no verdict “{entry.Verdict}”; there are {string.Join(", ", Comparison.Verdicts.All)}");
            }
        }

        foreach (var entry in file.Requirements)
        {
            if (Standard.Find(entry.Standard)?.Requirements.Any(r => r.Number == entry.Number) != true)
            {
                throw new JsonException($"there is no requirement {entry.Number} of “{entry.Standard}”; the standards are {string.Join(", ", Standard.All.Select(s => s.Id))}");
            }

            _ = entry.Verdict;
        }

        return file;
    }

    public IReadOnlyDictionary<string, GivenVerdict> ByFingerprint() =>
        Verdicts.GroupBy(v => v.Fingerprint).ToDictionary(g => g.Key, g => g.Last() is var v ? new GivenVerdict(Comparison.Verdicts.Current(v.Verdict), v.Reason, v.By, v.At, v.Until) : null!, StringComparer.Ordinal);

    public IReadOnlyList<RequirementJudgement> Judgements() =>
        [.. Requirements.Select(r => new RequirementJudgement(r.Standard, r.Number, r.Verdict, r.Reason, r.By ?? By, DateTimeOffset.MinValue))];
}

public sealed record VerdictEntry(string Fingerprint, string Verdict, string Reason, string? By = null, DateOnly? At = null, DateOnly? Until = null);

/// <param name="State">met, not met, not applicable or not judged.</param>
public sealed record RequirementEntry(string Standard, string Number, string State, string Reason, string? By = null)
{
    public RequirementVerdict Verdict => Enum.GetValues<RequirementVerdict>().Where(v => StandardAssessment.Word(v) == State).Cast<RequirementVerdict?>().FirstOrDefault()
        ?? throw new JsonException($"a requirement is met, not met, not applicable or not judged, and not “{State}”");
}
