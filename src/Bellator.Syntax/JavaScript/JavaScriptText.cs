using System.Globalization;
using System.Text;

namespace Bellator.Syntax.JavaScript;

/// <summary>Values of JavaScript's quoted texts.</summary>
internal static class JavaScriptText
{
    public static string Unquote(string source)
    {
        if (source.Length < 2)
        {
            return source;
        }

        var inner = source[1..^1];
        if (!inner.Contains('\\', StringComparison.Ordinal))
        {
            return inner;
        }

        var text = new StringBuilder(inner.Length);
        for (var i = 0; i < inner.Length; i++)
        {
            if (inner[i] != '\\' || i + 1 >= inner.Length)
            {
                text.Append(inner[i]);
                continue;
            }

            var length = inner[i + 1] switch { 'x' => 4, 'u' => 6, _ => 2 };
            if (inner[i + 1] == 'u' && i + 2 < inner.Length && inner[i + 2] == '{')
            {
                var close = inner.IndexOf('}', i);
                length = close < 0 ? 2 : close - i + 1;
            }

            length = Math.Min(length, inner.Length - i);
            text.Append(Escape(inner.Substring(i, length)));
            i += length - 1;
        }

        return text.ToString();
    }

    public static string Escape(string source) => source.Length < 2 ? source : source[1] switch
    {
        'n' => "\n",
        't' => "\t",
        'r' => "\r",
        'b' => "\b",
        'f' => "\f",
        'v' => "\v",
        '0' => "\0",
        '\n' => "",
        'x' or 'u' => Code(source[2..].Trim('{', '}')),
        _ => source[1..],
    };

    private static string Code(string digits) =>
        int.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var code) && code <= 0x10FFFF
            ? Rune.IsValid(code) ? new Rune(code).ToString() : ((char)code).ToString()
            : "?";
}
