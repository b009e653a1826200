using System.Text;

namespace Bellator.Text;

/// <summary>One file of the audited material. Its content is bytes of UTF-8 (other encodings are converted when it is taken in).</summary>
public sealed class SourceFile
{
    private int[]? _lineStarts;

    public SourceFile(string path, byte[] content, Language language)
    {
        Path = path;
        Content = content;
        Language = language;
    }

    /// <summary>Relative to the audited folder or archive, with forward slashes.</summary>
    public string Path { get; }

    public byte[] Content { get; }

    public Language Language { get; }

    public int LineCount => LineStarts.Length;

    private int[] LineStarts => _lineStarts ??= FindLines(Content);

    /// <summary>Turns a stretch of bytes into lines and columns.</summary>
    public Region RegionOf(Span span)
    {
        var (startLine, startColumn) = Position(span.Start);
        var (endLine, endColumn) = Position(Math.Max(span.Start, span.End));
        return new Region(startLine, startColumn, endLine, endColumn);
    }

    public int LineOf(int offset)
    {
        var index = Array.BinarySearch(LineStarts, Math.Clamp(offset, 0, Content.Length));
        return (index >= 0 ? index : ~index - 1) + 1;
    }

    /// <summary>The bytes of one 1-based line, with its end; an empty stretch for a line that there is not.</summary>
    public Span SpanOf(int number) => number < 1 || number > LineCount ? Span.None : new Span(LineStarts[number - 1], number < LineCount ? LineStarts[number] : Content.Length);

    /// <summary>The bytes of a stretch that is given by lines and columns; what lies beyond the file is left out.</summary>
    public Span SpanOf(Region region)
    {
        var start = OffsetOf(region.StartLine, region.StartColumn);
        return new Span(start, Math.Max(start, OffsetOf(region.EndLine, region.EndColumn)));
    }

    private int OffsetOf(int line, int column)
    {
        var span = SpanOf(line);
        if (span == Span.None && line > 1)
        {
            return Content.Length;
        }

        // Columns are counted in UTF-16 code units.
        var at = span.Start;
        for (var units = 1; units < column && at < span.End;)
        {
            System.Text.Rune.DecodeFromUtf8(Content.AsSpan(at, span.End - at), out var rune, out var bytes);
            units += rune.Utf16SequenceLength;
            at += bytes;
        }

        return at;
    }

    /// <summary>The text of one 1-based line, without its end.</summary>
    public string Line(int number)
    {
        if (number < 1 || number > LineCount)
        {
            return "";
        }

        var start = LineStarts[number - 1];
        var end = number < LineCount ? LineStarts[number] : Content.Length;
        return Encoding.UTF8.GetString(Content, start, end - start).TrimEnd('\n', '\r');
    }

    public string Text(Span span)
    {
        var start = Math.Clamp(span.Start, 0, Content.Length);
        var end = Math.Clamp(span.End, start, Content.Length);
        return Encoding.UTF8.GetString(Content, start, end - start);
    }

    private (int Line, int Column) Position(int offset)
    {
        offset = Math.Clamp(offset, 0, Content.Length);
        var line = LineOf(offset);
        var start = LineStarts[line - 1];
        return (line, Encoding.UTF8.GetCharCount(Content.AsSpan(start, offset - start)) + 1);
    }

    private static int[] FindLines(byte[] content)
    {
        var starts = new List<int>(content.Length / 30 + 1) { 0 };
        for (var at = 0; at < content.Length;)
        {
            var next = Array.IndexOf(content, (byte)'\n', at);
            if (next < 0)
            {
                break;
            }

            at = next + 1;
            starts.Add(at);
        }

        if (starts.Count > 1 && starts[^1] == content.Length)
        {
            starts.RemoveAt(starts.Count - 1);
        }

        return [.. starts];
    }
}

/// <summary>Why a file was not audited, in the words the reviewer sees.</summary>
public enum SkipReason
{
    UnknownLanguage,
    Vendored,
    Generated,
    Minified,
    Test,
    Binary,
    TooLarge,
    Unreadable,
    SymbolicLink,
    UnsafePath,
    SamePath,
    NoFile,
    Encrypted,
    Damaged,
    LimitReached,
}

public sealed record SkippedFile(string Path, SkipReason Reason, string Detail = "");

/// <summary>What an audit reads: the files it can, and a list of those it leaves out and why.</summary>
public sealed class SourceTree
{
    public SourceTree(string name, IReadOnlyList<SourceFile> files, IReadOnlyList<SkippedFile> skipped)
    {
        Name = name;
        Files = files;
        Skipped = skipped;
    }

    public string Name { get; }

    public IReadOnlyList<SourceFile> Files { get; }

    public IReadOnlyList<SkippedFile> Skipped { get; }

    public long LineCount => Files.Sum(f => (long)f.LineCount);

    public Region RegionOf(Location location) => Files[location.File].RegionOf(new Span(location.Start, location.End));

    /// <summary>The text at a place, on one line and shortened.</summary>
    public string TextOf(Location location, int limit = 60)
    {
        var text = string.Join(' ', Files[location.File].Text(new Span(location.Start, Math.Min(location.End, location.Start + (limit * 4)))).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
        return text.Length <= limit ? text : string.Concat(text.AsSpan(0, limit - 1), "…");
    }

    public int LineOf(Location location) => Files[location.File].LineOf(location.Start);
}
