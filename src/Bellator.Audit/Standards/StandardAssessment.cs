using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;

namespace Bellator.Audit.Standards;

public enum RequirementVerdict
{
    /// <summary>Nothing speaks for or against it. It never counts as met.</summary>
    NotJudged,
    Met,
    NotMet,
    NotApplicable,
}

/// <summary>A finding as far as a requirement asks for it.</summary>
/// <param name="Verdict">What a reviewer said of it, see <see cref="Verdicts"/>.</param>
public sealed record JudgedFinding(string CheckId, IReadOnlyList<int> Cwes, string Path, int Line, string Verdict, string Fingerprint);

/// <summary>What a reviewer said of a requirement; it goes before what was found.</summary>
public sealed record RequirementJudgement(string Standard, string Number, RequirementVerdict Verdict, string Reason, string By, DateTimeOffset At);

/// <summary>Something that speaks for or against a requirement.</summary>
/// <param name="Fingerprint">The finding, where it is one.</param>
public sealed record RequirementEvidence(string Text, ReportedPlace? At, string? Fingerprint = null);

public sealed record AssessedRequirement(Requirement Requirement, RequirementVerdict Verdict, IReadOnlyList<RequirementEvidence> Evidence, RequirementJudgement? Judgement);

/// <summary>
/// Holds a standard against what was found. A requirement is met only where something shows it: a step of each journey, or a policy. That
/// checks found nothing is told, and is no evidence.
/// </summary>
public static class StandardAssessment
{
    private const int MostEvidence = 12;

    public static IReadOnlyList<AssessedRequirement> Assess(Standard standard, IReadOnlyList<JudgedFinding> findings, ReportedApplication? application, IReadOnlyList<RequirementJudgement> judgements)
    {
        var said = judgements.Where(j => j.Standard == standard.Id).GroupBy(j => j.Number).ToDictionary(g => g.Key, g => g.OrderByDescending(j => j.At).First(), StringComparer.Ordinal);
        var byCheck = findings.ToLookup(f => f.CheckId, StringComparer.Ordinal);
        return [.. standard.Requirements.Select(r =>
        {
            var (verdict, evidence) = Found(standard, r, byCheck, application?.Accounts);
            var judgement = said.GetValueOrDefault(r.Number);
            return new AssessedRequirement(r, judgement?.Verdict ?? verdict, evidence, judgement);
        })];
    }

    private static (RequirementVerdict Verdict, IReadOnlyList<RequirementEvidence> Evidence) Found(Standard standard, Requirement requirement, ILookup<string, JudgedFinding> findings, ReportedAccounts? accounts)
    {
        if (requirement.IsOfMemory)
        {
            return (RequirementVerdict.NotApplicable, [new("The audited languages manage memory themselves.", null)]);
        }

        // False positives, and what is fixed, say nothing; an accepted risk is still a requirement that is not met.
        var against = findings.SelectMany(g => Concerns(standard, requirement, g.Key) ? g : g.Where(f => requirement.Cwe is { } cwe && f.Cwes.Contains(cwe))).Where(f => f.Verdict is not (Verdicts.FalsePositive or Verdicts.Fixed)).ToList();
        if (against.Count > 0)
        {
            return (RequirementVerdict.NotMet, [.. against.Take(MostEvidence).Select(f => new RequirementEvidence($"{CheckList.Find(f.CheckId)?.Title ?? f.CheckId} at {f.Path}:{f.Line} ({f.Verdict})", null, f.Fingerprint)), .. More(against.Count)]);
        }

        var (verdict, evidence) = OfAccounts(requirement, accounts ?? ReportedAccounts.Empty);
        if (evidence.Count == 0 && (requirement.Checks.Count > 0 || requirement.Cwe is not null))
        {
            evidence = [new("No finding. That the checks found nothing does not show that it is met.", null)];
        }

        return (verdict, evidence);
    }

    /// <summary>Whether all findings of a check speak against a requirement.</summary>
    private static bool Concerns(Standard standard, Requirement requirement, string check) =>
        requirement.Checks.Contains(check) || (standard.Id.StartsWith("asvs", StringComparison.Ordinal) && CheckList.Find(check)?.Asvs.Contains(requirement.Number) == true);

    private static (RequirementVerdict Verdict, IReadOnlyList<RequirementEvidence> Evidence) OfAccounts(Requirement requirement, ReportedAccounts accounts)
    {
        var states = new List<(string State, RequirementEvidence Evidence)>();
        foreach (var journey in accounts.Journeys.Where(j => j.Kind == requirement.Journey))
        {
            if (requirement.Step is null)
            {
                states.Add(("shown", new RequirementEvidence($"{JourneyText.Title(journey.Kind)}: {journey.Address}", journey.At)));
            }
            else if (journey.Steps.FirstOrDefault(s => s.Name == requirement.Step) is { } step)
            {
                states.Add((step.State, new RequirementEvidence($"{JourneyText.Title(journey.Kind)} {journey.Address}: {step.Text} ({JourneyText.State(step.State)})", step.Evidence.Count > 0 ? step.Evidence[0].At : journey.At)));
            }
        }

        foreach (var policy in requirement.Policy is null ? [] : accounts.Policies)
        {
            foreach (var asked in policy.Requirements.Where(r => r.Text.StartsWith(requirement.Policy!, StringComparison.Ordinal) || r.Source.EndsWith(requirement.Policy!, StringComparison.Ordinal)))
            {
                states.Add((asked.State switch { "met" => "shown", "notMet" => "absent", _ => "unclear" }, new RequirementEvidence($"{policy.Name}: {asked.Found}", policy.Rules.Count > 0 ? policy.Rules[0].At : null)));
            }
        }

        states.RemoveAll(s => s.State == "notNeeded");
        var verdict = states.Count == 0 ? RequirementVerdict.NotJudged
            : states.Exists(s => s.State == "absent") ? RequirementVerdict.NotMet
            : states.TrueForAll(s => s.State == "shown") ? RequirementVerdict.Met
            : RequirementVerdict.NotJudged;
        return (verdict, [.. states.OrderBy(s => s.State switch { "absent" => 0, "unclear" => 1, _ => 2 }).Take(MostEvidence).Select(s => s.Evidence)]);
    }

    private static IEnumerable<RequirementEvidence> More(int count) => count > MostEvidence ? [new($"and {count - MostEvidence} more", null)] : [];

    public static string Word(RequirementVerdict verdict) => verdict switch
    {
        RequirementVerdict.Met => "met",
        RequirementVerdict.NotMet => "not met",
        RequirementVerdict.NotApplicable => "not applicable",
        _ => "not judged",
    };

    /// <summary>How many requirements there are of each verdict, in a sentence; those that are not judged are said, and are not counted as met.</summary>
    public static string Coverage(IReadOnlyList<AssessedRequirement> requirements)
    {
        int Of(RequirementVerdict verdict) => requirements.Count(r => r.Verdict == verdict);
        return $"{Of(RequirementVerdict.Met)} met, {Of(RequirementVerdict.NotMet)} not met, {Of(RequirementVerdict.NotApplicable)} not applicable, {Of(RequirementVerdict.NotJudged)} not judged, of {requirements.Count}.";
    }
}
