using AngleSharp.Html.Parser;
using Bellator.Audit.Reports;

namespace Bellator.Core.Tests.Reports;

/// <summary>
/// Markdown of notes and reports against the examples of the CommonMark specification 0.31.2 (commonmark-0.31.2.txt, CC BY-SA 4.0, as the npm
/// package commonmark-spec ships it). Left out are those about what we change on purpose: HTML, links, pictures, and the level of headings.
/// </summary>
public sealed class SafeMarkdownTests
{
    private const string Fence = "````````````````````````````````";

    [Fact]
    public void Markdown_is_what_CommonMark_says()
    {
        var parser = new HtmlParser();
        var wrong = new List<string>();
        var tried = 0;
        var spec = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Outside", "commonmark-0.31.2.txt")).ReplaceLineEndings("\n");
        foreach (var example in spec.Split(Fence + " example\n")[1..].Select(e => e[..e.IndexOf("\n" + Fence, StringComparison.Ordinal)].Replace('→', '\t')))
        {
            var cut = example.StartsWith(".\n", StringComparison.Ordinal) ? -1 : example.IndexOf("\n.\n", StringComparison.Ordinal);
            var (markdown, expected) = cut < 0 ? ("", "") : (example[..cut], example[(cut + 3)..]);
            if (cut < 0 || markdown.Contains('<', StringComparison.Ordinal) || expected.Contains("<a ", StringComparison.Ordinal) || expected.Contains("<img", StringComparison.Ordinal) || expected.Contains("<h", StringComparison.Ordinal) || markdown.Contains('|', StringComparison.Ordinal))
            {
                continue;
            }

            tried++;
            if (Plain(SafeMarkdown.Html(markdown)) != Plain(expected))
            {
                wrong.Add($"{markdown}\n→ {SafeMarkdown.Html(markdown)}\nnot {expected}");
            }
        }

        Assert.True(tried > 300, tried.ToString(System.Globalization.CultureInfo.InvariantCulture));
        Assert.True(wrong.Count == 0, $"{wrong.Count} of {tried}: {string.Join("\n\n", wrong.Take(3))}");

        // What is between blocks says nothing.
        string Plain(string html) => parser.ParseDocument("<body>" + html.Trim()).Body!.InnerHtml.Replace(">\n<", "><", StringComparison.Ordinal).Replace("\n</li>", "</li>", StringComparison.Ordinal).Replace("<li>\n", "<li>", StringComparison.Ordinal).Trim();
    }

    [Theory]
    [InlineData("[a](javascript:alert(1))")]
    [InlineData("[a](data:text/html,x)")]
    [InlineData("![a](https://elsewhere.example/a.png)")]
    [InlineData("<javascript:alert(1)>")]
    [InlineData("[a]: javascript:alert(1)\n\n[a]")]
    [InlineData("<img src=x onerror=alert(1)>")]
    [InlineData("<scr<script>ipt>alert(1)</script>")]
    [InlineData("[a](//elsewhere.example)")]
    public void Nothing_in_it_does_harm(string text)
    {
        var html = new HtmlParser().ParseDocument(SafeMarkdown.Html(text));
        Assert.Empty(html.QuerySelectorAll("script, img, [onerror]"));
        Assert.All(html.QuerySelectorAll("a"), a => Assert.Matches("^(https?:|mailto:|#)", a.GetAttribute("href")!));
    }
}
