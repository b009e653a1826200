using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>One line on the left of the map: an address, or all addresses below a path.</summary>
/// <param name="SignIn">needed, notNeeded or unclear; mixed for several that differ.</param>
/// <param name="Uses">Tables and what is done to them.</param>
public sealed record MapLine(string Key, string Method, string Text, string SignIn, int Count, IReadOnlyList<(string Table, string Action, bool IsGuess)> Uses, string Link, bool IsChosen);

/// <summary>A box on the right of the map.</summary>
public sealed record MapTable(string Name, IReadOnlyList<(string Column, string Meaning)> Marked, string Link, bool IsChosen);

/// <summary>Draws addresses on the left, tables on the right, and what the ones do to the others between them.</summary>
public static class SurfaceDrawing
{
    private const int Width = 860;
    private const int LeftEdge = 410;
    private const int RightEdge = 640;
    private const int Row = 21;
    private const int PathRoom = 44;
    private static readonly string[] Order = ["list", "view", "create", "edit", "delete"];

    /// <summary>More ways than this hide one another.</summary>
    private const int ManyWays = 160;

    /// <summary>So many ways that those of addresses for people who are signed in are drawn faintly.</summary>
    public static bool IsDense(IReadOnlyList<MapLine> lines, IReadOnlyList<MapTable> tables) =>
        lines.Sum(l => l.Uses.Select(u => u.Table).Distinct(StringComparer.OrdinalIgnoreCase).Count(t => tables.Any(k => k.Name.Equals(t, StringComparison.OrdinalIgnoreCase)))) > ManyWays;

    public static IHtmlContent Draw(IReadOnlyList<MapLine> lines, IReadOnlyList<MapTable> tables)
    {
        var heights = tables.Select(t => 24 + (Math.Min(t.Marked.Count, 4) * 15)).ToList();
        var left = lines.Count * Row;
        var right = heights.Sum() + (Math.Max(0, tables.Count - 1) * 8);
        var height = Math.Max(left, right) + 14;
        var gap = tables.Count > 1 ? Math.Max(8, (height - 14.0 - heights.Sum()) / (tables.Count - 1)) : 8;
        gap = Math.Min(gap, 40);
        var rowGap = lines.Count > 1 ? Math.Clamp((height - 14.0) / lines.Count, Row, 30) : Row;
        var middles = new Dictionary<string, double>(StringComparer.OrdinalIgnoreCase);
        var boxes = new StringBuilder();
        var y = 7.0;
        for (var i = 0; i < tables.Count; i++)
        {
            middles[tables[i].Name] = y + 13;
            Box(boxes, tables[i], y, heights[i]);
            y += heights[i] + gap;
        }

        var isDense = IsDense(lines, tables);
        var ways = new StringBuilder();
        var labels = new StringBuilder();
        for (var i = 0; i < lines.Count; i++)
        {
            var at = 7 + (i * rowGap) + (rowGap / 2);
            foreach (var use in lines[i].Uses.Where(u => middles.ContainsKey(u.Table)).GroupBy(u => u.Table, StringComparer.OrdinalIgnoreCase))
            {
                var to = middles[use.Key];
                var actions = use.Select(u => u.Action).Distinct().OrderBy(a => Array.IndexOf(Order, a)).ToList();
                var strongest = actions[^1];
                var guess = use.All(u => u.IsGuess) ? " guess" : "";
                ways.Append(CultureInfo.InvariantCulture, $"<path class=\"use {strongest}{guess}{(isDense && lines[i].SignIn == "needed" ? " faint" : "")}\" data-from=\"{Encode(lines[i].Key)}\" data-to=\"{Encode(use.Key)}\" d=\"M {LeftEdge} {at:0.#} C {LeftEdge + 110} {at:0.#}, {RightEdge - 110} {to:0.#}, {RightEdge} {to:0.#}\"><title>{Encode($"{lines[i].Method} {lines[i].Text}: {string.Join(", ", actions)} {use.Key}")}</title></path>");
            }

            Line(labels, lines[i], at);
        }

        var total = Math.Max(y, 14 + (lines.Count * rowGap));
        return new HtmlString(string.Create(CultureInfo.InvariantCulture, $"<svg class=\"surface\" id=\"map\" viewBox=\"0 0 {Width} {total:0}\" role=\"group\" aria-label=\"Addresses on the left, tables on the right; the same is in the list\">{ways}{labels}{boxes}</svg>"));
    }

    private static void Line(StringBuilder svg, MapLine line, double y)
    {
        var text = line.Text.Length <= PathRoom ? line.Text : "…" + line.Text[^(PathRoom - 1)..];
        svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(line.Link)}\" class=\"entry{(line.IsChosen ? " chosen" : "")}\" data-key=\"{Encode(line.Key)}\"><title>{Encode($"{line.Method} {line.Text}")}</title>");
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"ground\" x=\"0\" y=\"{y - 10:0.#}\" width=\"{LeftEdge}\" height=\"20\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"method\" x=\"58\" text-anchor=\"end\" y=\"{y + 4:0.#}\">{Encode(line.Count > 1 ? $"{line.Count} ×" : line.Method == "*" ? "any" : line.Method)}</text>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"path\" x=\"68\" y=\"{y + 4:0.#}\">{Encode(text)}</text>");
        svg.Append(Mark(line.SignIn, LeftEdge - 8, y)).Append("</a>");
    }

    /// <summary>Who reaches an address: a ring for anybody, a full dot for those signed in, half of it where that is not clear.</summary>
    public static string Mark(string signIn, double x, double y) => signIn switch
    {
        "needed" => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"mark needed\" cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"4.5\"><title>sign-in needed</title></circle>"),
        "notNeeded" => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"mark anybody\" cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"4.5\"><title>anybody reaches it</title></circle>"),
        _ => string.Create(CultureInfo.InvariantCulture, $"<g class=\"mark unclear\"><title>{(signIn == "mixed" ? "some need sign-in" : "not clear")}</title><circle class=\"anybody\" cx=\"{x:0.#}\" cy=\"{y:0.#}\" r=\"4.5\"/><path class=\"half\" d=\"M {x:0.#} {y - 4.5:0.#} A 4.5 4.5 0 0 1 {x:0.#} {y + 4.5:0.#} Z\"/></g>"),
    };

    private static void Box(StringBuilder svg, MapTable table, double y, int height)
    {
        svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(table.Link)}\" class=\"table{(table.IsChosen ? " chosen" : "")}\" data-key=\"{Encode(table.Name)}\"><rect class=\"box\" x=\"{RightEdge}\" y=\"{y:0.#}\" width=\"{Width - RightEdge - 2}\" height=\"{height}\" rx=\"2\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"name\" x=\"{RightEdge + 10}\" y=\"{y + 17:0.#}\">{Encode(table.Name)}</text>");
        for (var i = 0; i < Math.Min(table.Marked.Count, 4); i++)
        {
            var (column, meaning) = table.Marked[i];
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"column\" x=\"{RightEdge + 10}\" y=\"{y + 33 + (i * 15):0.#}\">{Encode(column)}<tspan class=\"meaning\" dx=\"7\">{Encode(i == 3 && table.Marked.Count > 4 ? $"and {table.Marked.Count - 3} more" : meaning)}</tspan></text>");
        }

        svg.Append("</a>");
    }

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
