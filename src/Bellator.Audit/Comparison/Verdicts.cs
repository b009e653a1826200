namespace Bellator.Audit.Comparison;

/// <summary>What a reviewer says of a finding.</summary>
public static class Verdicts
{
    public const string ToJudge = "to judge";
    public const string Confirmed = "confirmed";
    public const string FalsePositive = "false positive";
    public const string RiskAccepted = "risk accepted";
    public const string Fixed = "fixed";

    public static IReadOnlyList<string> All { get; } = [ToJudge, Confirmed, FalsePositive, RiskAccepted, Fixed];

    /// <summary>The verdict that a word stood for in earlier versions.</summary>
    public static string Current(string word) => word switch
    {
        "upheld" => Confirmed,
        "rejected" => FalsePositive,
        "mended" => Fixed,
        _ => word,
    };

    /// <summary>Whether it takes a finding out of what is open, so that reports say it is suppressed.</summary>
    public static bool Suppresses(string verdict) => verdict is FalsePositive or RiskAccepted;
}
