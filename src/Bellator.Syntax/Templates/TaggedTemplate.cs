using System.Text;

namespace Bellator.Syntax.Templates;

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
