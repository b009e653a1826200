using System.Net;
using System.Text;
using Bellator.Syntax;
using Bellator.Text;
using Microsoft.AspNetCore.Html;

namespace Bellator.Web.Presentation;

/// <summary>A stretch to mark in shown code: a value on its way, or the dangerous place.</summary>
public sealed record Mark(Region Region, bool Dangerous);

public sealed record CodeLine(int Number, IHtmlContent Html, bool IsMarked);

/// <summary>
/// Turns some lines of a file into safe HTML with highlighting and marks, in one pass over them. Everything that comes from the file is
/// encoded. What it costs depends on the lines that are shown, not on the file: of a large one only those are looked at by the parser.
/// </summary>
public sealed class CodeView(SourceFile file)
{
    private const int LongestLine = 400;

    /// <summary>A smaller file is read whole, so that a comment which began far above is one. Bytes.</summary>
    private const int Small = 60_000;

    /// <summary>Lines before those shown that are read too, so that most comments and texts are seen from their beginning.</summary>
    private const int Before = 200;

    public int LineCount => file.LineCount;

    public IReadOnlyList<CodeLine> Lines(int first, int last, IReadOnlyList<Mark> marks, CancellationToken cancel = default)
    {
        first = Math.Max(1, first);
        last = Math.Min(last, file.LineCount);
        var tokens = TokensOf(first, last);
        var byLine = ByLine(marks, first, last);
        var lines = new List<CodeLine>(Math.Max(0, last - first + 1));
        var token = 0;
        for (var number = first; number <= last; number++)
        {
            cancel.ThrowIfCancellationRequested();
            var line = file.SpanOf(number);
            while (token < tokens.Count && tokens[token].Span.End <= line.Start)
            {
                token++;
            }

            byLine.TryGetValue(number, out var here);
            lines.Add(new CodeLine(number, Render(number, line, tokens, token, here ?? []), here is not null));
        }

        return lines;
    }

    private IReadOnlyList<Token> TokensOf(int first, int last)
    {
        if (file.Content.Length <= Small)
        {
            return TokenCache.Of(file);
        }

        // In the middle of a PHP file there is nothing to say that code has begun.
        var from = file.SpanOf(Math.Max(1, first - Before)).Start;
        byte[] head = file.Language == Language.Php && from > 0 ? [.. "<?php\n"u8] : [];
        var part = new SourceFile(file.Path, [.. head, .. file.Content.AsSpan(from, file.SpanOf(Math.Max(first, last)).End - from)], file.Language);
        return [.. TokenCache.Of(part).Select(t => t with { Span = new Span(t.Span.Start - head.Length + from, t.Span.End - head.Length + from) })];
    }

    private static Dictionary<int, List<Mark>> ByLine(IReadOnlyList<Mark> marks, int first, int last)
    {
        var byLine = new Dictionary<int, List<Mark>>();
        foreach (var mark in marks)
        {
            for (var number = Math.Max(first, mark.Region.StartLine); number <= Math.Min(last, mark.Region.EndLine); number++)
            {
                if (!byLine.TryGetValue(number, out var here))
                {
                    byLine[number] = here = [];
                }

                here.Add(mark);
            }
        }

        return byLine;
    }

    private HtmlString Render(int number, Span line, IReadOnlyList<Token> tokens, int token, List<Mark> marks)
    {
        var text = file.Line(number);
        var shown = Math.Min(text.Length, LongestLine);
        var kinds = new string[shown];
        for (; token < tokens.Count && tokens[token].Span.Start < line.End; token++)
        {
            var (kind, span) = tokens[token];
            for (var i = Column(line, span.Start, shown); i < Column(line, span.End, shown); i++)
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

    /// <summary>The character of a line at which a byte of the file stands, within what is shown of it.</summary>
    private int Column(Span line, int offset, int shown)
    {
        if (offset <= line.Start)
        {
            return 0;
        }

        // No character is shorter than a byte: what lies this far behind is not shown.
        var length = Math.Min(offset, line.End) - line.Start;
        return length > LongestLine * 4 ? shown : Math.Min(shown, Encoding.UTF8.GetCharCount(file.Content.AsSpan(line.Start, length)));
    }
}
