using AngleSharp.Html.Parser;
using Bellator.Analysis.Domain;

namespace Bellator.Audit.Witnesses;

/// <summary>The smallest text that leaves its place in a page, found by parsing the page with an ordinary and a crafted value and comparing the elements.</summary>
public static class PageWitness
{
    /// <param name="value">What is written, with the text around the values where it is known.</param>
    /// <param name="taint">The value in question.</param>
    /// <param name="standing">Where in the page it stands.</param>
    public static Witness? For(AbstractValue value, Taint taint, OutputContext standing)
    {
        if (standing == OutputContext.Address)
        {
            return Address(value, taint);
        }

        var (before, after) = standing switch
        {
            OutputContext.Attribute => ("<p title=\"", "\"></p>"),
            OutputContext.Url => ("<p title=", "></p>"),
            OutputContext.Script => ("<script>const shown = '", "';</script>"),
            _ => ("<p>", "</p>"),
        };
        var pieces = FilledText.Forms(value)[0];
        var plain = before + FilledText.Of(pieces, taint, "elm") + after;
        var expected = Elements(plain);
        foreach (var crafted in (ReadOnlySpan<string>)["<b>elm</b>", "elm\"><b>elm</b>", "elm'><b>elm</b>", "elm onclick=elm", "elm</script><b>elm</b>"])
        {
            if ((taint.Safe & (OutputContext.Html | OutputContext.Attribute)) != 0 && crafted.AsSpan().IndexOfAny('<', '"', '\'') >= 0)
            {
                // These signs are escaped on the way.
                continue;
            }

            var changed = before + FilledText.Of(pieces, taint, crafted) + after;
            if (!Elements(changed).SequenceEqual(expected))
            {
                return new Witness("page", crafted, plain, changed, "Parsed as a page, the second has an element or attribute that the value brought along; a script comes in the same way.");
            }
        }

        return null;
    }

    /// <summary>An address that runs as script, if the browser's parser reads one.</summary>
    private static Witness? Address(AbstractValue value, Taint taint)
    {
        const string Crafted = "javascript:elm";
        var pieces = FilledText.Forms(value)[0];
        string Page(string text) => "<a href=\"" + FilledText.Of(pieces, taint, text) + "\"></a>";
        return new HtmlParser().ParseDocument(Page(Crafted)).QuerySelector("a") is AngleSharp.Html.Dom.IHtmlAnchorElement { Protocol: "javascript:" }
            ? new Witness("page", Crafted, Page("/things"), Page(Crafted), "Parsed as a page, following the second link runs what stands after the colon as script.")
            : null;
    }

    /// <summary>Elements with their attributes' names, in order: what a value must not change.</summary>
    private static List<string> Elements(string page) =>
        [.. new HtmlParser().ParseDocument(page).All.Select(e => e.LocalName + "(" + string.Join(",", e.Attributes.Select(a => a.Name)) + ")")];
}
