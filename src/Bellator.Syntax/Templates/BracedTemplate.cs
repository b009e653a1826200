using System.Text;

namespace Bellator.Syntax.Templates;

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
