using System.Buffers.Binary;

namespace Bellator.Text;

/// <summary>
/// Looks through the directory of a ZIP archive before anything of it is unpacked: how many entries there are, and whether they share
/// stretches of the file, as archive bombs do that are small and unpack without end. Layout: PKWARE's APPNOTE 6.3.10, sections 4.3.7,
/// 4.3.12, 4.3.14 to 4.3.16 and 4.5.3 (from memory). What it does not understand it leaves to the platform's reader.
/// </summary>
internal static class ZipDirectory
{
    private const uint EndSign = 0x06054b50;
    private const uint End64Sign = 0x06064b50;
    private const uint Locator64Sign = 0x07064b50;
    private const uint EntrySign = 0x02014b50;
    private const int EndBytes = 22;
    private const int LocatorBytes = 20;
    private const int End64Bytes = 56;
    private const int EntryBytes = 46;
    private const int LocalBytes = 30;
    private const int LongestComment = ushort.MaxValue;

    /// <exception cref="SourceException">There are too many entries, or entries that overlap.</exception>
    /// <exception cref="InvalidDataException">The directory is broken.</exception>
    public static void Check(Stream stream, SourceLimits limits, CancellationToken cancel)
    {
        var start = stream.Position;
        var (offset, count) = FindDirectory(stream);
        if (count > limits.MaxArchiveEntries)
        {
            throw TooMany(limits);
        }

        stream.Position = offset;
        using var input = new BufferedStream(new KeptOpen(stream), 1 << 16);
        var stretches = new List<(long Start, long End)>();
        var head = new byte[EntryBytes];
        while (input.ReadAtLeast(head, EntryBytes, throwOnEndOfStream: false) == EntryBytes && BinaryPrimitives.ReadUInt32LittleEndian(head) == EntrySign)
        {
            cancel.ThrowIfCancellationRequested();
            if (stretches.Count >= limits.MaxArchiveEntries)
            {
                throw TooMany(limits);
            }

            var nameLength = BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(28));
            var extraLength = BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(30));
            var commentLength = BinaryPrimitives.ReadUInt16LittleEndian(head.AsSpan(32));
            long packed = BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(20));
            long local = BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(42));
            var rest = new byte[nameLength + extraLength + commentLength];
            input.ReadExactly(rest);
            Widen(rest.AsSpan(nameLength, extraLength), BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(24)) == uint.MaxValue, ref packed, ref local);
            stretches.Add((local, local + LocalBytes + nameLength + packed));
        }

        stretches.Sort();
        for (var i = 1; i < stretches.Count; i++)
        {
            if (stretches[i].Start < stretches[i - 1].End)
            {
                throw new SourceException("entries of the archive lie over each other, as in archive bombs");
            }
        }

        stream.Position = start;
    }

    private static SourceException TooMany(SourceLimits limits) => new($"the archive has more than {limits.MaxArchiveEntries} entries");

    private static (long Offset, long Count) FindDirectory(Stream stream)
    {
        var tail = new byte[Math.Min(stream.Length, EndBytes + LongestComment)];
        stream.Position = stream.Length - tail.Length;
        stream.ReadExactly(tail);
        for (var at = tail.Length - EndBytes; at >= 0; at--)
        {
            if (BinaryPrimitives.ReadUInt32LittleEndian(tail.AsSpan(at)) != EndSign)
            {
                continue;
            }

            long count = BinaryPrimitives.ReadUInt16LittleEndian(tail.AsSpan(at + 10));
            long offset = BinaryPrimitives.ReadUInt32LittleEndian(tail.AsSpan(at + 16));
            return (count == ushort.MaxValue || offset == uint.MaxValue) && at >= LocatorBytes && BinaryPrimitives.ReadUInt32LittleEndian(tail.AsSpan(at - LocatorBytes)) == Locator64Sign
                ? FindDirectory64(stream, BinaryPrimitives.ReadInt64LittleEndian(tail.AsSpan(at - LocatorBytes + 8)))
                : (offset, count);
        }

        throw new InvalidDataException("its directory is missing");
    }

    private static (long Offset, long Count) FindDirectory64(Stream stream, long at)
    {
        if (at < 0 || at > stream.Length - End64Bytes)
        {
            throw new InvalidDataException("its directory is broken");
        }

        var end = new byte[End64Bytes];
        stream.Position = at;
        stream.ReadExactly(end);
        var offset = BinaryPrimitives.ReadInt64LittleEndian(end.AsSpan(48));
        return BinaryPrimitives.ReadUInt32LittleEndian(end) == End64Sign && offset >= 0 && offset <= stream.Length
            ? (offset, BinaryPrimitives.ReadInt64LittleEndian(end.AsSpan(32)))
            : throw new InvalidDataException("its directory is broken");
    }

    /// <summary>Sizes and places that do not fit 32 bits stand in an extra field, in this order, as far as they are needed.</summary>
    private static void Widen(ReadOnlySpan<byte> extra, bool sizeIsWide, ref long packed, ref long local)
    {
        const ushort Zip64 = 1;
        for (var at = 0; at + 4 <= extra.Length;)
        {
            var length = BinaryPrimitives.ReadUInt16LittleEndian(extra[(at + 2)..]);
            if (BinaryPrimitives.ReadUInt16LittleEndian(extra[at..]) == Zip64 && at + 4 + length <= extra.Length)
            {
                var field = extra.Slice(at + 4, length);
                field = sizeIsWide && field.Length >= 8 ? field[8..] : field;
                if (packed == uint.MaxValue && field.Length >= 8)
                {
                    packed = BinaryPrimitives.ReadInt64LittleEndian(field);
                    field = field[8..];
                }

                if (local == uint.MaxValue && field.Length >= 8)
                {
                    local = BinaryPrimitives.ReadInt64LittleEndian(field);
                }

                if (packed < 0 || local < 0)
                {
                    throw new InvalidDataException("its directory is broken");
                }

                return;
            }

            at += 4 + length;
        }
    }

    /// <summary>A stream that is read through a buffer and not closed with it.</summary>
    private sealed class KeptOpen(Stream inner) : ReadOnlyStream
    {
        public override int Read(System.Span<byte> buffer) => inner.Read(buffer);
    }
}
