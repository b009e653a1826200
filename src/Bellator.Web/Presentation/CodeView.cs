using System.Net;
using System.Text;
using Bellator.Core.Sources;
using Bellator.Core.Syntax;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>A stretch to mark in shown code: a value on its way, or the dangerous place.</summary>
public sealed record Mark(Region Region, bool Dangerous);

public sealed record CodeLine(int Number, IHtmlContent Html, bool IsMarked);

/// <summary>Turns a file's lines into safe HTML with highlighting and marks. Everything that comes from the file is encoded.</summary>
public sealed class CodeView(SourceFile file)
{
    private const int LongestLine = 400;
    private readonly IReadOnlyList<Token> _tokens = Highlighter.Tokens(file);

    public int LineCount => file.LineCount;

    public IReadOnlyList<CodeLine> Lines(int first, int last, IReadOnlyList<Mark> marks)
    {
        var lines = new List<CodeLine>();
        for (var number = Math.Max(1, first); number <= Math.Min(last, file.LineCount); number++)
        {
            var here = marks.Where(m => m.Region.StartLine <= number && m.Region.EndLine >= number).ToList();
            lines.Add(new CodeLine(number, Render(number, here), here.Count > 0));
        }

        return lines;
    }

    private HtmlString Render(int number, List<Mark> marks)
    {
        var text = file.Line(number);
        var shown = Math.Min(text.Length, LongestLine);
        var kinds = new string[shown];
        foreach (var (kind, from, to) in TokensOf(number))
        {
            for (var i = from; i < Math.Min(to, shown); i++)
            {
                kinds[i] = kind;
            }
        }

        var state = new int[shown];
        foreach (var mark in marks)
        {
            var from = mark.Region.StartLine == number ? mark.Region.StartColumn - 1 : text.Length - text.TrimStart().Length;
            var to = mark.Region.EndLine == number ? mark.Region.EndColumn - 1 : shown;
            for (var i = Math.Max(0, from); i < Math.Min(to, shown); i++)
            {
                state[i] = Math.Max(state[i], mark.Dangerous ? 2 : 1);
            }
        }

        var html = new StringBuilder();
        var start = 0;
        for (var i = 1; i <= shown; i++)
        {
            if (i < shown && state[i] == state[start] && kinds[i] == kinds[start])
            {
                continue;
            }

            var piece = WebUtility.HtmlEncode(text[start..i]);
            if (state[start] > 0 && (start == 0 || state[start - 1] != state[start]))
            {
                html.Append(state[start] == 2 ? "<mark class=\"danger\">" : "<mark>");
            }

            html.Append(string.IsNullOrEmpty(kinds[start]) ? piece : $"<span class=\"t-{kinds[start]}\">{piece}</span>");
            if (state[start] > 0 && (i == shown || state[i] != state[start]))
            {
                html.Append("</mark>");
            }

            start = i;
        }

        if (text.Length > shown)
        {
            html.Append("<span class=\"t-comment\"> …</span>");
        }

        return new HtmlString(html.ToString());
    }

    private IEnumerable<(string Kind, int From, int To)> TokensOf(int number)
    {
        foreach (var token in _tokens)
        {
            var region = file.RegionOf(token.Span);
            if (region.StartLine > number)
            {
                yield break;
            }

            if (region.EndLine >= number)
            {
                yield return (token.Kind, region.StartLine == number ? region.StartColumn - 1 : 0, region.EndLine == number ? region.EndColumn - 1 : LongestLine);
            }
        }
    }
}
