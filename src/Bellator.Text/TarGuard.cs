using System.Globalization;
using System.Text;

namespace Bellator.Text;

/// <summary>
/// Looks at the headers of a tar archive while it is read. The platform's reader takes long names and extended headers into memory
/// whole, however long an archive says they are; here they are refused before. Layout: POSIX.1-2024, pax, "ustar Interchange Format"
/// and GNU tar's "Basic Tar Format" (both from memory).
/// </summary>
internal sealed class TarGuard(Stream inner, SourceLimits limits) : ReadOnlyStream
{
    private const int Block = 512;
    private const int SizeAt = 124;
    private const int TypeAt = 156;
    private const int MoreSparseAt = 482;
    private const int MoreSparseInExtension = 504;
    private readonly byte[] _header = new byte[Block];
    private readonly MemoryStream _extended = new();
    private int _filled;
    private long _data;
    private bool _isExtended;
    private bool _isSparse;

    public override int Read(System.Span<byte> buffer)
    {
        var read = inner.Read(buffer);
        Look(buffer[..read]);
        return read;
    }

    private void Look(System.Span<byte> bytes)
    {
        while (bytes.Length > 0)
        {
            if (_data > 0)
            {
                var part = (int)Math.Min(_data, bytes.Length);
                if (_isExtended)
                {
                    _extended.Write(bytes[..part]);
                }

                _data -= part;
                bytes = bytes[part..];
                if (_data == 0 && _isExtended)
                {
                    EndExtended();
                }

                continue;
            }

            var taken = Math.Min(Block - _filled, bytes.Length);
            bytes[..taken].CopyTo(_header.AsSpan(_filled));
            _filled += taken;
            bytes = bytes[taken..];
            if (_filled == Block)
            {
                _filled = 0;
                Header();
            }
        }
    }

    private void Header()
    {
        if (_isSparse)
        {
            _isSparse = _header[MoreSparseInExtension] != 0;
            return;
        }

        var size = Size();
        var type = (char)_header[TypeAt];
        _isExtended = type is 'x' or 'g';
        if ((_isExtended || type is 'L' or 'K') && size > limits.MaxArchiveNameBytes)
        {
            throw new SourceException($"the archive gives an entry a name or properties of {size} bytes");
        }

        _isSparse = type == 'S' && _header[MoreSparseAt] != 0;
        _data = (size + Block - 1) / Block * Block;
    }

    private void EndExtended()
    {
        _isExtended = false;
        var text = Encoding.Latin1.GetString(_extended.GetBuffer(), 0, (int)_extended.Length);
        _extended.SetLength(0);

        // A size given here stands for that of the next header: only files beyond every limit of ours need it.
        if (text.Contains(" size=", StringComparison.Ordinal) && text.Split('\n').Select(l => l.Split(' ', 2)).Any(p => p.Length == 2 && p[1].StartsWith("size=", StringComparison.Ordinal)
            && (!long.TryParse(p[1][5..], NumberStyles.None, CultureInfo.InvariantCulture, out var size) || size > limits.MaxTotalBytes)))
        {
            throw new SourceException("the archive holds an entry that is larger than all that is taken in");
        }
    }

    /// <summary>Octal digits, or a number to the base 256 where the first bit is set.</summary>
    private long Size()
    {
        var field = _header.AsSpan(SizeAt, 12);
        long size = 0;
        if ((field[0] & 0x80) != 0)
        {
            foreach (var b in field[4..])
            {
                size = (size << 8) | b;
            }

            return size < 0 ? throw new SourceException("the archive holds an entry of a size that cannot be") : size;
        }

        foreach (var b in field)
        {
            size = b is >= (byte)'0' and <= (byte)'7' ? (size * 8) + (b - '0') : size;
        }

        return size;
    }
}
