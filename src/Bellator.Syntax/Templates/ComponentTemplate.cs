using System.Text;
using Bellator.Text;

namespace Bellator.Syntax.Templates;

/// <summary>Pages whose attributes hold code: what the component frameworks of the browser share.</summary>
internal abstract class ComponentTemplate(byte[] source) : TemplateCode(source)
{
    /// <summary>Markup from here to there: code in attributes and between double braces.</summary>
    protected void ConvertMarkup(int start, int end)
    {
        for (var at = start; at < end; at++)
        {
            if (At(at, "<!--"))
            {
                at = Find("-->", at) + 2;
            }
            else if (At(at, "{{"))
            {
                var close = Math.Min(Find("}}", at + 2), end);
                Keep(at + 2, close);
                Adapt(at + 2, close);
                Put(at, " (");
                Put(close, ");");
                at = close + 1;
            }
            else if (Source[at] == '<' && at + 1 < end && char.IsAsciiLetter((char)Source[at + 1]))
            {
                at = Tag(at + 1, end);
            }
        }
    }

    /// <summary>An attribute with a value.</summary>
    /// <param name="name">As written.</param>
    /// <param name="nameStart">Where it begins.</param>
    /// <param name="start">The first byte after the quote.</param>
    /// <param name="end">The closing quote.</param>
    protected abstract void Attribute(string name, int nameStart, int start, int end);

    /// <summary>Makes the template's own forms of an expression the host language's.</summary>
    protected virtual void Adapt(int start, int end)
    {
    }

    /// <summary>The value as an expression of its own, or as what a call gets whose name and bracket fit before it.</summary>
    protected void Expression(int start, int end, string call = "(")
    {
        Keep(start, end);
        Adapt(start, end);
        Put(start - call.Length, call);
        Close(end);
    }

    /// <summary>A bracket in the place of the quote, and the end of the statement where that takes no line break away.</summary>
    protected void Close(int quote)
    {
        Put(quote, ")");
        if (quote + 1 < Source.Length && Source[quote + 1] is not ((byte)'\n' or (byte)'\r'))
        {
            Put(quote + 1, ";");
        }
    }

    protected string Text(int start, int end) => Encoding.UTF8.GetString(Source, start, Math.Max(0, end - start));

    private int Tag(int at, int end)
    {
        var forward = new ForwardOnly(nameof(ComponentTemplate));
        while (at < end && Source[at] != '>' && forward.At(at))
        {
            while (at < end && Source[at] is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r' or (byte)'/')
            {
                at++;
            }

            var name = at;
            while (at < end && !(Source[at] is (byte)' ' or (byte)'\t' or (byte)'\n' or (byte)'\r' or (byte)'>' or (byte)'=' || (Source[at] == '/' && at + 1 < end && Source[at + 1] == '>')))
            {
                at++;
            }

            if (at + 1 < end && Source[at] == '=' && Source[at + 1] is (byte)'"' or (byte)'\'')
            {
                var quote = Source[at + 1];
                var start = at + 2;
                var close = start < end ? Source.AsSpan(start, end - start).IndexOf(quote) : -1;
                if (close < 0)
                {
                    return end;
                }

                Attribute(Text(name, at), name, start, start + close);
                at = start + close + 1;
            }
            else if (at == name)
            {
                at++;
            }
        }

        return at;
    }
}

/// <summary>A Vue single-file component: its script as it is, and its template's code as statements of the same module.</summary>
internal sealed class VueTemplate(byte[] source) : ComponentTemplate(source)
{
    protected override void Convert()
    {
        for (var at = Find("<", 0); at < Source.Length; at = Find("<", at + 1))
        {
            if (At(at, "<!--"))
            {
                at = Find("-->", at);
            }
            else if (At(at, "<script"))
            {
                var start = Find(">", at) + 1;
                at = Find("</script", start);
                Keep(start, at);
                Put(Find(">", at), ";");
            }
            else if (At(at, "<style"))
            {
                at = Find("</style", at);
            }
            else if (At(at, "<template"))
            {
                var end = EndOfTemplate(at);
                ConvertMarkup(at, end);

                // A function of its own: it runs after the script, wherever in the file it stands.
                Put(at, ";(()=>{");
                Put(end, "});");
                at = end;
            }
        }
    }

