namespace Bellator.Tokens;

/// <summary>What a remark means for whoever relies on the token.</summary>
public enum RemarkKind
{
    /// <summary>Anybody can make one that is accepted, or a browser drops it.</summary>
    Broken,

    /// <summary>It opens more than it should, or for longer.</summary>
    Weak,

    /// <summary>It cannot be told from the token alone.</summary>
    Unclear,

    /// <summary>Worth knowing; nothing has to be done.</summary>
    Note,

    /// <summary>As it should be.</summary>
    Good,
}

/// <summary>One thing that is said of a token or cookie.</summary>
/// <param name="Subject">The attribute, claim or header parameter that it is about.</param>
/// <param name="Text">A full sentence.</param>
/// <param name="Source">The published rule, or “common practice” where there is none.</param>
public sealed record TokenRemark(RemarkKind Kind, string Subject, string Text, string Source)
{
    public const string CommonPractice = "common practice";
}

/// <summary>What was handed in cannot be read as what it should be; the message says why, in a sentence.</summary>
public sealed class TokenFormatException(string message) : Exception(message);
