using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>
/// Draws the life of each credential as a lane that comes to the events of an account one after another: it goes through those that it
/// outlives, and stops at those that end it.
/// </summary>
public static class LifeDrawing
{
    private const int Width = 1180;
    private const int Left = 262;
    private const int Top = 44;
    private const int Row = 40;

    /// <param name="link">Opens a credential, or one of its events.</param>
    /// <param name="open">What is open: the credential, and the event or null.</param>
    public static IHtmlContent Draw(IReadOnlyList<ReportedCredential> credentials, Func<int, string?, string> link, (int Credential, string? Event) open)
    {
        var column = (Width - Left) / (double)SessionText.Events.Count;
        var height = Top + (Row * credentials.Count) + 6;
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"life\" viewBox=\"0 0 {Width} {height}\" role=\"group\" aria-label=\"What each credential outlives\">");
        for (var i = 0; i < SessionText.Events.Count; i++)
        {
            var x = Left + (column * (i + 0.5));
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"event\" x1=\"{x:0.#}\" y1=\"{Top - 12}\" x2=\"{x:0.#}\" y2=\"{height}\"/>");
            var words = SessionText.Event(SessionText.Events[i]).Split(' ', 2);
            for (var w = 0; w < words.Length; w++)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text class=\"event\" text-anchor=\"middle\" x=\"{x:0.#}\" y=\"{(words.Length == 1 ? 25 : 12 + (w * 14))}\">{Encode(words[w])}</text>");
            }
        }

        for (var i = 0; i < credentials.Count; i++)
        {
            Lane(svg, credentials[i], i, Top + (Row * i), column, link, open);
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    private static void Lane(StringBuilder svg, ReportedCredential credential, int index, int top, double column, Func<int, string?, string> link, (int Credential, string? Event) open)
    {
        var middle = top + (Row / 2);
        svg.Append(CultureInfo.InvariantCulture, $"<line class=\"between\" x1=\"0\" y1=\"{top}\" x2=\"{Width}\" y2=\"{top}\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(link(index, null))}\" class=\"name{(open == (index, null) ? " open" : "")}\"><title>{Encode(SessionText.Summary(credential))}</title>");
        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"ground\" x=\"0\" y=\"{top + 2}\" width=\"{Left - 22}\" height=\"{Row - 4}\"/>");
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"name\" x=\"4\" y=\"{middle - 2}\">{Encode(Short(credential.Name, 36))}</text><text class=\"kind\" x=\"4\" y=\"{middle + 13}\">{Encode($"{SessionText.Kind(credential.Kind)} · {LanguageName(credential.Family)}")}</text></a>");
        svg.Append(CultureInfo.InvariantCulture, $"<circle class=\"issued\" cx=\"{Left - 10}\" cy=\"{middle}\" r=\"4.5\"/>");
        for (var i = 0; i < SessionText.Events.Count; i++)
        {
            var name = SessionText.Events[i];
            var cell = credential.Life.FirstOrDefault(l => l.Event == name) ?? new ReportedLifeCell(name, "unclear", "not looked at", []);
            var (start, x, end) = (Left + (column * i), Left + (column * (i + 0.5)), Left + (column * (i + 1)));
            svg.Append(CultureInfo.InvariantCulture, $"<a href=\"{Encode(link(index, name))}\" class=\"cell {cell.State}{(open == (index, name) ? " open" : "")}\" aria-label=\"{Encode($"{credential.Name}, {SessionText.Event(name)}: {SessionText.State(cell.State)}, {cell.Text}")}\"><title>{Encode($"{SessionText.Event(name)}: {SessionText.State(cell.State)}, {cell.Text}")}</title>");
            svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"ground\" x=\"{start + 2:0.#}\" y=\"{top + 2}\" width=\"{column - 4:0.#}\" height=\"{Row - 4}\"/>");
            svg.Append(cell.State switch
            {
                "stays" => string.Create(CultureInfo.InvariantCulture, $"<line class=\"lane\" x1=\"{start + 6:0.#}\" y1=\"{middle}\" x2=\"{end - 11:0.#}\" y2=\"{middle}\"/><path class=\"head\" d=\"M{end - 14:0.#} {middle - 5} l9 5 l-9 5 z\"/>"),
                "ends" => string.Create(CultureInfo.InvariantCulture, $"<line class=\"lane\" x1=\"{start + 6:0.#}\" y1=\"{middle}\" x2=\"{x:0.#}\" y2=\"{middle}\"/><line class=\"stop\" x1=\"{x:0.#}\" y1=\"{middle - 8}\" x2=\"{x:0.#}\" y2=\"{middle + 8}\"/>"),
                "unclear" => string.Create(CultureInfo.InvariantCulture, $"<line class=\"lane\" x1=\"{start + 6:0.#}\" y1=\"{middle}\" x2=\"{x - 8:0.#}\" y2=\"{middle}\"/><text class=\"asked\" text-anchor=\"middle\" x=\"{x:0.#}\" y=\"{middle + 5}\">?</text>"),
                _ => string.Create(CultureInfo.InvariantCulture, $"<circle class=\"none\" cx=\"{x:0.#}\" cy=\"{middle}\" r=\"2\"/>"),
            });
            svg.Append("</a>");
        }
    }

    /// <summary>A language as people write it.</summary>
    public static string LanguageName(string family) => family switch
    {
        "php" => "PHP",
        "javascript" => "JavaScript",
        "csharp" => "C#",
        "" => "",
        _ => char.ToUpperInvariant(family[0]) + family[1..],
    };

    private static string Short(string text, int length) => text.Length <= length ? text : text[..(length - 1)] + "…";

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
