using System.Text;
using Bellator.Text;

namespace Bellator.Syntax.Templates;

/// <summary>Razor: statements and expressions after an at-sign, with markup between them.</summary>
internal sealed class RazorTemplate(byte[] source) : TemplateCode(source)
{
    private static readonly string[] Statements = ["if", "for", "foreach", "while", "switch", "using", "lock"];
    private static readonly string[] Lines = ["using", "page", "model", "inject", "inherits", "addTagHelper", "removeTagHelper", "tagHelperPrefix", "namespace", "layout", "attribute", "implements", "rendermode", "preservewhitespace", "typeparam"];

    /// <summary>The type that a page names as its model, without its namespace, or null.</summary>
    public static string? ModelType(byte[] content)
    {
        var at = content.AsSpan().IndexOf("@model "u8);
        if (at < 0)
        {
            return null;
        }

        var rest = content.AsSpan(at + 7);
        var end = rest.IndexOfAny((byte)'\n', (byte)'\r');
        var name = Encoding.UTF8.GetString(end < 0 ? rest : rest[..end]).Trim();
        return name.Contains('<', StringComparison.Ordinal) ? null : name[(name.LastIndexOf('.') + 1)..];
    }

    protected override void Convert() => Markup(0, Source.Length);

    private static bool IsName(byte c) => c == '_' || char.IsLetterOrDigit((char)c);

    private string WordAt(int at)
    {
        var end = at;
        while (end < Source.Length && IsName(Source[end]))
        {
            end++;
        }

        return Encoding.ASCII.GetString(Source, at, end - at);
    }

    /// <summary>Markup from here to there.</summary>
    /// <returns>How far was read: code in it may end beyond it, and is read once.</returns>
    private int Markup(int start, int end)
    {
        var at = start;
        for (; at < end; at++)
        {
            if (Source[at] != '@' || at + 1 >= end)
            {
                continue;
            }

            at = AtSign(at, end) - 1;
        }

        return at;
    }

    /// <summary>What follows an at-sign; returns the position after it.</summary>
    private int AtSign(int at, int end)
    {
        var next = Source[at + 1];
        if (next == '@' || (at > 0 && IsName(Source[at - 1])))
        {
            return at + 2;
        }

        if (next == '*')
        {
            return Math.Min(Find("*@", at) + 2, end);
        }

        if (next == '{')
        {
            var close = Balanced(at + 1);
            Put(at + 1, "{");
            CodeBetween(at + 2, close - 1);
            Put(close - 1, "}");
            return close;
        }

        if (next == '(')
        {
            var close = Balanced(at + 1);
            Keep(at + 1, close);
            Semicolon(close);
            return close;
        }

        var word = WordAt(at + 1);
        if (word is "functions" or "code")
        {
            var open = Find("{", at);
            return open < end ? Balanced(open) : end;
        }

        if (word == "section")
        {
            return at + 1 + word.Length;
        }

        if (Statements.Contains(word) && NextIs(at + 1 + word.Length, '('))
        {
            return Statement(at + 1, end);
        }

        if (Lines.Contains(word))
        {
            return Math.Min(Find("\n", at), end);
        }

        return word.Length == 0 ? at + 1 : Implicit(at + 1, end);
    }

    private bool NextIs(int at, char sign)
    {
        while (at < Source.Length && Source[at] is (byte)' ' or (byte)'\t')
        {
            at++;
        }

        return at < Source.Length && Source[at] == sign;
    }

    /// <summary>An expression that ends where its names, calls and indexes end.</summary>
    private int Implicit(int start, int end)
    {
        var at = start;
        if (At(at, "await "))
        {
            at += 6;
        }

        var forward = new ForwardOnly(nameof(RazorTemplate));
        while (at < end && forward.At(at))
        {
            if (IsName(Source[at]))
            {
                at++;
            }
            else if (Source[at] is (byte)'(' or (byte)'[')
            {
                at = Balanced(at);
            }
            else if (Source[at] == '.' && at + 1 < end && IsName(Source[at + 1]))
            {
                at++;
            }
            else if (Source[at] is (byte)'?' or (byte)'!' && at + 2 < end && Source[at + 1] is (byte)'.' or (byte)'[')
            {
                at++;
            }
            else
            {
                break;
            }
        }

        Keep(start, at);
        Semicolon(at);
        return at;
    }

