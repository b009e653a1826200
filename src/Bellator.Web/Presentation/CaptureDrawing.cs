using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using Bellator.Tokens.Traffic;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Draws captured traffic: requests from left to right, a lane for each value of a credential, and what happened to the account.</summary>
public static class CaptureDrawing
{
    private const int Width = 1180;
    private const int Left = 230;
    private const int Top = 46;
    private const int Row = 26;
    private const int MostLanes = 40;

    public static IHtmlContent Draw(CaptureReport capture)
    {
        var lanes = capture.Credentials.SelectMany(c => c.Values.Select(v => (Credential: c, Value: v))).Take(MostLanes).ToList();
        var count = Math.Max(1, capture.Exchanges.Count);
        var step = (Width - Left - 20) / (double)count;
        var height = Top + (Row * lanes.Count) + 10;
        double X(int exchange) => Left + (step * (exchange + 0.5));
        var svg = new StringBuilder();
        svg.Append(CultureInfo.InvariantCulture, $"<svg class=\"life capture\" viewBox=\"0 0 {Width} {height}\" role=\"img\" aria-label=\"{Encode($"{capture.Exchanges.Count} requests and {lanes.Count} values of credentials")}\">");
        foreach (var exchange in capture.Exchanges.Where(_ => step > 1.5))
        {
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"tick{(exchange.Status is >= 400 or 0 ? " refused" : "")}\" x1=\"{X(exchange.Index):0.#}\" y1=\"{Top - 12}\" x2=\"{X(exchange.Index):0.#}\" y2=\"{Top - 4}\"><title>{Encode($"{exchange.Index + 1}: {exchange.Method} {exchange.Host}{exchange.Path}, {exchange.Status}")}</title></line>");
        }

        foreach (var (happening, i) in capture.Events.Select((e, i) => (e, i)))
        {
            var x = X(happening.Exchange);
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"happening\" x1=\"{x:0.#}\" y1=\"{Top - 14}\" x2=\"{x:0.#}\" y2=\"{height}\"/><text class=\"event\" text-anchor=\"middle\" x=\"{Math.Min(x, Width - 40):0.#}\" y=\"{12 + (i % 2 * 14)}\">{Name(happening.Kind)} ({happening.Exchange + 1})</text>");
        }

        for (var i = 0; i < lanes.Count; i++)
        {
            Lane(svg, lanes[i].Credential, lanes[i].Value, Top + (Row * i) + (Row / 2), X, i == 0 || lanes[i - 1].Credential != lanes[i].Credential);
        }

        return new HtmlString(svg.Append("</svg>").ToString());
    }

    public static string Name(TrafficEventKind kind) => kind switch { TrafficEventKind.SignIn => "sign-in", TrafficEventKind.SignOut => "sign-out", _ => "password change" };

    private static void Lane(StringBuilder svg, ReportedCapture credential, ReportedValue value, int y, Func<int, double> x, bool isFirst)
    {
        if (isFirst)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"between\" x1=\"0\" y1=\"{y - (Row / 2)}\" x2=\"{Width}\" y2=\"{y - (Row / 2)}\"/><text class=\"name\" x=\"4\" y=\"{y + 5}\">{Encode(credential.Name.Length > 26 ? credential.Name[..25] + "…" : credential.Name)}<title>{Encode($"{credential.Name}, {credential.Carrier}, {credential.Host}")}</title></text>");
        }

        var end = value.Ended is { } ended && ended >= value.FirstSeen ? ended : value.LastSeen;
        svg.Append(CultureInfo.InvariantCulture, $"<g class=\"cell ends\"><text class=\"letter\" text-anchor=\"end\" x=\"{x(value.FirstSeen) - 9:0.#}\" y=\"{y + 4}\">{value.Label}</text><circle class=\"{(value.WasIssued ? "issued" : "brought")}\" cx=\"{x(value.FirstSeen):0.#}\" cy=\"{y}\" r=\"4\"/><line class=\"lane\" x1=\"{x(value.FirstSeen):0.#}\" y1=\"{y}\" x2=\"{x(end):0.#}\" y2=\"{y}\"/>");
        if (value.Ended is not null)
        {
            svg.Append(CultureInfo.InvariantCulture, $"<line class=\"stop\" x1=\"{x(end):0.#}\" y1=\"{y - 7}\" x2=\"{x(end):0.#}\" y2=\"{y + 7}\"/>");
        }

        svg.Append("</g>");
        if (value.AcceptedAfter.Count > 0)
        {
            var last = x(value.AcceptedAfter[^1]);
            svg.Append(CultureInfo.InvariantCulture, $"<g class=\"cell stays\"><line class=\"lane\" x1=\"{x(end) + 4:0.#}\" y1=\"{y}\" x2=\"{last:0.#}\" y2=\"{y}\"/><path class=\"head\" d=\"M{last - 2:0.#} {y - 5} l9 5 l-9 5 z\"/></g>");
        }
    }

    private static string Encode(string text) => HtmlEncoder.Default.Encode(text);
}
