namespace Bellator.Tokens;

/// <summary>The kinds of remarks in one word each.</summary>
public static class RemarkText
{
    public static string Of(RemarkKind kind) => kind switch
    {
        RemarkKind.Broken => "broken",
        RemarkKind.Weak => "weak",
        RemarkKind.Unclear => "unclear",
        RemarkKind.Good => "good",
        _ => "note",
    };
}
