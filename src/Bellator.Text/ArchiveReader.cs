using System.Formats.Tar;
using System.IO.Compression;
using System.IO.Hashing;

namespace Bellator.Text;

/// <summary>Reads .zip, .tar, .tar.gz and .tgz archives in memory, entry by entry; nothing is unpacked to disk.</summary>
public static class ArchiveReader
{
    private const int BufferBytes = 81920;

    public static bool IsArchive(string name) =>
        name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase) || name.EndsWith(".tar", StringComparison.OrdinalIgnoreCase)
        || name.EndsWith(".tar.gz", StringComparison.OrdinalIgnoreCase) || name.EndsWith(".tgz", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads an archive from a seekable stream.</summary>
    /// <exception cref="SourceException">Not an archive of the kind its name says, or one that is hostile as a whole.</exception>
    public static void Read(string name, Stream stream, SourceCollector collector, CancellationToken cancel = default)
    {
        try
        {
            var budget = new ExtractionQuota(stream.Length, collector.Limits, cancel);
            if (name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase))
            {
                ReadZip(stream, collector, budget, cancel);
            }
            else if (name.EndsWith(".tar", StringComparison.OrdinalIgnoreCase))
            {
                ReadTar(stream, collector, budget);
            }
            else
            {
                using var unpacked = new GZipStream(stream, CompressionMode.Decompress, leaveOpen: true);
                ReadTar(unpacked, collector, budget);
            }
        }
        catch (Exception e) when (e is not (SourceException or OperationCanceledException or OutOfMemoryException))
        {
            // The platform's readers have many ways to say that what they read makes no sense.
            throw new SourceException($"{Path.GetFileName(name)}: not a readable archive ({e.Message})", e);
        }
    }

    private static void ReadZip(Stream stream, SourceCollector collector, ExtractionQuota budget, CancellationToken cancel)
    {
        ZipDirectory.Check(stream, collector.Limits, cancel);
        using var zip = new ZipArchive(stream, ZipArchiveMode.Read, leaveOpen: true);
        foreach (var entry in zip.Entries)
        {
            budget.CountEntry();
            if (entry.FullName.EndsWith('/'))
            {
                continue;
            }

            // The upper half of the external attributes holds the Unix mode; 0xA000 marks a symbolic link.
            if (((entry.ExternalAttributes >> 16) & 0xF000) == 0xA000)
            {
                collector.Skip(entry.FullName, SkipReason.SymbolicLink);
            }
            else if (collector.Wants(entry.FullName, entry.Length))
            {
                if (entry.IsEncrypted)
                {
                    collector.Skip(entry.FullName, SkipReason.Encrypted);
                }
                else
                {
                    AddEntry(entry, collector, budget);
                }
            }
        }
    }

    private static void AddEntry(ZipArchiveEntry entry, SourceCollector collector, ExtractionQuota budget)
    {
        byte[]? content;
        try
        {
            using var stream = entry.Open();
            content = ReadBounded(entry.FullName, stream, collector, budget);
        }
        catch (InvalidDataException e)
        {
            collector.Skip(entry.FullName, SkipReason.Damaged, e.Message);
            return;
        }

        // The platform's reader does not compare what it unpacked with the checksum.
        if (content is not null && Crc32.HashToUInt32(content) != entry.Crc32)
        {
            collector.Skip(entry.FullName, SkipReason.Damaged, "its checksum is another");
        }
        else if (content is not null)
        {
            collector.Add(entry.FullName, content);
        }
    }

    private static void ReadTar(Stream stream, SourceCollector collector, ExtractionQuota budget)
    {
        using var counted = new BoundedStream(stream, budget);
        using var guarded = new TarGuard(counted, collector.Limits);
        using var tar = new TarReader(guarded, leaveOpen: true);
        while (tar.GetNextEntry() is { } entry)
        {
            budget.CountEntry();
            var name = entry.Name.StartsWith("./", StringComparison.Ordinal) ? entry.Name[2..] : entry.Name;
            switch (entry.EntryType)
            {
                case TarEntryType.RegularFile or TarEntryType.V7RegularFile or TarEntryType.ContiguousFile:
                    if (collector.Wants(name, entry.Length) && (entry.DataStream is { } data ? ReadBounded(name, data, collector, null) : []) is { } content)
                    {
                        collector.Add(name, content);
                    }

                    break;
                case TarEntryType.SymbolicLink or TarEntryType.HardLink:
                    collector.Skip(name, SkipReason.SymbolicLink);
                    break;
                case TarEntryType.Fifo or TarEntryType.CharacterDevice or TarEntryType.BlockDevice or TarEntryType.SparseFile:
                    collector.Skip(name, SkipReason.NoFile);
                    break;
            }
        }
    }

    /// <summary>The content of an entry; null if it is larger than a file may be, which is noted.</summary>
    private static byte[]? ReadBounded(string path, Stream content, SourceCollector collector, ExtractionQuota? budget)
    {
        // The size in the archive's directory is a claim; read no more than the limit whatever it says.
        using var memory = new MemoryStream();
        var buffer = new byte[BufferBytes];
        int read;
        while ((read = content.Read(buffer, 0, buffer.Length)) > 0)
        {
            budget?.Spend(read);
            memory.Write(buffer, 0, read);
            if (memory.Length > collector.Limits.MaxFileBytes)
            {
                collector.Skip(path, SkipReason.TooLarge, "larger than its archive says");
                return null;
            }
        }

        return memory.ToArray();
    }
}
