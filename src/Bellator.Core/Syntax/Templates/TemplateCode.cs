using System.Text;
using Bellator.Core.Sources;

namespace Bellator.Core.Syntax.Templates;

/// <summary>
/// A page template as code of its host language, byte for byte at the same place, so that what is found in it is found in the
/// template. The page's own text becomes blanks; an output that does not escape becomes a call that the reader knows.
/// </summary>
internal abstract class TemplateCode
{
    /// <summary>The call that an unescaped output becomes, as facts and readers name it.</summary>
    public const string Raw = "<raw>";

    /// <summary>The call that a template becomes which is put in, and sees what this one sees.</summary>
    public const string Included = "<included>";

    /// <summary>The call that an output becomes which escapes for the text of a page.</summary>
    public const string Escaped = "<escaped>";

    protected TemplateCode(byte[] source)
    {
        Source = source;
        Code = new byte[source.Length];
        for (var i = 0; i < source.Length; i++)
        {
            Code[i] = source[i] is (byte)'\n' or (byte)'\r' ? source[i] : (byte)' ';
        }
    }

    protected byte[] Source { get; }

    protected byte[] Code { get; }

    /// <summary>The file as its host language's parser is to see it; the file itself where it is no template.</summary>
    public static SourceFile Hosted(SourceFile file)
    {
        TemplateCode? template = file.Language switch
        {
            Language.Erb => new TaggedTemplate(file.Content, ruby: true),
            Language.Ejs => new TaggedTemplate(file.Content, ruby: false),
            Language.Handlebars => new MustacheTemplate(file.Content),
            Language.Jinja => new BracedTemplate(file.Content),
            Language.Blade => new BladeTemplate(file.Content),
            Language.Razor => new RazorTemplate(file.Content),
            Language.Vue => new VueTemplate(file.Content),
            Language.Angular => new AngularTemplate(file.Content),
            _ => null,
        };
        if (template is null)
        {
            return file;
        }

        template.Convert();
        return new SourceFile(file.Path, template.Code, file.Language);
    }

    protected abstract void Convert();

    protected bool At(int position, string text)
    {
        if (position < 0 || position + text.Length > Source.Length)
        {
            return false;
        }

        for (var i = 0; i < text.Length; i++)
        {
            if (Source[position + i] != text[i])
            {
                return false;
            }
        }

        return true;
    }

    protected int Find(string text, int from)
    {
        var found = from >= Source.Length ? -1 : Source.AsSpan(from).IndexOf(Encoding.ASCII.GetBytes(text));
        return found < 0 ? Source.Length : from + found;
    }

    /// <summary>Code that stays as it is.</summary>
    protected void Keep(int start, int end)
    {
        // Signs that overlap (an end within the beginning) leave nothing between them.
        if (Math.Min(end, Source.Length) is var stop && stop > start)
        {
            Source.AsSpan(start, stop - start).CopyTo(Code.AsSpan(start));
        }
    }

    /// <summary>Code in the place of a template's sign.</summary>
    protected void Put(int position, string text)
    {
        for (var i = 0; i < text.Length && position + i < Code.Length; i++)
        {
            Code[position + i] = (byte)text[i];
        }
    }

    /// <summary>The end of a balanced stretch that begins at an opening bracket; quoted text is passed over.</summary>
    protected int Balanced(int open)
    {
        var depth = 0;
        for (var i = open; i < Source.Length; i++)
        {
            switch (Source[i])
            {
                case (byte)'(' or (byte)'[' or (byte)'{':
                    depth++;
                    break;
                case (byte)')' or (byte)']' or (byte)'}':
                    if (--depth == 0)
                    {
                        return i + 1;
                    }

                    break;
                case (byte)'"' or (byte)'\'':
                    i = EndOfQuote(i);
                    break;
            }
        }

        return Source.Length;
    }

    private int EndOfQuote(int start)
    {
        for (var i = start + 1; i < Source.Length && Source[i] != '\n'; i++)
        {
            if (Source[i] == '\\')
            {
                i++;
            }
            else if (Source[i] == Source[start])
            {
                return i;
            }
        }

        return start;
    }
}

/// <summary>ERB and EJS: code between <c>&lt;%</c> and <c>%&gt;</c>.</summary>
internal sealed class TaggedTemplate(byte[] source, bool ruby) : TemplateCode(source)
{
    /// <summary>Three bytes that call the unescaped output.</summary>
    private const string RawCall = "$$(";

    private const string EscapedCall = "_h(";

