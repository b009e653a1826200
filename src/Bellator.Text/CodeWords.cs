using System.Text;

namespace Bellator.Text;

/// <summary>What a piece of code is made of, whatever the language: names, numbers, texts and signs.</summary>
public enum CodeWordKind
{
    Name,
    Number,
    Text,
    Sign,
}

public readonly record struct CodeWord(CodeWordKind Kind, string Text, int Start);

/// <summary>
/// Takes code apart into words, so that two versions of it can be compared whatever their blanks, line ends and comments. It is made for
/// recognising code again, not for understanding it: a comment's sign inside of a regular expression may deceive it, in both versions alike.
/// </summary>
public static class CodeWords
{
    /// <summary>The words of a stretch of a file, at most so many.</summary>
    public static IReadOnlyList<CodeWord> Of(SourceFile file, Span span, int most = int.MaxValue)
    {
        var start = Math.Clamp(span.Start, 0, file.Content.Length);
        var end = Math.Clamp(span.End, start, file.Content.Length);
        return Of(file.Content.AsSpan(start, end - start), file.Language, start, most);
    }

    private static List<CodeWord> Of(ReadOnlySpan<byte> code, Language language, int offset, int most)
    {
        var words = new List<CodeWord>();
        var forward = new ForwardOnly(nameof(CodeWords));
        for (var at = 0; at < code.Length && words.Count < most && forward.At(at);)
        {
            var begin = at;
            if (code[begin] <= ' ')
            {
                at++;
            }
            else if (CommentEnd(code, begin, language) is { } after)
            {
                at = after;
            }
            else if (code[begin] is (byte)'\'' or (byte)'"' or (byte)'`' && TextEnd(code, begin) is { } close)
            {
                at = close;
                words.Add(new CodeWord(CodeWordKind.Text, Encoding.UTF8.GetString(code[begin..at]), offset + begin));
            }
            else if (IsNamePart(code[begin]))
            {
                var end = begin;
                while (end < code.Length && IsNamePart(code[end]))
                {
                    end++;
                }

                at = end;
                var kind = code[begin] is >= (byte)'0' and <= (byte)'9' ? CodeWordKind.Number : CodeWordKind.Name;
                words.Add(new CodeWord(kind, Encoding.UTF8.GetString(code[begin..end]), offset + begin));
            }
            else
            {
                at++;
                words.Add(new CodeWord(CodeWordKind.Sign, ((char)code[begin]).ToString(), offset + begin));
            }
        }

        return words;
    }

    /// <summary>The same with names taken out: what stays is how the code is put together, and the texts and numbers in it.</summary>
    public static IEnumerable<string> Shape(IReadOnlyList<CodeWord> words)
    {
        var names = new Dictionary<string, int>(StringComparer.Ordinal);
        foreach (var word in words)
        {
            yield return word.Kind switch
            {
                CodeWordKind.Name => "n" + Number(word.Text),
                CodeWordKind.Text => WithoutNames(word.Text),
                _ => word.Text,
            };
        }

        int Number(string name)
        {
            if (!names.TryGetValue(name, out var number))
            {
                names[name] = number = names.Count;
            }

            return number;
        }
    }

    /// <summary>A text without the variables that the language fills into it.</summary>
    private static string WithoutNames(string text)
    {
        if (text[0] == '\'')
        {
            return text;
        }

        var kept = new StringBuilder();
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] is '{' || (text[i] is '$' or '#' && i + 1 < text.Length && text[i + 1] == '{'))
            {
                var end = text.IndexOf('}', i);
                kept.Append("{}");
                i = end < 0 ? text.Length : end;
            }
            else if (text[i] == '$' && i + 1 < text.Length && (char.IsLetter(text[i + 1]) || text[i + 1] == '_'))
            {
                do
                {
                    i++;
                }
                while (i + 1 < text.Length && (char.IsLetterOrDigit(text[i + 1]) || text[i + 1] == '_'));
                kept.Append("{}");
            }
            else if (!char.IsWhiteSpace(text[i]))
            {
                kept.Append(text[i]);
            }
        }

        return kept.ToString();
    }

    private static int? CommentEnd(ReadOnlySpan<byte> code, int at, Language language)
    {
        var rest = code[at..];
        if (rest.StartsWith("/*"u8))
        {
            return End(code, at + 2, "*/"u8);
        }

        if (rest.StartsWith("<!--"u8))
        {
            return End(code, at + 4, "-->"u8);
        }

        var hash = rest[0] == '#' && language is Language.Php or Language.Python or Language.Ruby && !rest.StartsWith("#["u8);
        var dashes = rest.StartsWith("--"u8) && Languages.IsDeclarations(language);

        // An address within a text never comes here, for texts are taken whole.
        return (rest.StartsWith("//"u8) && language is not (Language.Python or Language.Ruby)) || hash || dashes ? LineEnd(code, at) : null;
    }

    private static int End(ReadOnlySpan<byte> code, int from, ReadOnlySpan<byte> end)
    {
        var found = from < code.Length ? code[from..].IndexOf(end) : -1;
        return found < 0 ? code.Length : from + found + end.Length;
    }

    private static int LineEnd(ReadOnlySpan<byte> code, int from)
    {
        var found = code[from..].IndexOf((byte)'\n');
        return found < 0 ? code.Length : from + found + 1;
    }

    /// <summary>Where a text is closed. One that goes on beyond its line is no text but an apostrophe, as in the words of a page.</summary>
    private static int? TextEnd(ReadOnlySpan<byte> code, int begin)
    {
        var quote = code[begin];
        for (var i = begin + 1; i < code.Length; i++)
        {
            if (code[i] == quote)
            {
                return i + 1;
            }

            if (code[i] == '\n' && quote == '\'')
            {
                return null;
            }

            i += code[i] == '\\' ? 1 : 0;
        }

        return null;
    }

    private static bool IsNamePart(byte b) => b is >= (byte)'a' and <= (byte)'z' or >= (byte)'A' and <= (byte)'Z' or >= (byte)'0' and <= (byte)'9' or (byte)'_' or (byte)'$' or >= 0x80;
}
