using Bellator.Audit.Reports;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>Markdown that people wrote, as safe HTML.</summary>
public static class MarkdownText
{
    public static IHtmlContent Html(string text) => new HtmlString(SafeMarkdown.Html(text));
}
