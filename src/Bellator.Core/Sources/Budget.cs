namespace Bellator.Core.Sources;

/// <summary>Counts what an archive unpacks to and refuses it when that is out of proportion.</summary>
internal sealed class Budget(long packedLength, SourceLimits limits)
{
    private long _spent;
    private int _entries;

    public void Spend(long bytes)
    {
        _spent += bytes;
        if (_spent > limits.MaxTotalBytes)
        {
            throw new SourceException($"the archive unpacks to more than {limits.MaxTotalBytes / (1024 * 1024)} MiB");
        }

        // Tiny archives of repetitive text pack well; the ratio only means something above a few megabytes.
        if (_spent > 16 * 1024 * 1024 && _spent / Math.Max(1, packedLength) > limits.MaxArchiveRatio)
        {
            throw new SourceException($"the archive unpacks to more than {limits.MaxArchiveRatio} times its size, as archive bombs do");
        }
    }

    public void CountEntry()
    {
        if (++_entries > limits.MaxFiles * 2)
        {
            throw new SourceException($"the archive has more than {limits.MaxFiles * 2} entries");
        }
    }
}

/// <summary>Charges everything read through it, skipped entries included, to a budget.</summary>
internal sealed class BoundedStream(Stream inner, Budget budget) : Stream
{
    public override bool CanRead => true;

    public override bool CanSeek => false;

    public override bool CanWrite => false;

    public override long Length => throw new NotSupportedException();

    public override long Position
    {
        get => throw new NotSupportedException();
        set => throw new NotSupportedException();
    }

    public override int Read(byte[] buffer, int offset, int count) => Read(buffer.AsSpan(offset, count));

    public override int Read(System.Span<byte> buffer)
    {
        var read = inner.Read(buffer);
        budget.Spend(read);
        return read;
    }

    public override void Flush()
    {
    }

    public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

    public override void SetLength(long value) => throw new NotSupportedException();

    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
}