    /// <summary>True unless it opens a block, or is more than an expression: that could not stand between brackets.</summary>
    private bool IsOneValue(string code)
    {
        var text = code.Trim();
        if (text.Length == 0 || text.Contains(';', StringComparison.Ordinal) || text.Contains("//", StringComparison.Ordinal))
        {
            return false;
        }

        return !ruby || !(text.EndsWith(" do", StringComparison.Ordinal) || text[^1] is '|' or '{' || text.Contains(" if ", StringComparison.Ordinal) || text.Contains(" unless ", StringComparison.Ordinal)
            || text.Contains(" and ", StringComparison.Ordinal) || text.Contains(" or ", StringComparison.Ordinal) || text.Contains(" rescue ", StringComparison.Ordinal)
            || text.Contains("# ", StringComparison.Ordinal) || text.StartsWith("yield", StringComparison.Ordinal));
    }

    protected override void Convert()
    {
        for (var at = Find("<%", 0); at < Source.Length; at = Find("<%", at))
        {
            var end = Find("%>", at + 2);
            var start = at + 2;
            if (At(at, "<%%") || At(at, "<%#"))
            {
                at = end + 2;
                continue;
            }

            var close = end > start && Source[end - 1] == '-' ? end - 1 : end;
            if (ruby && At(at, "<%=="))
            {
                Keep(at + 4, close);
                Put(at, "raw(");
                Put(end, ");");
            }
            else if (!ruby && At(at, "<%-") && !Encoding.UTF8.GetString(Source, at + 3, Math.Max(0, close - at - 3)).TrimStart().StartsWith("include", StringComparison.Ordinal))
            {
                Keep(at + 3, close);
                Put(at, RawCall);
                Put(end, ");");
            }
            else if (At(at, "<%=") && IsOneValue(Encoding.UTF8.GetString(Source, at + 3, Math.Max(0, close - at - 3))))
            {
                Keep(at + 3, close);
                Put(at, EscapedCall);
                Put(end, ");");
            }
            else
            {
                Keep(At(at, "<%=") || At(at, "<%-") || At(at, "<%_") ? at + 3 : start, close);
                Put(end, " ;");
            }

            at = end + 2;
        }
    }
}

/// <summary>Jinja, Django and Twig: the outputs as one Python list, so that its rules of indentation do not matter; filters stay as the operator they look like.</summary>
internal sealed class BracedTemplate(byte[] source) : TemplateCode(source)
{
    private bool _escapes = true;

    protected override void Convert()
    {
        if (Source.Length < 2)
        {
            return;
        }

        for (var i = 0; i < Code.Length; i++)
        {
            // Inside the list a line break is nothing.
            Code[i] = Code[i] == '\r' ? (byte)' ' : Code[i];
        }

        for (var at = 0; at < Source.Length - 1; at++)
        {
            if (At(at, "{#"))
            {
                at = Find("#}", at) + 1;
            }
            else if (At(at, "{{"))
            {
                at = Output(at);
            }
            else if (At(at, "{%"))
            {
                at = Tag(at);
            }
        }

        Put(0, "[");
        Put(Code.Length - 1, "]");
    }

    private int Output(int at)
    {
        var end = Find("}}", at);
        Keep(at + 2, end);
        Put(at + 2, At(at + 2, "-") ? " " : "");
        BlankFilterArguments(at + 2, end);
        if (end > at + 2 && At(end - 1, "-"))
        {
            Put(end - 1, " ");
        }

        Put(at, _escapes ? "E(" : "R(");
        Put(end, "),");

        return end + 1;
    }

    private int Tag(int at)
    {
        var end = Find("%}", at);
        var inner = Encoding.UTF8.GetString(Source, at + 2, Math.Max(0, end - at - 2));
        var text = inner.Trim('-', ' ', '\t', '\r', '\n');
        if (text.StartsWith("autoescape", StringComparison.Ordinal))
        {
            _escapes = !text.Contains("off", StringComparison.Ordinal) && !text.Contains("false", StringComparison.Ordinal);
        }
        else if (text.StartsWith("endautoescape", StringComparison.Ordinal))
        {
            _escapes = true;
        }
        else if (text.StartsWith("for ", StringComparison.Ordinal) || text.StartsWith("set ", StringComparison.Ordinal))
        {
            var between = text[0] == 'f' ? " in " : " = ";
            var name = at + 2 + inner.IndexOf(text, StringComparison.Ordinal) + 4;
            var sign = Find(between, name);
            if (sign < end && !Encoding.UTF8.GetString(Source, name, sign - name).Contains(',', StringComparison.Ordinal))
            {
                // The name becomes the list, or the value; which element it is does not matter.
                Keep(name, end);
                Put(sign, text[0] == 'f' ? " := " : ":= ");
                Put(end, ", ");
            }
        }
        else if (text.StartsWith("include ", StringComparison.Ordinal) || text.StartsWith("extends ", StringComparison.Ordinal) || text.StartsWith("embed ", StringComparison.Ordinal))
        {
            Include(at, end);
        }
        else if (text is "raw" or "verbatim")
        {
            return Find(text == "raw" ? "endraw" : "endverbatim", end);
        }

        return end + 1;
    }

