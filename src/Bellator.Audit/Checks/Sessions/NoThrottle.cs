using Bellator.Analysis.Domain;
using Bellator.Audit.Accounts;

namespace Bellator.Audit.Checks.Sessions;

/// <summary>Sign-in can be tried without a limit.</summary>
public sealed class NoThrottle : StepCheck
{
    public override string Id => "sessions/no-throttle";

    public override string Title => "No rate limit on sign-in";

    public override IReadOnlyList<int> Cwes => [307];

    public override IReadOnlyList<string> Asvs => ["V6.3.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:H/PR:N/UI:N/S:U/C:L/I:L/A:N";

    public override string Why => "Passwords from lists and leaks are tried by the million where nothing counts the tries; a slow hash alone makes that dear for the server, not for whoever asks.";

    public override string FalsePositiveIf => "A server or service in front limits the tries, or the framework does by a setting that was not read.";

    public override string HowToFix(string language) => "Count failed tries by account and by address, and answer later or not at all after a few (NIST SP 800-63B-4 allows 100 in a row at most); a limiter on the route is the least.";

    protected override JourneyKind Journey => JourneyKind.SignIn;

    protected override string Step => "throttled";

    protected override string Message(Journey journey, JourneyStep step) => $"{journey.Address}: nothing on the way counts tries.";

    /// <summary>The same for the code of a second step: whoever has the password tries a million codes in a few hours.</summary>
    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var finding in base.Run(context))
        {
            yield return finding;
        }

        var journeys = context.Journeys.Where(j => j.Kind == JourneyKind.SignIn).SelectMany(j => j.Entries).Select(e => e.Handler).ToHashSet();
        foreach (var entry in context.Access.Entries.Select(e => e.Entry).Where(e => e.Method != "GET" && !journeys.Contains(e.Handler)).DistinctBy(e => e.Handler))
        {
            var evidence = new JourneyEvidence(context.Accounts, entry);
            if (evidence.Acts["code-verified"].FirstOrDefault() is { } verified && SignInSteps.Throttled(context.Accounts, evidence).State == StepState.Absent && !evidence.Texts(SaysTooMany).Any())
            {
                yield return new Finding
                {
                    Check = this,
                    At = evidence.Here.At,
                    Certainty = Certainty.Matched,
                    Message = $"{entry.Address} verifies a one-time code, and no limit on failed tries was found on the way.",
                    Steps = [new FindingStep(StepKind.Checked, verified.Place, context.Program.Tree.TextOf(verified.At, 60))],
                    Related = [entry.At],
                    Subject = entry.Address,
                };
            }
        }
    }

    /// <summary>The answer to too many tries (RFC 6585, section 4): who gives it has counted.</summary>
    private static bool SaysTooMany(string text) => text is "429" or "too_many_requests";
}
