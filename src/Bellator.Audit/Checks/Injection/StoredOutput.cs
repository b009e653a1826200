using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Access;
using Bellator.Text;

namespace Bellator.Audit.Checks.Injection;

/// <summary>What somebody typed is printed as it was stored, where nothing escapes by itself: stored cross-site scripting.</summary>
internal static class StoredOutput
{
    /// <summary>A page that escapes this often does so by intention, and what it prints as it is was forgotten.</summary>
    private const int MinEscaped = 2;

    public static IEnumerable<Finding> In(CheckContext context, PageOutput check)
    {
        var texts = context.Kept(() => new StoredTexts(context.Access, context.Schema, context.Words));
        var printed = context.EventsAt("page").Where(e => !e.Sink!.Raw && !e.Guessed && !PageOutput.IsOtherKind(e.Function.File.Source.Path)).ToList();
        var escaped = printed.Where(e => e.Role("value").Taints is { Count: > 0 } taints && taints.All(t => t.Origin.Kind == OriginKind.Stored && t.Safe != OutputContext.All && !IsOpen(e, t))).ToLookup(e => e.Place.File, e => e.Place);
        foreach (var happening in printed)
        {
            var value = happening.Role("value");
            if (value.Taints.Any(t => t.Origin.Kind == OriginKind.Request && (t.Safe & (happening.Context ?? OutputContext.Html)) == 0))
            {
                continue;
            }

            var found = value.Taints.Where(t => t is { Guessed: false, Origin.Kind: OriginKind.Stored, Trace.Length: <= PageOutput.MaxStoredSteps } && IsOpen(happening, t))
                .Select(t => (Stored: t, Text: texts.Of(happening, t))).OrderBy(t => t.Text is null).FirstOrDefault();
            if (found.Text is { } text)
            {
                yield return Finding(check, happening, found.Stored, Certainty.Traced,
                    $"What {text.Use.Entry.Address} stores in “{text.Table}.{found.Stored.Origin.Name}” as it was sent becomes part of a page without being escaped.",
                    CheckContext.Steps(text.Taint, text.Use.Happening, "stored"), [text.Use.Access.At]);
            }
            else if (found.Stored is { } stored && texts.MayHoldMarkup(happening, stored) && escaped[happening.Place.File].Distinct().Take(MinEscaped + 1).ToList() is { Count: >= MinEscaped } others)
            {
                yield return Finding(check, happening, stored, Certainty.Matched,
                    $"What was read from a record (“{stored.Origin.Name}”) becomes part of a page without being escaped, although other values from records on the same page are escaped.", [], others);
            }
        }
    }

    private static bool IsOpen(AnalysisEvent happening, Taint taint) => (taint.Safe & (happening.Context ?? OutputContext.Html)) == 0 && PageOutput.MayBreak(happening, taint);

    private static Finding Finding(Check check, AnalysisEvent happening, Taint stored, Certainty certainty, string message, IReadOnlyList<FindingStep> before, IReadOnlyList<Location> related) => new()
    {
        Check = check,
        At = happening.Place,
        Certainty = certainty,
        Message = message,
        Steps = [.. before, .. CheckContext.Steps(stored, happening, "written into the page")],
        Related = related,
        Subject = stored.Origin.Name ?? "",
    };
}
