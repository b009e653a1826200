using System.Diagnostics;

namespace Bellator.Text;

/// <summary>Counts what an archive unpacks to, and how long that takes, and refuses it when either is out of proportion.</summary>
internal sealed class ExtractionQuota(long packedLength, SourceLimits limits, CancellationToken cancel)
{
    /// <summary>Tiny archives of repetitive text pack well; the ratio only means something above a few megabytes.</summary>
    private const long RatioFrom = 16 * 1024 * 1024;

    private readonly Stopwatch _watch = Stopwatch.StartNew();
    private long _spent;
    private int _entries;

    public void Spend(long bytes)
    {
        cancel.ThrowIfCancellationRequested();
        _spent += bytes;
        if (_spent > limits.MaxTotalBytes)
        {
            throw new SourceException($"the archive unpacks to more than {limits.MaxTotalBytes / (1024 * 1024)} MiB");
        }

        if (_spent > RatioFrom && _spent / Math.Max(1, packedLength) > limits.MaxArchiveRatio)
        {
            throw new SourceException($"the archive unpacks to more than {limits.MaxArchiveRatio} times its size, as archive bombs do");
        }

        if (_watch.Elapsed > limits.MaxArchiveTime)
        {
            throw new SourceException($"the archive takes longer than {limits.MaxArchiveTime.TotalMinutes:0} minutes to unpack");
        }
    }

    public void CountEntry()
    {
        Spend(0);
        if (++_entries > limits.MaxArchiveEntries)
        {
            throw new SourceException($"the archive has more than {limits.MaxArchiveEntries} entries");
        }
    }
}

/// <summary>Charges everything read through it, skipped entries included, to a budget.</summary>
internal sealed class BoundedStream(Stream inner, ExtractionQuota budget) : ReadOnlyStream
{
    public override int Read(System.Span<byte> buffer)
    {
        var read = inner.Read(buffer);
        budget.Spend(read);
        return read;
    }
}
