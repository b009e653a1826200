using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Audit.Auditing;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Draws a journey as a line with stations; the line is broken where a step is absent.</summary>
public static class JourneyDrawing
{
    private const int Width = 1180;
    private const int Line = 18;
    private const int Edge = 16;
    private const int MostLines = 3;

    /// <param name="link">Opens a step.</param>
    /// <param name="open">The step that is open, or -1.</param>
    public static IHtmlContent Draw(ReportedJourney journey, Func<int, string> link, int open)
    {
        var steps = journey.Steps;
        var gap = steps.Count > 1 ? (Width - (2.0 * Edge)) / (steps.Count - 1) : 0;
        var height = 56 + (15 * steps.Select((s, i) => Wrapped(s.Text, RoomAt(gap, i, steps.Count), MostLines).Count).DefaultIfEmpty(1).Max());
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"journey\" viewBox=\"0 0 {Width} {height}\" role=\"group\" aria-label=\"{Encode($"{journey.Kind}: {string.Join(", ", steps.Select(s => $"{s.Name} {s.State}"))}")}\">");
        for (var i = 0; i + 1 < steps.Count; i++)
        {
            var broken = steps[i].State == "absent" || steps[i + 1].State == "absent";
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"rail{(broken ? " broken" : "")}\" x1=\"{X(i) + 9:0.#}\" y1=\"{Line}\" x2=\"{X(i + 1) - 9:0.#}\" y2=\"{Line}\"/>");
        }

        for (var i = 0; i < steps.Count; i++)
        {
            Station(svg, steps[i], X(i), gap, height, (i, steps.Count), link(i), i == open);
        }

        return new HtmlString(svg.Append("</svg>").ToString());

        double X(int index) => Edge + (index * gap);
    }

    private static void Station(StringBuilder svg, ReportedJourneyStep step, double x, double gap, int height, (int Index, int Count) place, string link, bool isOpen)
    {
        // The first and last station stand at the edges: their words begin and end there.
        var (anchor, textX) = place.Index == 0 ? ("start", x - 12) : place.Index == place.Count - 1 ? ("end", x + 12) : ("middle", x);
        svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(link)}\" class=\"station {step.State}{(isOpen ? " open" : "")}\"><title>{Encode($"{step.Name}, {State(step.State)}: {step.Reason}")}</title>");
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"ground\" x=\"{Math.Max(0, x - (gap / 2) + 3):0.#}\" y=\"2\" width=\"{Math.Max(40, (place.Index == 0 || place.Index == place.Count - 1 ? (gap / 2) + Edge : gap) - 6):0.#}\" height=\"{height - 4}\"/>");
        svg.Append(step.State switch
        {
            "shown" => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"dot\" cx=\"{x:0.#}\" cy=\"{Line}\" r=\"7\"/>"),
            "notNeeded" => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"dot\" cx=\"{x:0.#}\" cy=\"{Line}\" r=\"3.5\"/>"),
            _ => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"dot\" cx=\"{x:0.#}\" cy=\"{Line}\" r=\"7.5\"/>"),
        });
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"name\" text-anchor=\"{anchor}\" x=\"{textX:0.#}\" y=\"{Line + 25}\">{Encode(step.Name)}</text>");
        var lines = Wrapped(step.Text, RoomAt(gap, place.Index, place.Count), MostLines);
        for (var i = 0; i < lines.Count; i++)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"said\" text-anchor=\"{anchor}\" x=\"{textX:0.#}\" y=\"{Line + 41 + (i * 15)}\">{Encode(lines[i])}</text>");
        }

        svg.Append("</a>");
    }

    /// <summary>Signs that fit below a station. At the ends the words stand to one side, and must not come near those of the neighbour.</summary>
    private static int RoomAt(double gap, int index, int count) => (int)(Math.Min(gap, 210) * (index == 0 || index == count - 1 ? 0.62 : 0.84) / 6.4);

    public static string State(string state) => JourneyText.State(state);

    /// <summary>The text on a few lines, cut between words; the whole of it is in the title and below.</summary>
    private static List<string> Wrapped(string text, int room, int most)
    {
        var lines = new List<string>();
        var line = "";
        foreach (var word in text.Split(' '))
        {
            if (line.Length > 0 && line.Length + word.Length + 1 > room)
            {
                lines.Add(line);
                line = "";
            }

            line = line.Length == 0 ? word : line + " " + word;
        }

        lines.Add(line);
        if (lines.Count > most)
        {
            lines = [.. lines.Take(most)];
            lines[^1] = lines[^1].TrimEnd(',', '.') + " …";
        }

        return [.. lines.Select(l => l.Length <= room + 1 ? l : string.Concat(l.AsSpan(0, room), "…"))];
    }

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
