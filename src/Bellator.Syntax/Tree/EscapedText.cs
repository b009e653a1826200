using System.Globalization;
using System.Text;

namespace Bellator.Syntax;

/// <summary>Values of quoted texts with the backslash escapes that Python, Ruby and C# share.</summary>
internal static class EscapedText
{
    public static string Unescape(string source)
    {
        if (!source.Contains('\\', StringComparison.Ordinal))
        {
            return source;
        }

        var text = new StringBuilder(source.Length);
        for (var i = 0; i < source.Length; i++)
        {
            if (source[i] != '\\' || i + 1 >= source.Length)
            {
                text.Append(source[i]);
                continue;
            }

            i++;
            switch (source[i])
            {
                case 'n':
                    text.Append('\n');
                    break;
                case 't':
                    text.Append('\t');
                    break;
                case 'r':
                    text.Append('\r');
                    break;
                case '0':
                    text.Append('\0');
                    break;
                case '\n':
                    break;
                case 'x' when i + 2 < source.Length && int.TryParse(source.AsSpan(i + 1, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var code):
                    text.Append((char)code);
                    i += 2;
                    break;
                case '\\' or '\'' or '"':
                    text.Append(source[i]);
                    break;
                default:
                    text.Append('\\').Append(source[i]);
                    break;
            }
        }

        return text.ToString();
    }
}
