namespace Bellator.Passwords;

/// <summary>Whether a column holds what a scheme makes. A database that cuts off, or refuses, a value that is too long locks people out.</summary>
/// <param name="Room">Characters that the column holds; null for as many as there are.</param>
/// <param name="Needed">Characters of the longest value.</param>
public sealed record ColumnFit(int? Room, int Needed)
{
    /// <summary>The scheme that is recommended first (OWASP Password Storage Cheat Sheet), by the length of its longest usual value.</summary>
    public static int Recommended { get; } = SchemeList.Find("argon2")!.LongestValue;

    public bool Fits => Room is null || Room >= Needed;
}
