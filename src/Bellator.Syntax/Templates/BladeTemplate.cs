using System.Text;

namespace Bellator.Syntax.Templates;

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
