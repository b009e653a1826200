using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Reports;
using Bellator.Storage.Reviews;

namespace Bellator.Web.Presentation;

/// <summary>Causes in words.</summary>
public static class CauseText
{
    public static string Title(CauseRow cause) => CheckList.Find(cause.CheckId)?.Title ?? cause.CheckId;

    /// <summary>Where to change, and what that does.</summary>
    public static string Where(CauseRow cause) =>
        CausePlaceText.Of(Enum.Parse<CauseKind>(cause.Kind, ignoreCase: true), $"{cause.CutPath}:{cause.CutLine}", cause.CutCount, cause.FlowCount, $"{cause.SinkPath}:{cause.SinkLine}");

    /// <summary>What became of the cause since the run before, where that is worth a word.</summary>
    public static string? State(CauseRow cause)
    {
        var states = cause.Flows.Select(f => f.State).Distinct().ToList();
        return states.Contains("back") ? "back" : states is ["new" or "moved" or "changed"] ? states[0] : null;
    }

    /// <summary>Endpoints from which it is reached, those that need no sign-in first.</summary>
    public static IReadOnlyList<(string Address, string Need, bool IsOpen)> Entries(CauseRow cause) => [.. cause.Entries.Where(e => e.Contains(' ', StringComparison.Ordinal)).Select(e =>
    {
        var cut = e.LastIndexOf(' ');
        return (e[..cut], e[(cut + 1)..] switch { "needed" => "signed in", "unclear" => "sign-in unclear", _ => "open to anybody" }, e[(cut + 1)..] == "notNeeded");
    })];
}
