namespace Bellator.Audit.Sql;

/// <summary>What readers of statements have in common: the tokens, and the place among them.</summary>
public abstract class SqlTokenReader(List<SqlToken> tokens)
{
    protected List<SqlToken> Tokens { get; set; } = tokens;

    /// <summary>Index of the next token.</summary>
    protected int Position { get; set; }

    protected SqlToken Here => Position < Tokens.Count ? Tokens[Position] : default;

    /// <summary>Goes past the word if it is next.</summary>
    protected bool Skip(string word)
    {
        if (!Here.IsWord(word))
        {
            return false;
        }

        Position++;
        return true;
    }

    protected bool SkipSign(char sign)
    {
        if (!Here.IsSign(sign))
        {
            return false;
        }

        Position++;
        return true;
    }

    /// <summary>Goes past what stands in brackets, with the brackets.</summary>
    protected void SkipBrackets()
    {
        var depth = 0;
        do
        {
            depth += Here.IsSign('(') ? 1 : Here.IsSign(')') ? -1 : 0;
            Position++;
        }
        while (Position < Tokens.Count && depth > 0);
    }

    /// <summary>IF EXISTS, IF NOT EXISTS.</summary>
    protected void SkipExists()
    {
        if (Skip("IF"))
        {
            Skip("NOT");
            Skip("EXISTS");
        }
    }

    /// <summary>The last part of a name, which may have a schema before it; null if no name is next.</summary>
    protected string? ReadName()
    {
        if (!Here.IsName)
        {
            return null;
        }

        var name = Here.Value;
        Position++;
        while (Here.IsSign('.') && Position + 1 < Tokens.Count && Tokens[Position + 1].IsName)
        {
            name = Tokens[Position + 1].Value;
            Position += 2;
        }

        return name;
    }
}
