namespace Bellator.Syntax.Templates;

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
