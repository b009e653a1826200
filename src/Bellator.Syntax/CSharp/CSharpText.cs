namespace Bellator.Syntax.CSharp;

/// <summary>Values of C#'s quoted texts.</summary>
internal static class CSharpText
{
    public static string Value(string source)
    {
        if (source.StartsWith("\"\"\"", StringComparison.Ordinal))
        {
            return source.Trim('"').Trim('\r', '\n');
        }

        if (source.StartsWith('@') && source.Length >= 3)
        {
            return source[2..^1].Replace("\"\"", "\"", StringComparison.Ordinal);
        }

        var end = source.LastIndexOfAny(['"', '\'']);
        return end <= 0 ? source : EscapedText.Unescape(source[1..end]);
    }

    public static string Escape(string source) => source is "\"\"" ? "\"" : EscapedText.Unescape(source);
}
