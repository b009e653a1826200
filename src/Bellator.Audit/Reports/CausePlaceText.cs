using System.Globalization;
using Bellator.Audit.Auditing;

namespace Bellator.Audit.Reports;

/// <summary>Where to change a cause, and what that does, in a sentence.</summary>
public static class CausePlaceText
{
    /// <param name="cut">The place where one change fixes most.</param>
    /// <param name="cutCount">How many of the ways that is.</param>
    /// <param name="ways">All ways of the cause.</param>
    /// <param name="sink">Where they end.</param>
    public static string Of(CauseKind kind, string cut, int cutCount, int ways, string sink)
    {
        var share = cutCount == ways ? $"all {Say(ways)}" : string.Create(CultureInfo.InvariantCulture, $"{cutCount} of {Say(ways)}");
        return kind switch
        {
            CauseKind.Missing when ways == 1 => $"Missing at {cut}.",
            CauseKind.Missing => string.Create(CultureInfo.InvariantCulture, $"Missing in {ways} places; one rule before all of them, such as middleware, would cover them."),
            CauseKind.Column => $"The column declared at {cut}.",
            CauseKind.Template when ways == 1 => $"The template at {cut}.",
            _ when cutCount > 1 => $"One change at {cut} fixes {share}.",
            _ when ways > 1 => $"{Say(ways)} end at {sink}.",
            _ => $"{cut}.",
        };
    }

    private static string Say(int ways) => string.Create(CultureInfo.InvariantCulture, $"{ways} {(ways == 1 ? "way" : "ways")}");
}
