using System.Globalization;
using System.Text;

namespace Bellator.Syntax.Php;

/// <summary>Values of PHP's quoted texts.</summary>
internal static class PhpText
{
    /// <summary>A single-quoted text: only the quote and the backslash are escaped.</summary>
    public static string Unquote(string source)
    {
        var start = source.IndexOf('\'', StringComparison.Ordinal);
        if (start < 0 || source.Length < start + 2)
        {
            return source;
        }

        var inner = source[(start + 1)..^1];
        return inner.Contains('\\', StringComparison.Ordinal)
            ? inner.Replace("\\'", "'", StringComparison.Ordinal).Replace("\\\\", "\\", StringComparison.Ordinal)
            : inner;
    }

    /// <summary>One escape of a double-quoted text.</summary>
    public static string Escape(string source) => source.Length < 2 ? source : source[1] switch
    {
        'n' => "\n",
        't' => "\t",
        'r' => "\r",
        'v' => "\v",
        'e' => "\u001b",
        'f' => "\f",
        'x' => Code(source[2..], 16),
        'u' => Code(source.Trim('\\', 'u', '{', '}'), 16),
        >= '0' and <= '7' => Code(source[1..], 8),
        _ => source[1..],
    };

    private static string Code(string digits, int radix)
    {
        try
        {
            var code = radix == 8 ? Convert.ToInt32(digits, 8) : int.Parse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture);
            return Rune.IsValid(code) ? new Rune(code).ToString() : "?";
        }
        catch (Exception e) when (e is FormatException or OverflowException or ArgumentException)
        {
            return "?";
        }
    }
}
