using Markdig;
using Markdig.Renderers.Html;
using Markdig.Syntax;
using Markdig.Syntax.Inlines;

namespace Bellator.Audit.Reports;

/// <summary>
/// CommonMark (version 0.31.2, through Markdig) from people and from audited material, as HTML that can do no harm: HTML in it is shown as
/// text, links lead to the web or within the document only, and pictures become links, so that a report asks nobody's server for anything.
/// </summary>
public static class SafeMarkdown
{
    private static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().DisableHtml().UsePipeTables().Build();

    public static string Html(string text)
    {
        var document = Markdown.Parse(text, Pipeline);
        foreach (var link in document.Descendants<LinkInline>())
        {
            if (!IsSafe(link.Url))
            {
                link.Url = "#";
            }

            link.IsImage = false;
            link.GetAttributes().AddPropertyIfNotExist("rel", "noreferrer noopener");
        }

        foreach (var link in document.Descendants<AutolinkInline>().Where(l => !l.IsEmail && !IsSafe(l.Url)))
        {
            link.Url = "#";
        }

        // Headings of a note must not stand above those of the page that it is in.
        foreach (var heading in document.Descendants<HeadingBlock>())
        {
            heading.Level = Math.Min(6, heading.Level + 2);
        }

        return document.ToHtml(Pipeline);
    }

    private static bool IsSafe(string? url) => url is not null
        && (url.StartsWith('#') || (Uri.TryCreate(url, UriKind.Absolute, out var uri) && uri.Scheme is "http" or "https" or "mailto"));
}
