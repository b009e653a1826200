namespace Bellator.Text;

/// <summary>A stretch of one file, in bytes of its UTF-8 text: first byte, and the byte after the last.</summary>
public readonly record struct Span(int Start, int End)
{
    public static readonly Span None = new(0, 0);
}

/// <summary>A stretch of a file within a source tree.</summary>
public readonly record struct Location(int File, int Start, int End)
{
    public static readonly Location None = new(-1, 0, 0);

    public bool IsKnown => File >= 0;
}

/// <summary>A place as people and SARIF count it: 1-based lines, 1-based columns in UTF-16 code units; the end column is exclusive.</summary>
public readonly record struct Region(int StartLine, int StartColumn, int EndLine, int EndColumn);
