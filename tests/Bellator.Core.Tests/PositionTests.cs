using Bellator.Analysis.Domain;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Html;
using Bellator.Analysis.Ir;
using Bellator.Syntax.Templates;

namespace Bellator.Core.Tests;

/// <summary>Where in a page a value stands, and what regular expressions let through: the small judges that many findings rest on.</summary>
public sealed class PositionTests
{
    [Theory]
    [InlineData("<p>", OutputContext.Html)]
    [InlineData("<p title=\"", OutputContext.Attribute)]
    [InlineData("<p title='", OutputContext.Attribute)]
    [InlineData("<p title=", OutputContext.Url)]
    [InlineData("<p title=\"a\">", OutputContext.Html)]
    [InlineData("<script>", OutputContext.Script)]
    [InlineData("<script>const a = '</p>'; ", OutputContext.Script)]
    [InlineData("<script>a();</script><p>", OutputContext.Html)]
    [InlineData("<style>p { color: ", OutputContext.Script)]
    [InlineData("<!-- <script> -->", OutputContext.Html)]
    [InlineData("1 < 2 and ", OutputContext.Html)]
    [InlineData("<div v-html=\"", OutputContext.Html)]
    [InlineData("<iframe srcdoc=\"", OutputContext.Html)]
    public void A_value_stands_where_the_markup_before_it_puts_it(string before, OutputContext expected)
    {
        var page = new PageState();
        page = page.After(before);
        Assert.Equal(expected, page.Position);
    }

    [Theory]
    [InlineData("<a href=\"", true)]
    [InlineData("<a href='", true)]
    [InlineData("<a :href=\"", true)]
    [InlineData("<form action=\"", true)]
    [InlineData("<a href=\"/x/", false)]
    [InlineData("<a title=\"", false)]
    [InlineData("<a href=\"", false, true)]
    public void An_address_begins_with_its_attribute(string before, bool expected, bool valueBefore = false)
    {
        var page = new PageState();
        page = page.After(before);
        if (valueBefore)
        {
            page = page.AfterValue();
        }

        Assert.Equal(expected, page.StartsAddress);
    }

    [Theory]
    [InlineData("<script>a = '", true)]
    [InlineData("<script>a = \"", true)]
    [InlineData("<script>a = 'b\\'", true)]
    [InlineData("<script>a = `", false)]
    [InlineData("<script>a = 'b'; c = ", false)]
    [InlineData("<p>it's ", false)]
    public void Only_quotes_keep_a_value_in_a_script(string before, bool expected)
    {
        var page = new PageState();
        page = page.After(before);
        Assert.Equal(expected, page.IsInScriptText);
    }

    [Theory]
    [InlineData("^[a-z]+$", true)]
    [InlineData("/^\\d{4}-\\d\\d$/", true)]
    [InlineData("\\A\\w+\\z", true)]
    [InlineData("^(a|b)$", true)]
    [InlineData("[a-z]+", false)]
    [InlineData("^[a-z]+", false)]
    [InlineData("^.+$", false)]
    [InlineData("^[^<>]+$", false)]
    [InlineData("^[\\w']+$", false)]
    [InlineData("^\\S+$", false)]
    public void Whole_and_harmless(string pattern, bool expected) => Assert.Equal(expected, RegexSafety.IsWholeAndHarmless(pattern));

    [Theory]
    [InlineData("^/[^/]", true)]
    [InlineData("#^/(?!/)#", true)]
    [InlineData("\\A/([^/]|\\z)", true)]
    [InlineData("/^\\/[a-z]/", true)]
    [InlineData("^/", false)]
    [InlineData("^//", false)]
    [InlineData("/[^/]", false)]
    [InlineData("^https?://", false)]
    [InlineData("^/.*", false)]
    public void Only_paths_of_the_site(string pattern, bool expected) => Assert.Equal(expected, RegexSafety.IsLocalPath(pattern));

    [Theory]
    [InlineData("row-([a-z]+)", true)]
    [InlineData("/id=(\\d+)/", true)]
    [InlineData("row-(.+)", false)]
    [InlineData("/name='([^']+)'/", false)]
    public void What_a_pattern_matches_is_harmless(string pattern, bool expected) => Assert.Equal(expected, RegexSafety.IsHarmless(pattern));

    [Theory]
    [InlineData("a.vue", "<template><p :title=\"x\" v-html=\"text\"></p></template>", "$$(text", OutputContext.Html)]
    [InlineData("a.vue", "<template><a :href=\"to\">x</a></template>", "_h(to", OutputContext.Attribute)]
    [InlineData("a.ejs", "<a href=\"<%= to %>\">", "_h( to", OutputContext.Attribute)]
    [InlineData("a.ejs", "<script>go(<%- to %>)</script>", "$$( to", OutputContext.Script)]
    [InlineData("a.html", "{% if a %}<p title={{ to }}>{% endif %}", "E( to", OutputContext.Url)]
    public void A_template_knows_where_its_values_stand(string path, string page, string code, OutputContext expected)
    {
        var file = Auditor.File(path, page);
        var hosted = System.Text.Encoding.UTF8.GetString(TemplateCode.Hosted(file).Content);
        var offset = hosted.IndexOf(code, StringComparison.Ordinal);
        Assert.True(offset >= 0, hosted);
        Assert.Equal(expected, new TemplatePages().At(new IrFile(file), offset).Position);
    }
}
