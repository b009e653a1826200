using System.Text;

namespace Bellator.Text;

/// <summary>
/// Gathers files one by one under the limits, from a folder, an archive or a database. It keeps them for a tree or, where somebody takes
/// them as they come, only what there is to say about them.
/// </summary>
/// <param name="taken">Gets each file that is taken in; then none is kept here.</param>
public sealed class SourceCollector(SourceLimits limits, Action<SourceFile>? taken = null)
{
    private static readonly UTF8Encoding Utf8 = new(false, false);
    private readonly List<SourceFile> _files = [];
    private readonly List<SkippedFile> _skipped = [];
    private readonly HashSet<string> _paths = new(StringComparer.Ordinal);
    private long _total;

    public SourceLimits Limits => limits;

    public int FileCount { get; private set; }

    public long LineCount { get; private set; }

    public IReadOnlyList<SkippedFile> Skipped => _skipped;

    public void Skip(string path, SkipReason reason, string detail = "") => _skipped.Add(new SkippedFile(path.Length > MaxShownPath ? path[..MaxShownPath] + "…" : path, reason, detail));

    private const int MaxShownPath = 200;

    /// <summary>Says whether a file of this path and size is wanted, before it is read; notes the reason if not.</summary>
    public bool Wants(string path, long size)
    {
        if (PathFault(path) is { } fault)
        {
            Skip(path, SkipReason.UnsafePath, fault);
            return false;
        }

        if (SkipRules.PathReason(path, limits) is { } reason)
        {
            Skip(path, reason);
            return false;
        }

        if (size > limits.MaxFileBytes)
        {
            Skip(path, SkipReason.TooLarge, $"{size} bytes");
            return false;
        }

        if (FileCount >= limits.MaxFiles || _total + size > limits.MaxTotalBytes)
        {
            Skip(path, SkipReason.LimitReached);
            return false;
        }

        return true;
    }

    /// <summary>Takes a file that <see cref="Wants"/> agreed to. A second file of the same path is refused, for archives can hide one so.</summary>
    public void Add(string path, byte[] content)
    {
        if (!_paths.Add(path))
        {
            Skip(path, SkipReason.SamePath);
            return;
        }

        content = ToUtf8(content);
        var language = Languages.Detect(path, content);
        if (SkipRules.ContentReason(content, language) is { } reason)
        {
            Skip(path, reason);
            return;
        }

        var file = new SourceFile(path, content, language);
        _total += content.Length;
        FileCount++;
        LineCount += file.LineCount;
        if (taken is null)
        {
            _files.Add(file);
        }
        else
        {
            taken(file);
        }
    }

    public SourceTree Build(string name) =>
        new(name, [.. _files.OrderBy(f => f.Path, StringComparer.Ordinal)], [.. _skipped.OrderBy(s => s.Path, StringComparer.Ordinal)]);

    /// <summary>Null for a plain relative path; otherwise what is wrong with it.</summary>
    public string? PathFault(string path)
    {
        if (path.Length == 0 || path.Length > limits.MaxPathLength)
        {
            return "the path is empty or too long";
        }

        if (path[0] == '/' || path.Contains('\\') || path.Contains(':') || path.Any(char.IsControl))
        {
            return "the path is absolute or holds a forbidden character";
        }

        var parts = path.Split('/');
        if (parts.Length > limits.MaxPathDepth)
        {
            return $"it lies deeper than {limits.MaxPathDepth} folders";
        }

        return parts.Any(p => p is "" or "." or "..") ? "the path leaves its folder" : null;
    }

    private static byte[] ToUtf8(byte[] content)
    {
        if (content.AsSpan().StartsWith((ReadOnlySpan<byte>)[0xEF, 0xBB, 0xBF]))
        {
            return content[3..];
        }

        if (content.AsSpan().StartsWith((ReadOnlySpan<byte>)[0xFF, 0xFE]))
        {
            return Utf8.GetBytes(Encoding.Unicode.GetString(content, 2, content.Length - 2));
        }

        return content.AsSpan().StartsWith((ReadOnlySpan<byte>)[0xFE, 0xFF])
            ? Utf8.GetBytes(Encoding.BigEndianUnicode.GetString(content, 2, content.Length - 2))
            : content;
    }
}