    private void Semicolon(int at)
    {
        if (at < Source.Length && Source[at] is not ((byte)'\n' or (byte)'@' or (byte)'}'))
        {
            Put(at, ";");
        }
        else if (at < Source.Length && Source[at] == '\n')
        {
            Put(at, ";");
        }
    }

    /// <summary>A statement with a condition and a body in braces, and what continues it.</summary>
    private int Statement(int start, int end)
    {
        var open = Find("(", start);
        var close = Balanced(open);
        Keep(start, close);
        var brace = close;
        while (brace < end && char.IsWhiteSpace((char)Source[brace]))
        {
            brace++;
        }

        if (brace >= end || Source[brace] != '{')
        {
            return close;
        }

        var after = Balanced(brace);
        Put(brace, "{");
        CodeBetween(brace + 1, after - 1);
        Put(after - 1, "}");
        var more = after;
        while (more < end && char.IsWhiteSpace((char)Source[more]))
        {
            more++;
        }

        if (!At(more, "else"))
        {
            return after;
        }

        Keep(more, more + 4);
        var rest = more + 4;
        while (rest < end && char.IsWhiteSpace((char)Source[rest]))
        {
            rest++;
        }

        if (At(rest, "if"))
        {
            return Statement(rest, end);
        }

        if (rest < end && Source[rest] == '{')
        {
            var last = Balanced(rest);
            Put(rest, "{");
            CodeBetween(rest + 1, last - 1);
            Put(last - 1, "}");
            return last;
        }

        return rest;
    }

    /// <summary>Code in which lines that begin with a tag are markup again.</summary>
    private void CodeBetween(int start, int end)
    {
        var at = start;
        var forward = new ForwardOnly(nameof(RazorTemplate));
        while (at < end && forward.At(at))
        {
            while (at < end && char.IsWhiteSpace((char)Source[at]))
            {
                at++;
            }

            if (at >= end)
            {
                break;
            }

            if (Source[at] == '<' || At(at, "@:"))
            {
                var line = Math.Min(EndOfElement(at), end);
                at = Math.Max(line, Markup(At(at, "@:") ? at + 2 : at, line));
            }
            else if (Source[at] == '@')
            {
                at = AtSign(at, end);
            }
            else if (Statements.Contains(WordAt(at)) && NextIs(at + WordAt(at).Length, '('))
            {
                at = Statement(at, end);
            }
            else
            {
                var stop = EndOfStatement(at, end);
                Keep(at, stop);
                at = stop;
            }
        }
    }

    private int EndOfStatement(int at, int end)
    {
        var forward = new ForwardOnly(nameof(RazorTemplate));
        while (at < end && forward.At(at))
        {
            switch (Source[at])
            {
                case (byte)'(' or (byte)'[' or (byte)'{':
                    at = Balanced(at);
                    continue;
                case (byte)';':
                    return at + 1;
                case (byte)'\n' when NextIs(at + 1, '<'):
                    return at + 1;
            }

            at++;
        }

        return end;
    }

    /// <summary>Of an element whose end is farther away only the first line is taken for markup: looking for it must not cost more than the file is long.</summary>
    private const int LongestElement = 16_384;

    /// <summary>The end of the element that begins here: of its line, or further where its tags are not yet closed.</summary>
    private int EndOfElement(int at)
    {
        var name = WordAt(at + 1);
        var line = Find("\n", at);
        if (name.Length == 0)
        {
            return line;
        }

        var depth = 0;
        for (var i = at; i < Math.Min(Source.Length, at + LongestElement); i++)
        {
            if (At(i, "<" + name) && (i + name.Length + 1 >= Source.Length || !IsName(Source[i + name.Length + 1])))
            {
                depth++;
            }
            else if (At(i, "</" + name + ">"))
            {
                if (--depth <= 0)
                {
                    return i + name.Length + 3;
                }
            }
            else if (At(i, "/>") && depth == 1 && i < line)
            {
                return i + 2;
            }
        }

        return line;
    }
}
