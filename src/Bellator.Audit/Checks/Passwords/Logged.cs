namespace Bellator.Audit.Checks.Passwords;

/// <summary>A password as typed goes into a log.</summary>
public sealed class Logged : PasswordLeak
{
    public override string Id => "passwords/logged";

    public override string Title => "Password is logged";

    public override IReadOnlyList<int> Cwes => [532];

    public override IReadOnlyList<string> Asvs => ["V16.2.5"];

    public override string Vector => "CVSS:3.1/AV:L/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N";

    public override string Why => "Logs are read by many, copied, kept for long and sent elsewhere; none of that is made for secrets.";

    public override string FalsePositiveIf => "The log is one of the developer’s own machine and never switched on elsewhere.";

    public override string HowToFix(string language) => "Log who tried and how it went, never what was typed; take passwords out of whole requests before they are logged.";

    protected override string Place => "log";

    protected override string Happens => "is written to a log";
}
