using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Passwords;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>
/// Draws what a password column holds: a row for each way of storing, the weakest first, a stroke for each person. Where the table
/// has a date, strokes stand in their year, so that one sees which scheme came when and who was never moved to the next.
/// </summary>
public static class SchemeDrawing
{
    private const int Row = 27;
    private const int Width = 860;
    private const int Left = 292;
    private const int Right = 806;
    private const int LongestTitle = 47;

    public static IHtmlContent Draw(PasswordTable table)
    {
        var years = table.Rows.Select(r => YearOf(r.Age)).ToArray();
        var dated = years.Where(y => y is not null).Select(y => y!.Value).ToList();
        var isDated = dated.Count > table.Rows.Count / 2 && dated.Max() - dated.Min() > 0.2;
        var (first, last) = isDated ? (Math.Floor(dated.Min()), Math.Ceiling(dated.Max() + 0.01)) : (0, 1);
        var most = table.Groups.Max(g => g.Indices.Count);
        var height = (table.Groups.Count * Row) + (isDated ? 28 : 8);
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"schemes\" viewBox=\"0 0 {Width} {height}\" role=\"img\" aria-label=\"{Encode(string.Join("; ", table.Groups.Select(g => $"{g.Indices.Count} {g.Title}")))}\">");
        if (isDated)
        {
            var step = Math.Max(1, (int)Math.Ceiling((last - first) / 11));
            for (var year = first; year <= last; year += step)
            {
                var x = Left + ((Right - Left) * (year - first) / (last - first));
                svg.Append(CultureInfo.InvariantCulture, $"<line class=\"year\" x1=\"{x:0.#}\" x2=\"{x:0.#}\" y1=\"4\" y2=\"{height - 22}\"/><text class=\"year\" x=\"{x:0.#}\" y=\"{height - 8}\" text-anchor=\"middle\">{year:0}</text>");
            }
        }

        for (var row = 0; row < table.Groups.Count; row++)
        {
            var group = table.Groups[row];
            var y = (row * Row) + 4;
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"title\" x=\"{Left - 14}\" y=\"{y + 15}\" text-anchor=\"end\">{Encode(Cut(group.Title))}</text>");
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"base\" x1=\"{Left}\" x2=\"{Right}\" y1=\"{y + 20}\" y2=\"{y + 20}\"/><g class=\"{ClassOf(group.Rating.Strength)}\">");
            for (var i = 0; i < group.Indices.Count; i++)
            {
                var index = group.Indices[i];
                var x = isDated
                    ? years[index] is { } year ? Left + ((Right - Left) * (year - first) / (last - first)) : Left - 4
                    : Left + 2 + ((Right - Left - 4) * i / (double)Math.Max(most, 60));
                svg.Append(CultureInfo.InvariantCulture, $"<line class=\"person\" data-row=\"{index}\" x1=\"{x:0.#}\" x2=\"{x:0.#}\" y1=\"{y + 5}\" y2=\"{y + 20}\"/>");
            }

            svg.Append(CultureInfo.InvariantCulture, $"</g><text class=\"count\" x=\"{Right + 12}\" y=\"{y + 16}\">{group.Indices.Count}</text>");
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    public static string ClassOf(Strength strength) => strength switch
    {
        Strength.Unfit => "unfit",
        Strength.BelowMinimum => "below",
        Strength.MeetsMinimum => "meets",
        _ => "unclear",
    };

    private static double? YearOf(string? age) =>
        DateTime.TryParse(age, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var date) && date.Year > 1980
            ? date.Year + (date.DayOfYear / 366.0)
            : null;

    private static string Cut(string text) => text.Length <= LongestTitle ? text : text[..(LongestTitle - 1)] + "…";

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
