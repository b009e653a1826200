using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Audit.Auditing;
using Bellator.Storage.Reviews;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Draws the flows of a cause: where values come in on the left, the places where they could be cut in the middle, the end on the right.</summary>
public static class CauseDrawing
{
    private const int Row = 30;
    private const int Width = 880;
    private const int Middle = 470;
    private const int Right = 700;
    public const int MostShown = 12;

    /// <summary>Letters that fit beside the points on the left, above those in the middle, and on the right.</summary>
    private const int LeftRoom = 34;
    private const int MiddleRoom = 32;
    private const int RightRoom = 23;

    public static IHtmlContent Draw(CauseRow cause, Func<FindingRow, string> link)
    {
        var flows = cause.Flows.Take(MostShown).ToList();
        var mends = flows.Select(MendOf).Distinct().ToList();
        var height = Math.Max(flows.Count, mends.Count) * Row + 14;
        var end = height / 2.0;
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"cause\" viewBox=\"0 0 {Width} {height}\" role=\"group\" aria-label=\"{Encode(Describe(cause))}\">");
        for (var i = 0; i < flows.Count; i++)
        {
            var y = YOf(i, flows.Count, height);
            var mend = YOf(mends.IndexOf(MendOf(flows[i])), mends.Count, height);
            var line = flows[i].Certainty;
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"way {line}\" d=\"M 262 {y:0.#} C 350 {y:0.#}, 380 {mend:0.#}, {Middle} {mend:0.#}\"/>");
            svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(link(flows[i]))}\"><circle class=\"from\" cx=\"256\" cy=\"{y:0.#}\" r=\"5\"/><text class=\"place\" text-anchor=\"end\" x=\"244\" y=\"{y + 4:0.#}\">{Label(new CodePlace(flows[i].SourcePath, flows[i].SourceLine), LeftRoom)}</text></a>");
        }

        for (var i = 0; i < mends.Count; i++)
        {
            var y = YOf(i, mends.Count, height);
            var best = mends[i] == CutOf(cause) && cause.CutCount > 1 ? " best" : "";
            svg.Append(CultureInfo.InvariantCulture, $"<path class=\"way\" d=\"M {Middle} {y:0.#} C {Middle + 90} {y:0.#}, {Right - 80} {end:0.#}, {Right} {end:0.#}\"/>");
            svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"cut{best}\" cx=\"{Middle}\" cy=\"{y:0.#}\" r=\"6\"/><text class=\"place above\" text-anchor=\"end\" x=\"{Middle + 8}\" y=\"{y - 10:0.#}\">{Label(mends[i], MiddleRoom)}</text>");
        }

        svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"end\" cx=\"{Right}\" cy=\"{end:0.#}\" r=\"6\"/><text class=\"place\" x=\"{Right + 14}\" y=\"{end + 4:0.#}\">{Label(SinkOf(cause), RightRoom)}</text></svg>");
        return new HtmlString(svg.ToString());
    }

    public static CodePlace SinkOf(CauseRow cause) => new(cause.SinkPath, cause.SinkLine);

    public static CodePlace CutOf(CauseRow cause) => new(cause.CutPath, cause.CutLine);

    private static CodePlace MendOf(FindingRow flow) => new(flow.Path, flow.Line);

    private static string Describe(CauseRow cause) => $"{cause.FlowCount} ways to {SinkOf(cause)}; a change at {CutOf(cause)} mends {cause.CutCount}";

    private static double YOf(int index, int count, int height) => height * (index + 0.5) / count + 3;

    /// <summary>The end of the path as far as there is room, cut between folders where that can be.</summary>
    private static string Short(CodePlace place, int room)
    {
        var text = place.ToString();
        if (text.Length <= room)
        {
            return text;
        }

        var folder = text.IndexOf('/', text.Length - room);
        return folder > 0 ? "…" + text[folder..] : "…" + text[^(room - 1)..];
    }

    /// <summary>The whole path, for whoever points at the short one.</summary>
    private static string Label(CodePlace place, int room) => $"<title>{Encode(place.ToString())}</title>{Encode(Short(place, room))}";

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