    /// <summary>A template put in by its name.</summary>
    private void Include(int at, int end)
    {
        var quote = at;
        while (quote < end && Source[quote] is not ((byte)'"' or (byte)'\''))
        {
            quote++;
        }

        var close = quote + 1;
        while (close < end && Source[close] != Source[quote])
        {
            close++;
        }

        if (close < end)
        {
            Keep(quote, close + 1);
            Put(quote - 2, "I(");
            Put(close + 1, "),");
        }
    }

    /// <summary>Django gives a filter its argument after a colon, which Python does not know there.</summary>
    private void BlankFilterArguments(int start, int end)
    {
        for (var i = start; i < end; i++)
        {
            if (Code[i] == '~')
            {
                Code[i] = (byte)'+';
            }
            else if (Code[i] == ':')
            {
                Code[i] = (byte)'|';
            }
        }
    }
}

/// <summary>Handlebars and Mustache: three braces write without escaping; sections and helpers are left out.</summary>
internal sealed class MustacheTemplate(byte[] source) : TemplateCode(source)
{
    protected override void Convert()
    {
        for (var at = Find("{{", 0); at < Source.Length; at = Find("{{", at))
        {
            if (At(at, "{{{"))
            {
                var close = Find("}}}", at);
                Keep(at + 3, close);
                Put(at, "$$(");
                Put(close, "); ");
                at = close + 3;
                continue;
            }

            var end = Find("}}", at);
            if (At(at, "{{&"))
            {
                Keep(at + 3, end);
                Put(at, "$$(");
                Put(end, ");");
            }
            else if (at + 2 < Source.Length && (IsNameStart(Source[at + 2]) || Source[at + 2] == ' '))
            {
                Keep(at + 2, end);
                Put(at, "$(");
                Put(end, ");");
            }

            at = end + 2;
        }
    }

    private static bool IsNameStart(byte c) => c is (byte)'_' or (byte)'$' || char.IsLetter((char)c);
}

/// <summary>Blade: directives as PHP's own statements in their form with colons.</summary>
internal sealed class BladeTemplate(byte[] source) : TemplateCode(source)
{
    private static readonly string[] WithCondition = ["if", "elseif", "foreach", "for", "while"];
    private static readonly string[] Closing = ["endif", "endforeach", "endfor", "endwhile"];

    protected override void Convert()
    {
        if (Source.Length < 8 || At(0, "{{") || At(0, "{!!"))
        {
            return;
        }

        for (var at = 6; at < Source.Length; at++)
        {
            if (At(at, "{{--"))
            {
                at = Find("--}}", at) + 3;
            }
            else if (At(at, "{!!"))
            {
                var end = Find("!!}", at);
                Keep(at + 3, end);
                Put(at, "_r(");
                Put(end, "); ");
                at = end + 2;
            }
            else if (At(at, "{{"))
            {
                var end = Find("}}", at);
                Keep(at + 2, end);
                Put(at, "_(");
                Put(end, ");");
                at = end + 1;
            }
            else if (At(at, "@php") && !At(at + 4, "("))
            {
                var end = Find("@endphp", at);
                Keep(at + 4, end);
                Put(end, ";");
                at = end + 6;
            }
            else if (Source[at] == '@')
            {
                at = Directive(at);
            }
        }

        Put(0, "<?php ");
    }

    private int Directive(int at)
    {
        var end = at + 1;
        while (end < Source.Length && char.IsLetter((char)Source[end]))
        {
            end++;
        }

        var name = Encoding.ASCII.GetString(Source, at + 1, end - at - 1);
        var open = end;
        while (open < Source.Length && Source[open] is (byte)' ' or (byte)'\t')
        {
            open++;
        }

        var name2 = name == "forelse" ? "foreach" : name;
        if (WithCondition.Contains(name2) && open < Source.Length && Source[open] == '(')
        {
            var close = Balanced(open);
            Keep(at + 1, close);
            Put(at + 1, name2);
            Put(close, ":");
            return close;
        }

        if (name == "else")
        {
            Put(at + 1, "else:");
        }
        else if (Closing.Contains(name))
        {
            Put(at + 1, name + ";");
        }
        else if (name == "endforelse")
        {
            Put(at + 1, "endforeach;");
        }

        return end - 1;
    }
}
