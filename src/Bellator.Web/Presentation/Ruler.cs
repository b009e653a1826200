using System.Globalization;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Severity as a mark on a ruler from 0 to 10, drawn so that no style needs to be inline.</summary>
public static class Ruler
{
    public static IHtmlContent Draw(decimal score, bool small = false)
    {
        var width = small ? 60 : 110;
        var unit = width / 10.0m;
        var ticks = string.Concat(Enumerable.Range(0, 11).Select(i => string.Create(
            CultureInfo.InvariantCulture,
            $"<line x1=\"{3 + (i * unit):0.#}\" x2=\"{3 + (i * unit):0.#}\" y1=\"{(i % 5 == 0 ? 4 : 7)}\" y2=\"11\"/>")));
        var at = 3 + (score * unit);
        return new HtmlString(string.Create(
            CultureInfo.InvariantCulture,
            $"<svg class=\"ruler\" width=\"{width + 6}\" height=\"14\" viewBox=\"0 0 {width + 6} 14\" aria-hidden=\"true\">{(small ? "" : ticks)}<line x1=\"3\" x2=\"{width + 3}\" y1=\"11\" y2=\"11\"/><path class=\"mark\" d=\"M{at - 4:0.#} 1h8l-4 9z\"/></svg><span class=\"score\" title=\"CVSS 3.1 base score\">{score:0.0}</span>"));
    }
}
