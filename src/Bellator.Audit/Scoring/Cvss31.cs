namespace Bellator.Audit.Scoring;

/// <summary>
/// Base score of the Common Vulnerability Scoring System, version 3.1: FIRST, "CVSS v3.1 Specification Document", section 7.1 and
/// the roundup of appendix A.
/// </summary>
public static class Cvss31
{
    /// <summary>The base score, from 0.0 to 10.0, of a vector such as <c>CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H</c>.</summary>
    /// <exception cref="FormatException">The vector is not one of version 3.1 with all base metrics.</exception>
    public static double BaseScore(string vector)
    {
        var metrics = Parse(vector);
        var changed = metrics["S"] switch { "C" => true, "U" => false, var other => throw Wrong("S", other) };
        var confidentiality = Impact(metrics["C"]);
        var integrity = Impact(metrics["I"]);
        var availability = Impact(metrics["A"]);
        var subScore = 1 - ((1 - confidentiality) * (1 - integrity) * (1 - availability));
        var impact = changed ? (7.52 * (subScore - 0.029)) - (3.25 * Math.Pow(subScore - 0.02, 15)) : 6.42 * subScore;
        if (impact <= 0)
        {
            return 0;
        }

        var vectorValue = metrics["AV"] switch { "N" => 0.85, "A" => 0.62, "L" => 0.55, "P" => 0.2, var other => throw Wrong("AV", other) };
        var complexity = metrics["AC"] switch { "L" => 0.77, "H" => 0.44, var other => throw Wrong("AC", other) };
        var privileges = metrics["PR"] switch
        {
            "N" => 0.85,
            "L" => changed ? 0.68 : 0.62,
            "H" => changed ? 0.5 : 0.27,
            var other => throw Wrong("PR", other),
        };
        var interaction = metrics["UI"] switch { "N" => 0.85, "R" => 0.62, var other => throw Wrong("UI", other) };
        var exploitability = 8.22 * vectorValue * complexity * privileges * interaction;
        return RoundUp(Math.Min((changed ? 1.08 : 1) * (impact + exploitability), 10));
    }

    /// <summary>The qualitative rating of a score: section 5 of the specification.</summary>
    public static string Rating(double score) => score switch
    {
        0 => "none",
        < 4.0 => "low",
        < 7.0 => "medium",
        < 9.0 => "high",
        _ => "critical",
    };

    private static Dictionary<string, string> Parse(string vector)
    {
        if (!vector.StartsWith("CVSS:3.1/", StringComparison.Ordinal))
        {
            throw new FormatException("not a CVSS 3.1 vector: " + vector);
        }

        var metrics = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var part in vector.Split('/').Skip(1))
        {
            var colon = part.IndexOf(':', StringComparison.Ordinal);
            if (colon < 1 || !metrics.TryAdd(part[..colon], part[(colon + 1)..]))
            {
                throw new FormatException("a metric is malformed or occurs twice: " + part);
            }
        }

        foreach (var name in new[] { "AV", "AC", "PR", "UI", "S", "C", "I", "A" })
        {
            if (!metrics.ContainsKey(name))
            {
                throw new FormatException("the metric " + name + " is missing");
            }
        }

        return metrics;
    }

    private static double Impact(string value) => value switch { "H" => 0.56, "L" => 0.22, "N" => 0, var other => throw Wrong("impact", other) };

    private static FormatException Wrong(string metric, string value) => new($"{metric} cannot be {value}");

    private static double RoundUp(double value)
    {
        var scaled = (long)Math.Round(value * 100_000);
        return scaled % 10_000 == 0 ? scaled / 100_000.0 : ((scaled / 10_000) + 1) / 10.0;
    }
}
