namespace Bellator.Analysis.Guards;

/// <summary>Judges a regular expression used as a test: does it cover the whole text, and let nothing through that could end a quote?</summary>
internal static class RegexSafety
{
    public static bool IsWholeAndHarmless(string pattern)
    {
        var body = Body(pattern);
        if (!(body.StartsWith('^') || body.StartsWith("\\A", StringComparison.Ordinal))
            || !(body.EndsWith('$') || body.EndsWith("\\z", StringComparison.Ordinal) || body.EndsWith("\\Z", StringComparison.Ordinal)))
        {
            return false;
        }

        return IsHarmless(pattern);
    }

    /// <summary>Whatever it matches holds nothing that could end a quote, though what stands around the match may.</summary>
    public static bool IsHarmless(string pattern)
    {
        var body = Body(pattern);
        var inClass = false;
        for (var i = 0; i < body.Length; i++)
        {
            switch (body[i])
            {
                case '\\':
                    i++;
                    if (i < body.Length && body[i] is 'S' or 'W' or 'D' or 'N')
                    {
                        return false;
                    }

                    break;
                case '[':
                    inClass = true;
                    if (i + 1 < body.Length && body[i + 1] == '^')
                    {
                        return false;
                    }

                    break;
                case ']':
                    inClass = false;
                    break;
                case '.' when !inClass:
                case '\'' or '"' or '`' or ';' or '|' when !(body[i] == '|' && !inClass && body.Contains('(', StringComparison.Ordinal)):
                    return false;
            }
        }

        return true;
    }

    /// <summary>It lets through only paths of the site itself: one slash at the beginning, and no second.</summary>
    public static bool IsLocalPath(string pattern)
    {
        var body = Body(pattern);
        var rest = body.StartsWith("\\A", StringComparison.Ordinal) ? body[2..] : body.StartsWith('^') ? body[1..] : null;
        rest = rest is ['\\', '/', ..] ? rest[2..] : rest is ['/', ..] ? rest[1..] : null;
        return rest is not null && (rest.StartsWith("(?!/", StringComparison.Ordinal) || rest.StartsWith("(?!\\/", StringComparison.Ordinal) || rest.StartsWith("([^/", StringComparison.Ordinal)
            || rest.StartsWith("[^/", StringComparison.Ordinal) || rest.StartsWith("[^\\/", StringComparison.Ordinal) || rest.StartsWith("(?:[^/", StringComparison.Ordinal)
            || (rest.Length > 0 && (char.IsLetterOrDigit(rest[0]) || (rest[0] == '[' && rest.IndexOf(']', StringComparison.Ordinal) is > 1 and var end && !rest[1..end].Contains('/', StringComparison.Ordinal) && rest[1] != '^'))));
    }

    /// <summary>A single class of all but some harmless signs: a text in which it finds nothing is harmless.</summary>
    public static bool FindsForbidden(string pattern)
    {
        var body = Body(pattern).TrimEnd('+');
        if (!body.StartsWith("[^", StringComparison.Ordinal) || body.IndexOf(']', StringComparison.Ordinal) != body.Length - 1)
        {
            return false;
        }

        var allowed = body[2..^1];
        return allowed.Length > 0 && !allowed.Any(c => c is '\'' or '"' or '`' or ';' or '(' or ')' or ' ') && !allowed.Contains("\\s", StringComparison.Ordinal)
            && !allowed.Contains("\\W", StringComparison.Ordinal) && !allowed.Contains("\\S", StringComparison.Ordinal) && !allowed.Contains("\\D", StringComparison.Ordinal);
    }

    /// <summary>The expression between its delimiters, if it has any.</summary>
    private static string Body(string pattern)
    {
        if (pattern.Length < 2 || char.IsLetterOrDigit(pattern[0]) || pattern[0] is '^' or '\\' or '[' or '(' or '{')
        {
            return pattern;
        }

        var end = pattern.LastIndexOf(pattern[0]);
        return end > 0 ? pattern[1..end] : pattern;
    }
}
