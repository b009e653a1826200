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
}
