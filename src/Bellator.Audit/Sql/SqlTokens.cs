using Bellator.Text;

namespace Bellator.Audit.Sql;

public enum SqlTokenKind
{
    /// <summary>The end of the text.</summary>
    None,
    Word,

    /// <summary>A name between quotes of any dialect: "a", `a`, [a].</summary>
    Name,
    Text,
    Number,
    Sign,
}

/// <summary>One token; a quoted name or text is given without its quotes.</summary>
public readonly record struct SqlToken(SqlTokenKind Kind, string Value, Span Span)
{
    public bool IsWord(string word) => Kind == SqlTokenKind.Word && string.Equals(Value, word, StringComparison.OrdinalIgnoreCase);

    public bool IsSign(char sign) => Kind == SqlTokenKind.Sign && Value[0] == sign;

    public bool IsName => Kind is SqlTokenKind.Word or SqlTokenKind.Name;
}

/// <summary>Cuts SQL of any dialect into tokens; comments and unknown bytes are left out, and nothing is an error.</summary>
public static class SqlTokens
{
    public static IEnumerable<SqlToken> Of(string text)
    {
        var i = 0;
        var forward = new ForwardOnly(nameof(SqlTokens));
        while (i < text.Length && forward.At(i))
        {
            var start = i;
            var c = text[i];
            if (char.IsWhiteSpace(c))
            {
                i++;
            }
            else if (c == '#' || (c == '-' && Next(i) == '-'))
            {
                i = End("\n", i);
            }
            else if (c == '/' && Next(i) == '*')
            {
                // MySQL runs what stands in /*!40101 … */: only the marks are comments.
                if (Next(i + 1) != '!')
                {
                    i = End("*/", i + 2);
                    continue;
                }

                i += 3;
                while (i < text.Length && char.IsAsciiDigit(text[i]))
                {
                    i++;
                }
            }
            else if (c == '*' && Next(i) == '/')
            {
                i += 2;
            }
            else if (c is '\'' or '"' or '`')
            {
                i = Quoted(i, c);
                yield return new SqlToken(c == '\'' ? SqlTokenKind.Text : SqlTokenKind.Name, text[(start + 1)..Math.Max(start + 1, i - 1)], new Span(start, i));
            }
            else if (c == '[' && (char.IsLetter(Next(i)) || Next(i) == '_'))
            {
                i = End("]", i);
                yield return new SqlToken(SqlTokenKind.Name, text[(start + 1)..Math.Max(start + 1, i - 1)], new Span(start, i));
            }
            else if (c == '$' && DollarEnd(i) is > 0 and var dollar)
            {
                i = dollar;
                yield return new SqlToken(SqlTokenKind.Text, text[start..i], new Span(start, i));
            }
            else if (char.IsLetter(c) || c == '_')
            {
                while (i < text.Length && (char.IsLetterOrDigit(text[i]) || text[i] is '_' or '$'))
                {
                    i++;
                }

                yield return new SqlToken(SqlTokenKind.Word, text[start..i], new Span(start, i));
            }
            else if (char.IsAsciiDigit(c))
            {
                while (i < text.Length && (char.IsLetterOrDigit(text[i]) || text[i] == '.'))
                {
                    i++;
                }

                yield return new SqlToken(SqlTokenKind.Number, text[start..i], new Span(start, i));
            }
            else
            {
                i++;
                yield return new SqlToken(SqlTokenKind.Sign, text[start..i], new Span(start, i));
            }
        }

        char Next(int at) => at + 1 < text.Length ? text[at + 1] : '\0';

        int End(string sign, int from) => text.IndexOf(sign, Math.Min(from, text.Length), StringComparison.Ordinal) is >= 0 and var found ? found + sign.Length : text.Length;

        int Quoted(int from, char quote)
        {
            for (var at = from + 1; at < text.Length; at++)
            {
                if (text[at] == '\\' && quote == '\'')
                {
                    at++;
                }
                else if (text[at] == quote)
                {
                    if (at + 1 < text.Length && text[at + 1] == quote)
                    {
                        at++;
                    }
                    else
                    {
                        return at + 1;
                    }
                }
            }

            return text.Length;
        }

        // PostgreSQL's $tag$ … $tag$.
        int DollarEnd(int from)
        {
            var close = text.IndexOf('$', from + 1);
            return close > from && close - from < 64 && text.AsSpan(from + 1, close - from - 1).IndexOfAnyExcept("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ_0123456789") < 0
                ? End(text[from..(close + 1)], close + 1) : 0;
        }
    }
}