    protected override void Attribute(string name, int nameStart, int start, int end)
    {
        var bound = name.StartsWith(':') ? name[1..] : name.StartsWith("v-bind:", StringComparison.Ordinal) ? name[7..] : null;
        if (name == "v-for")
        {
            ForEach(nameStart, start, end);
        }
        else if (name == "v-html" || bound is "innerHTML" or "inner-html.prop" or "innerHTML.prop")
        {
            Expression(start, end, "$$(");
        }
        else if (bound is "href" or "src" or "action" or "formaction" or "xlink:href")
        {
            Expression(start, end, "_h(");
        }
        else if (bound is not null || name is "v-if" or "v-else-if" or "v-show" or "v-text" or "v-bind")
        {
            Expression(start, end);
        }
    }

    /// <summary>"n in list", "(n, i) of list": a loop that only gives the name its values.</summary>
    private void ForEach(int nameStart, int start, int end)
    {
        var text = Text(start, end);
        var sign = text.IndexOf(" in ", StringComparison.Ordinal) is >= 0 and var inside ? inside : text.IndexOf(" of ", StringComparison.Ordinal);
        if (sign < 0 || Source[nameStart - 1] != ' ')
        {
            return;
        }

        Keep(start, end);
        var names = text[..sign];
        if (names.TrimStart().StartsWith('('))
        {
            var open = start + names.IndexOf('(', StringComparison.Ordinal);
            var comma = names.TrimStart().StartsWith("({", StringComparison.Ordinal) ? names.IndexOf('}', StringComparison.Ordinal) + 1 : names.IndexOf(',', StringComparison.Ordinal);
            var stop = start + (comma > 0 ? comma : names.IndexOf(')', StringComparison.Ordinal));
            Put(open, " ");
            if (stop >= open)
            {
                Put(stop, new string(' ', Math.Max(0, start + sign - stop)));
            }
        }

        Put(nameStart - 1, "for(var ");
        Put(start + sign, " of ");
        Close(end);
    }

    private int EndOfTemplate(int start)
    {
        var depth = 0;
        for (var at = start; at < Source.Length; at = Find("<", at + 1))
        {
            if (At(at, "<template"))
            {
                var end = Find(">", at);
                depth += Source[Math.Min(end, Source.Length) - 1] == '/' ? 0 : 1;
            }
            else if (At(at, "</template") && --depth == 0)
            {
                return at;
            }
        }

        return Source.Length;
    }
}

/// <summary>An Angular component's page: bindings and outputs as statements; the framework itself cleans what it binds as markup.</summary>
internal sealed class AngularTemplate(byte[] source) : ComponentTemplate(source)
{
    protected override void Convert() => ConvertMarkup(0, Source.Length);

    protected override void Attribute(string name, int nameStart, int start, int end)
    {
        if (name is "*ngFor")
        {
            var stop = Text(start, end).IndexOf(';', StringComparison.Ordinal);
            Keep(start, stop < 0 ? end : start + stop);
            Put(start - 4, "for(");
            if (stop < 0)
            {
                Close(end);
            }
            else
            {
                Put(start + stop, ");");
            }
        }
        else if (name.StartsWith('[') && !Text(start, end).Contains(';', StringComparison.Ordinal))
        {
            Expression(start, end);
        }
    }

    /// <summary>A pipe's arguments follow a colon, which means something else between brackets.</summary>
    protected override void Adapt(int start, int end)
    {
        var text = Text(start, end);
        if (!text.Contains('|', StringComparison.Ordinal) || text.Contains('?', StringComparison.Ordinal))
        {
            return;
        }

        for (var i = start + text.IndexOf('|', StringComparison.Ordinal); i < end; i++)
        {
            if (Code[i] == ':')
            {
                Code[i] = (byte)'|';
            }
        }
    }
}
