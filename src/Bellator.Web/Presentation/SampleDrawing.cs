using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Tokens.Samples;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Draws what a sample of ids shows: the bits that there are between two bounds, and the entropy of each place.</summary>
public sealed class SampleDrawing(SampleReport sample)
{
    private const int Width = 860;
    private const int Edge = 8;
    private const double Most = 256;

    /// <summary>A rule of bits with the bounds of the sample and what is asked for.</summary>
    public IHtmlContent Bits()
    {
        var svg = new StringBuilder();
        var (least, most) = (X(sample.AtLeast), X(sample.AtMost));
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"bits\" viewBox=\"0 0 {Width} 64\" role=\"img\" aria-label=\"{Encode(string.Create(CultureInfo.InvariantCulture, $"At least {sample.AtLeast:0.#} and at most {sample.AtMost:0.#} bits; {EntropyRating.LeastBits} and {EntropyRating.WantedBits} are asked for"))}\">");
        svg.Append(CultureInfo.InvariantCulture, $"<line class=\"rule\" x1=\"{Edge}\" y1=\"34\" x2=\"{Width - Edge}\" y2=\"34\"/>");
        foreach (var (bits, source) in new[] { (EntropyRating.LeastBits, EntropyRating.LeastSource), (EntropyRating.WantedBits, EntropyRating.WantedSource) })
        {
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"asked\" x1=\"{X(bits):0.#}\" y1=\"18\" x2=\"{X(bits):0.#}\" y2=\"42\"/><text class=\"asked\" x=\"{X(bits) + 5:0.#}\" y=\"15\">{bits} asked for, {Encode(source)}</text>");
        }

        svg.Append(CultureInfo.InvariantCulture, $"<rect class=\"{(sample.IsGuessable ? "guessable" : "wide")}\" x=\"{least:0.#}\" y=\"28\" width=\"{Math.Max(3, most - least):0.#}\" height=\"12\"/>");
        var far = most - least > 160;
        svg.Append(CultureInfo.InvariantCulture, $"<text class=\"bound\" x=\"{least:0.#}\" y=\"57\">{(far ? "shown" : "at least")} {sample.AtLeast:0.#}{(far ? "" : $", at most {sample.AtMost:0.#} bits")}</text>");
        if (far)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<text class=\"bound\" text-anchor=\"end\" x=\"{most:0.#}\" y=\"57\">room for {sample.AtMost:0.#} bits</text>");
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    /// <summary>A bar for each place.</summary>
    public IHtmlContent Places()
    {
        const int height = 74;
        var svg = new StringBuilder();
        var step = Math.Min(24, (Width - (2.0 * Edge)) / Math.Max(1, sample.Positions.Count));
        var full = Math.Max(1, sample.BitsPerSign > 0 ? sample.BitsPerSign : sample.Positions.Max(p => p.Entropy));
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"positions\" viewBox=\"0 0 {Width} {height + 16}\" role=\"img\" aria-label=\"Entropy of each place\"><line class=\"full\" x1=\"{Edge}\" y1=\"4\" x2=\"{Edge + (step * sample.Positions.Count):0.#}\" y2=\"4\"/>");
        foreach (var place in sample.Positions)
        {
            var x = Edge + (step * place.Index);
            var bar = (height - 4) * Math.Min(1, place.Entropy / full);
            var said = string.Create(CultureInfo.InvariantCulture, $"place {place.Index + 1}: {place.Distinct} {(place.Distinct == 1 ? "character" : "characters")}, {place.Entropy:0.00} bits");
            svg.Append(place.Distinct == 1
                ? string.Create(CultureInfo.InvariantCulture, $"<rect class=\"fixed\" x=\"{x + 0.5:0.#}\" y=\"{height - 8}\" width=\"{Math.Max(1, step - 2):0.#}\" height=\"8\"><title>{said}</title></rect>")
                : string.Create(CultureInfo.InvariantCulture, $"<rect x=\"{x:0.#}\" y=\"{height - bar:0.#}\" width=\"{Math.Max(1, step - 1.5):0.#}\" height=\"{bar:0.#}\"><title>{said}</title></rect>"));
            if (place.Index % 8 == 0)
            {
                svg.Append(CultureInfo.InvariantCulture, $"<text x=\"{x:0.#}\" y=\"{height + 13}\">{place.Index + 1}</text>");
            }
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    private static double X(double bits) => Edge + ((Width - (2 * Edge)) * Math.Min(bits, Most) / Most);

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
