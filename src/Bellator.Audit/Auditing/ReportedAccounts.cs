using Bellator.Analysis.Domain;
using Bellator.Audit.Accounts;
using Bellator.Text;

namespace Bellator.Audit.Auditing;

/// <summary>How people get accounts and use them, independent of the audit that found it.</summary>
public sealed record ReportedAccounts(IReadOnlyList<string> Tables, IReadOnlyList<ReportedJourney> Journeys, IReadOnlyList<ReportedPolicy> Policies)
{
    public static readonly ReportedAccounts Empty = new([], [], []);
}

/// <param name="Kind">register, signIn, signOut, recover, changePassword, changeEmail or profile.</param>
public sealed record ReportedJourney(string Kind, string Address, string By, ReportedPlace At, IReadOnlyList<ReportedJourneyStep> Steps);

/// <param name="State">shown, absent, unclear or notNeeded.</param>
public sealed record ReportedJourneyStep(string Name, string State, string Text, string Reason, IReadOnlyList<ReportedEvidence> Evidence);

public sealed record ReportedEvidence(string Note, ReportedPlace At);

/// <param name="Tried">How many common passwords were tried; 0 where the code does not say which least length there is.</param>
/// <param name="Accepted">Of the common passwords that were tried, how many are taken.</param>
public sealed record ReportedPolicy(string Name, int Minimum, int? Maximum, string? Scheme, IReadOnlyList<ReportedPolicyRule> Rules, int Tried, int Accepted, IReadOnlyList<string> Examples, int UnknownPatterns, IReadOnlyList<ReportedRequirement> Requirements);

public sealed record ReportedPolicyRule(string Kind, string Value, string Origin, ReportedPlace At);

/// <param name="State">met, notMet or unclear.</param>
public sealed record ReportedRequirement(string Source, string Text, string State, string Found);

/// <summary>Turns journeys and policies into what is kept of them.</summary>
internal static class AccountReporting
{
    /// <summary>How many of the most common passwords a policy is tried with.</summary>
    private const int CommonTried = 10_000;

    public static ReportedAccounts Report(AccountContext context, IReadOnlyList<Journey> journeys, IReadOnlyList<PasswordPolicy> policies)
    {
        var tree = context.Program.Tree;
        ReportedPlace PlaceOf(Location at) => new(tree.Files[at.File].Path, tree.RegionOf(at));
        var signIns = journeys.Where(j => j.Kind == JourneyKind.SignIn).Select(j => j.Step("throttled")?.State).ToList();
        bool? throttled = signIns.Count == 0 ? null : signIns.TrueForAll(s => s == StepState.Shown);
        return new ReportedAccounts(
            [.. context.Accounts.Tables.Select(t => t.Name).Concat(context.Accounts.Models.Select(m => m.ShortName)).Distinct(StringComparer.OrdinalIgnoreCase)],
            [.. journeys.Select(j => new ReportedJourney(Name(j.Kind), j.Address, j.By, PlaceOf(j.At), [.. j.Steps.Select(s => new ReportedJourneyStep(s.Name, Name(s.State), s.Text, s.Reason, [.. s.Evidence.Select(v => new ReportedEvidence(v.Note, PlaceOf(v.At)))]))]))],
            [.. policies.Select(p =>
            {
                var (tried, accepted, examples) = p.Try(p.HasUnknownMinimum ? 0 : CommonTried);
                bool? slow = string.IsNullOrEmpty(p.Scheme) ? null : !HashSchemeNames.IsFast(p.Scheme);
                return new ReportedPolicy(p.Name, p.Minimum, p.Maximum, p.Scheme, [.. p.Rules.Select(r => new ReportedPolicyRule(r.Kind, r.Value, r.Origin, PlaceOf(r.At)))], tried, accepted, examples, p.UnknownPatterns, [.. PolicyRequirements.Judge(p, throttled, slow).Select(r => new ReportedRequirement(r.Source, r.Text, Name(r.State), r.Found))]);
            })]);
    }

    private static string Name<T>(T value)
        where T : struct, Enum => System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(value.ToString());
}
