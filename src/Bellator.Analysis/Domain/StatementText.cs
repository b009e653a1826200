using System.Text.RegularExpressions;

namespace Bellator.Analysis.Domain;

/// <summary>Tells a text that is a whole SQL statement from other texts: prose has “select … from” too.</summary>
internal static partial class StatementText
{
    /// <summary>Longer beginnings are not needed to tell.</summary>
    private const int MaxLength = 2_000;

    /// <summary>The letters that statements begin with: most texts are told by the first one.</summary>
    private const string Initials = "siudw";

    /// <summary>True for a statement that is written out whole.</summary>
    public static bool IsKnown(AbstractValue text) => text is { Constant.Length: > 10 and <= MaxLength, IsTainted: false, Fields: null };

    /// <summary>True if the text reads as a statement, with whatever stands in its holes.</summary>
    public static bool Reads(AbstractValue text)
    {
        var written = text.Constant ?? (text.Text is { } pattern ? string.Concat(pattern.Alternatives[0].Select(p => p.Literal ?? "?")) : "");
        return written.Length > 10 && written.AsSpan().TrimStart() is [var first, ..] && Initials.Contains(first, StringComparison.OrdinalIgnoreCase) && Begins().IsMatch(written.Length > MaxLength ? written[..MaxLength] : written);
    }

    /// <summary>Keywords in capitals, or in small letters with what only statements have: a star, a comparison, a list of columns.</summary>
    [GeneratedRegex("""
        ^\s*(?:
            SELECT\s[^;]*?\sFROM\s+[\w"`\[?.]
          | INSERT\s+(?:\w+\s+)?INTO\s+[\w"`\[?.]
          | UPDATE\s+[\w"`\[\]?.]+\s+(?:\w+\s+)?SET\s
          | DELETE\s+FROM\s+[\w"`\[?.]
          | WITH\s+\w[^;]*?\sAS\s*\(\s*(?:SELECT|INSERT|UPDATE|DELETE|VALUES)\s
          | select\s+(?:\*|[\w".]+\s*,|\w+\(|[\w".]+\s+from\s+\w+\s+where\s)[^;]*?\s?from\s+[\w"`\[?.]
          | select\s+[\w".]+\s+from\s+[\w"?.]+\s+(?:where\s[^;]*[=<>?]|order\s+by\s|limit\s|\w+\s+where\s)
          | insert\s+into\s+[\w"?.]+\s*\(
          | update\s+[\w"?.]+\s+set\s+[\w"?.]+\s*=
          | delete\s+from\s+[\w"?.]+\s+where\s[^;]*[=<>?]
        )
        """, RegexOptions.IgnorePatternWhitespace | RegexOptions.NonBacktracking)]
    private static partial Regex Begins();
}
