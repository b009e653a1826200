namespace Bellator.Text;

/// <summary>Bounds on what is taken in, so that hostile material cannot exhaust the machine. Sizes are bytes.</summary>
public sealed record SourceLimits
{
    public static readonly SourceLimits Default = new();

    /// <summary>Larger files are data or bundles; hand-written source files stay far below.</summary>
    public long MaxFileBytes { get; init; } = 2 * 1024 * 1024;

    public long MaxTotalBytes { get; init; } = 600L * 1024 * 1024;

    public int MaxFiles { get; init; } = 200_000;

    /// <summary>What is left out of an archive counts too.</summary>
    public int MaxArchiveEntries { get; init; } = 400_000;

    /// <summary>Unpacked size over packed size for a whole archive; source code packs 3 to 10 times, bombs a thousand times.</summary>
    public int MaxArchiveRatio { get; init; } = 200;

    /// <summary>What an archive may say about one entry besides its content: names, owners, dates.</summary>
    public int MaxArchiveNameBytes { get; init; } = 64 * 1024;

    public TimeSpan MaxArchiveTime { get; init; } = TimeSpan.FromMinutes(10);

    public int MaxPathLength { get; init; } = 512;

    public int MaxPathDepth { get; init; } = 40;

    /// <summary>Tests rarely run in production, and their deliberate bad values are noise; a reviewer can ask for them.</summary>
    public bool IncludeTests { get; init; }
}

/// <summary>The material cannot be taken in at all; the message is for the reviewer.</summary>
public sealed class SourceException(string message, Exception? inner = null) : Exception(message, inner);
