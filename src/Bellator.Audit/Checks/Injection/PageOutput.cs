using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Audit.Witnesses;
using Bellator.Text;

namespace Bellator.Audit.Checks.Injection;

/// <summary>A value from outside becomes part of a page as it is.</summary>
public sealed class PageOutput : SinkCheck
{
    public const string CheckId = "injection/page-output";

    public override string Id => CheckId;

    public override string Title => "Cross-site scripting";

    public override IReadOnlyList<int> Cwes => [79, 80];

    public override IReadOnlyList<string> Asvs => ["V1.2.1"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:R/S:C/C:L/I:L/A:N";

    public override string Why =>
        "The browser cannot tell which part of the page the program wrote. Script in the value runs with the rights of whoever looks at the page: it can read what they see and act as them.";

    public override string FalsePositiveIf => "The answer is not read as HTML, or the text was cleaned before it was stored.";

    protected override string Kind => "page";

    protected override string Happens => "becomes part of a page without being escaped";

    protected override string HappensAt(AnalysisEvent happening, Taint taint) => (taint.Safe & (OutputContext.Html | OutputContext.Attribute)) == 0 ? Happens : happening.Context switch
    {
        OutputContext.Script => "stands in a script of a page; escaping for the page's text does not help there",
        OutputContext.Url => "stands in an attribute without quotes; escaping for the page's text does not help there",
        OutputContext.Address => "begins an address in a page, and may name a scheme that runs script",
        _ => Happens,
    };

    protected override string LastStep => "written into the page";

    public override string HowToFix(string language) => language switch
    {
        "php" => "Write htmlspecialchars($value, ENT_QUOTES) into text and quoted attributes; in scripts json_encode with JSON_HEX_TAG.",
        "csharp" => "Let Razor escape it: @value instead of @Html.Raw(value).",
        "ruby" => "Leave out raw and html_safe; put markup together with tag helpers such as content_tag, which escape.",
        "python" => "Let the template escape it: no |safe, mark_safe or Markup around values; format_html() or Markup.format() escape what they put in.",
        _ => "Set textContent or let the template escape it instead of writing HTML; where HTML is wanted, clean it with a sanitiser first.",
    };

    protected override Witness? WitnessFor(AnalysisEvent happening, AbstractValue value, Taint taint) =>
        PageWitness.For(value, taint, happening.Context ?? OutputContext.Html);

    /// <summary>A template that makes something else than a page, by its name: <c>report.pdf.erb</c>.</summary>
    internal static bool IsOtherKind(string path)
    {
        var parts = path[(path.LastIndexOf('/') + 1)..].Split('.');
        return parts.Length > 2 && parts[^2] is "pdf" or "text" or "txt" or "csv" or "xml" or "json" or "atom" or "rss" or "ics" or "yml" or "yaml" or "sh" or "conf";
    }

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var found in base.Run(context).Where(f => !IsOtherKind(context.Program.Tree.Files[f.At.File].Path)))
        {
            yield return found;
        }

        foreach (var found in StoredOutput.In(context, this))
        {
            yield return found;
        }

        var unfounded = new List<Finding>();
        var raw = context.EventsAt("page").Where(e => e.Sink!.Raw && !IsOtherKind(e.Function.File.Source.Path)).ToList();
        var givenTo = raw.Where(e => e.Depth > 0).Select(e => e.Place).ToHashSet();
        foreach (var happening in raw)
        {
            var value = happening.Role("value");
            if (value.Taints.Any(t => t.Origin.Kind == OriginKind.Request && (t.Safe & OutputContext.Html) == 0))
            {
                continue;
            }

            var stored = value.Taints.FirstOrDefault(t => (t.Safe & (happening.Context ?? OutputContext.Html)) == 0 && (t.Origin.Kind == OriginKind.Stored || (t.IsParameter && t.Origin.Part.Length > 0)) && t is { Guessed: false, Origin.Name: not Origin.AnyName, Trace.Length: <= MaxStoredSteps } && (context.Counts(t) || (t.IsParameter && !givenTo.Contains(happening.Place))));
            if (stored is not null)
            {
                yield return Raw(happening, $"What was read from a record (“{stored.Origin.Name}”) becomes part of a page, marked as needing no escaping.", CheckContext.Steps(stored, happening, LastStep), stored.Origin.Name ?? "");
            }
            else if (!context.Flow.IsShown(happening.Function.File) && value is { Constant: null, Text: null, Taints.Count: 0, Name: { Length: > 0 } label } && Languages.IsTemplate(happening.Function.File.Source.Language))
            {
                unfounded.Add(Raw(happening, $"“{label.TrimStart('$')}” becomes part of a page, marked as needing no escaping; where it comes from was not found.", [], label));
            }
        }

        foreach (var found in unfounded.GroupBy(f => f.At.File).SelectMany(Together))
        {
            yield return found;
        }
    }

    private Finding Raw(AnalysisEvent happening, string message, IReadOnlyList<FindingStep> steps, string subject) =>
        new() { Check = this, At = happening.Place, Certainty = Certainty.Matched, Message = message, Steps = steps, Subject = subject };

    /// <summary>A page that is put together from many such values is one thing to look at.</summary>
    private static IEnumerable<Finding> Together(IGrouping<int, Finding> ofFile)
    {
        var places = ofFile.OrderBy(f => f.At.Start).DistinctBy(f => f.At).ToList();
        if (places.Count <= MaxSingle)
        {
            return places;
        }

        var names = places.Select(f => f.Subject.TrimStart('$')).Distinct().Where(n => !n.All(char.IsAsciiDigit)).Take(3).Select(n => $"“{n}”").ToList();
        var named = names.Count == 0 ? "" : $", {string.Join(", ", names)} among them,";
        return [places[0] with { Message = $"{places.Count} values{named} become part of this page, marked as needing no escaping; where they come from was not found.", Related = [.. places.Skip(1).Select(f => f.At)] }];
    }

    private const int MaxSingle = 3;

    /// <summary>A way longer than this, of a value that is not the visitor's to begin with, is not believed.</summary>
    internal const int MaxStoredSteps = 5;

    protected override bool IsOpen(AnalysisEvent happening, AbstractValue value, Taint taint) => MayBreak(happening, taint);

    /// <summary>The value was not made harmless for the place where it stands.</summary>
    internal static bool MayBreak(AnalysisEvent happening, Taint taint) => happening.Context is not null || (taint.Safe & OutputContext.Html) == 0;
}
