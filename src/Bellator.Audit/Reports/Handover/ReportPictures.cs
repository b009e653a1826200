using System.Globalization;
using System.Net;
using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;

namespace Bellator.Audit.Reports.Handover;

/// <summary>Pictures of a report, as SVG with a text that says the same.</summary>
internal static class ReportPictures
{
    private static readonly (string Name, double From)[] Bands = [("critical", 9), ("high", 7), ("medium", 4), ("low", 0)];
    private const int MostFlows = 10;

    /// <summary>How many findings each area has, by severity; what is not judged is drawn in outline.</summary>
    public static string SeverityByArea(ReportContent content)
    {
        var areas = content.Causes.GroupBy(c => c.Area).OrderBy(g => CheckList.Areas.ToList().IndexOf(g.Key)).Select(g => (g.Key, Causes: g.ToList())).ToList();
        if (areas.Count == 0)
        {
            return "";
        }

        var most = areas.Max(a => Counted(a.Causes).Sum(c => c.Confirmed + c.Other));
        var unit = Math.Min(18, 460.0 / Math.Max(1, most));
        var height = (areas.Count * 34) + 26;
        var text = string.Join("; ", areas.Select(a => $"{a.Key}: {string.Join(", ", Counted(a.Causes).Zip(Bands).Where(c => c.First.Confirmed + c.First.Other > 0).Select(c => $"{c.First.Confirmed + c.First.Other} {c.Second.Name}, of which {c.First.Confirmed} confirmed"))}"));
        var svg = new StringBuilder().Append(CultureInfo.InvariantCulture, $"<svg class=\"picture\" viewBox=\"0 0 640 {height}\" role=\"img\" aria-label=\"{Encode(text)}\"><title>{Encode(text)}</title>");
        for (var i = 0; i < areas.Count; i++)
        {
            var y = (i * 34) + 6;
            svg.Append(CultureInfo.InvariantCulture, $"<text x=\"96\" y=\"{y + 16}\" text-anchor=\"end\">{Encode(areas[i].Key)}</text>");
            var x = 106.0;
            foreach (var ((confirmed, other), band) in Counted(areas[i].Causes).Zip(Bands))
            {
                Bar(confirmed, "full");
                Bar(other, "open");

                void Bar(int count, string kind)
                {
                    if (count > 0)
                    {
                        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"{band.Name} {kind}\" x=\"{x:0.#}\" y=\"{y}\" width=\"{(count * unit) - 1.5:0.#}\" height=\"22\"/>");
                        if (count * unit > 16)
                        {
                            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"in {kind}\" x=\"{x + (count * unit / 2) - 0.7:0.#}\" y=\"{y + 15.5}\" text-anchor=\"middle\">{count}</text>");
                        }

                        x += count * unit;
                    }
                }
            }
        }

        svg.Append(CultureInfo.InvariantCulture, $"<g class=\"key\" transform=\"translate(106 {height - 14})\">");
        var at = 0;
        foreach (var band in Bands)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"{band.Name} full\" x=\"{at}\" y=\"0\" width=\"11\" height=\"11\"/><text x=\"{at + 16}\" y=\"10\">{band.Name}</text>");
            at += 82;
        }

        return svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"high open\" x=\"{at}\" y=\"0\" width=\"11\" height=\"11\"/><text x=\"{at + 16}\" y=\"10\">outline: not confirmed</text></g></svg>").ToString();
    }

    /// <summary>Where the values of a cause come in, and the place where they come together.</summary>
    public static string Flow(ReportCause cause, IReadOnlyList<ReportFinding> findings)
    {
        var sources = findings.Where(f => f.Steps.Count > 1).Select(f => $"{f.Steps[0].Path}:{f.Steps[0].Line}").Distinct().ToList();
        if (sources.Count < 2)
        {
            return "";
        }

        var shown = sources.Take(MostFlows).ToList();
        var end = findings[0].Steps[^1];
        var height = (shown.Count * 22) + 10;
        var text = $"{sources.Count} places where values come in lead to {end.Path}:{end.Line}: {string.Join(", ", sources)}";
        var svg = new StringBuilder().Append(CultureInfo.InvariantCulture, $"<svg class=\"picture\" viewBox=\"0 0 640 {height}\" role=\"img\" aria-label=\"{Encode(text)}\"><title>{Encode(text)}</title>");
        for (var i = 0; i < shown.Count; i++)
        {
            var y = (i * 22) + 16;
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"code\" x=\"250\" y=\"{y + 4}\" text-anchor=\"end\">{Encode(Short(shown[i]))}</text><circle class=\"dot\" cx=\"260\" cy=\"{y}\" r=\"3.5\"/><path class=\"way\" d=\"M264 {y} C330 {y} 330 {height / 2} 392 {height / 2}\"/>");
        }

        return svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"end\" cx=\"398\" cy=\"{height / 2}\" r=\"5.5\"/><text class=\"code\" x=\"410\" y=\"{(height / 2) + 4}\">{Encode(Short($"{end.Path}:{end.Line}"))}</text></svg>").ToString();
    }

    /// <summary>A journey as a line with stations; where a step is absent, the line is broken.</summary>
    public static string Journey(ReportedJourney journey)
    {
        var steps = journey.Steps.Where(s => s.State != "notNeeded").ToList();
        if (steps.Count == 0)
        {
            return "";
        }

        var gap = Math.Min(140, 600.0 / steps.Count);
        var text = $"{JourneyText.Title(journey.Kind)}: {string.Join(", ", steps.Select(s => $"{s.Name} {JourneyText.State(s.State)}"))}";
        var svg = new StringBuilder().Append(CultureInfo.InvariantCulture, $"<svg class=\"picture journey\" viewBox=\"0 0 640 54\" role=\"img\" aria-label=\"{Encode(text)}\"><title>{Encode(text)}</title>");
        for (var i = 0; i < steps.Count; i++)
        {
            var x = 24 + (i * gap);
            if (i > 0)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<path class=\"{(steps[i].State == "shown" ? "line" : steps[i].State == "absent" ? "line broken" : "line unclear")}\" d=\"M{x - gap + 7:0.#} 14 H{x - 7:0.#}\"/>");
            }

            svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"{steps[i].State}\" cx=\"{x:0.#}\" cy=\"14\" r=\"6\"/>");
            var words = Wrapped(steps[i].Name, (int)(gap / 6));
            for (var w = 0; w < words.Count; w++)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text class=\"small\" x=\"{x - 6:0.#}\" y=\"{34 + (w * 12)}\">{Encode(words[w])}</text>");
            }
        }

        return svg.Append("</svg>").ToString();
    }

    private static List<(int Confirmed, int Other)> Counted(List<ReportCause> causes) => [.. Bands.Select((b, i) => (b.From, To: i == 0 ? 11 : Bands[i - 1].From)).Select(b =>
    {
        var findings = causes.Where(c => c.Score >= b.From && c.Score < b.To).SelectMany(c => c.Findings).ToList();
        return (findings.Count(f => f.Verdict == Verdicts.Confirmed), findings.Count(f => f.Verdict is Verdicts.ToJudge or Verdicts.RiskAccepted));
    })];

    private static List<string> Wrapped(string text, int room)
    {
        var lines = new List<string> { "" };
        foreach (var word in text.Split(' '))
        {
            if (lines[^1].Length > 0 && lines[^1].Length + word.Length + 1 > room && lines.Count < 2)
            {
                lines.Add("");
            }

            lines[^1] += (lines[^1].Length > 0 ? " " : "") + word;
        }

        return lines;
    }

    private static string Short(string place) => place.Length > 34 ? "…" + place[^33..] : place;

    private static string Encode(string text) => WebUtility.HtmlEncode(text);
}
