using System.Text;
using System.Text.RegularExpressions;

namespace Bellator.Syntax.Templates;

/// <summary>Jinja, Django and Twig: the outputs as one Python list, so that its rules of indentation do not matter; filters stay as the operator they look like.</summary>
internal sealed partial class BracedTemplate(byte[] source) : TemplateCode(source)
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
        else if (OwnTag().Match(text) is { Success: true } own && !Known.Contains(own.Groups["name"].Value))
        {
            CallOf(own, at + 2 + inner.IndexOf(text, StringComparison.Ordinal), end);
        }

        return end + 1;
    }

    /// <summary>A tag of the program's own is a call; its arguments stand beside one another: <c>{% badge hive "small" %}</c>.</summary>
    private void CallOf(Match tag, int start, int end)
    {
        if (Encoding.UTF8.GetByteCount(tag.Value) != tag.Length)
        {
            // Places are counted in bytes.
            return;
        }

        Keep(start, end);
        var after = start + tag.Groups["name"].Length;
        Put(after, "(");
        foreach (var argument in tag.Groups["argument"].Captures.Skip(1))
        {
            Put(start + argument.Index - 1, ",");
        }

        for (var i = start + tag.Length; i < end; i++)
        {
            Put(i, " ");
        }

        Put(end, "),");
    }

    /// <summary>Tags of the template languages themselves that stand alone, with what looks like arguments.</summary>
    private static readonly HashSet<string> Known = new(StringComparer.Ordinal)
    {
        "if", "elif", "elseif", "else", "endif", "unless", "for", "empty", "endfor", "with", "endwith", "block", "endblock", "load", "csrf_token", "url", "static", "get_static_prefix", "get_media_prefix", "trans", "translate",
        "blocktrans", "blocktranslate", "endblocktrans", "endblocktranslate", "plural", "now", "comment", "endcomment", "cycle", "firstof", "spaceless", "endspaceless", "macro", "endmacro", "import", "from", "call", "endcall",
        "filter", "endfilter", "do", "debug", "lorem", "regroup", "templatetag", "widthratio", "ifchanged", "endifchanged", "cache", "endcache", "localize", "endlocalize", "language", "endlanguage", "set", "endset", "include",
        "extends", "use", "form_theme", "break", "continue", "querystring", "resetcycle", "get_current_language", "path", "apply", "endapply", "sandbox", "endsandbox", "flush", "deprecated", "stopwatch", "component", "endcomponent",
    };

    /// <summary>A name with arguments that are names, numbers or texts.</summary>
    [GeneratedRegex("""^(?<name>[a-z_][a-z0-9_]*)(?: (?<argument>(?:[a-z_]\w*=)?(?:[A-Za-z_][\w.]*|[0-9]+|"[^"\\]*"|'[^'\\]*')))+$""", RegexOptions.ExplicitCapture, 1000)]
    private static partial Regex OwnTag();

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
