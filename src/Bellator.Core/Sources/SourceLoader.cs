using System.Formats.Tar;
using System.IO.Compression;

namespace Bellator.Core.Sources;

/// <summary>Reads a folder, a .zip, .tar, .tar.gz/.tgz, or a single file into a source tree. Archives are read in memory; nothing is unpacked to disk.</summary>
public static class SourceLoader
{
    /// <exception cref="SourceException">The path is missing, unreadable, or an archive that is broken or hostile as a whole.</exception>
    public static SourceTree Load(string path, SourceLimits limits, CancellationToken cancel = default)
    {
        try
        {
            var collector = new SourceCollector(limits);
            if (Directory.Exists(path))
            {
                ReadFolder(new DirectoryInfo(path), "", collector, cancel);
            }
            else if (!File.Exists(path))
            {
                throw new SourceException($"{path}: no such file or folder");
            }
            else if (IsArchive(path))
            {
                using var stream = File.OpenRead(path);
                ReadArchive(path, stream, collector, cancel);
            }
            else
            {
                var info = new FileInfo(path);
                if (info.Length > limits.MaxFileBytes)
                {
                    throw new SourceException($"{path}: larger than {limits.MaxFileBytes} bytes");
                }

                collector.Add(info.Name, File.ReadAllBytes(path));
            }

            return collector.Build(Path.GetFileName(Path.TrimEndingDirectorySeparator(Path.GetFullPath(path))));
        }
        catch (UnauthorizedAccessException e)
        {
            throw new SourceException($"{path}: {e.Message}", e);
        }
        catch (IOException e) when (e is not EndOfStreamException)
        {
            throw new SourceException($"{path}: {e.Message}", e);
        }
    }

    public static bool IsArchive(string name) =>
        name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase) || name.EndsWith(".tar", StringComparison.OrdinalIgnoreCase)
        || name.EndsWith(".tar.gz", StringComparison.OrdinalIgnoreCase) || name.EndsWith(".tgz", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads an archive from a seekable stream.</summary>
    /// <exception cref="SourceException">Not an archive of the kind its name says, or one that unpacks beyond the limits.</exception>
    public static void ReadArchive(string name, Stream stream, SourceCollector collector, CancellationToken cancel = default)
    {
        try
        {
            if (name.EndsWith(".zip", StringComparison.OrdinalIgnoreCase))
            {
                ReadZip(stream, collector, cancel);
            }
            else if (name.EndsWith(".tar", StringComparison.OrdinalIgnoreCase))
            {
                ReadTar(stream, stream.Length, collector, cancel);
            }
            else
            {
                using var unpacked = new GZipStream(stream, CompressionMode.Decompress, leaveOpen: true);
                ReadTar(unpacked, stream.Length, collector, cancel);
            }
        }
        catch (Exception e) when (e is InvalidDataException or EndOfStreamException or FormatException or NotSupportedException)
        {
            throw new SourceException($"{Path.GetFileName(name)}: not a readable archive ({e.Message})", e);
        }
    }

    private static void ReadFolder(DirectoryInfo folder, string prefix, SourceCollector collector, CancellationToken cancel)
    {
        cancel.ThrowIfCancellationRequested();
        foreach (var entry in folder.EnumerateFileSystemInfos().OrderBy(e => e.Name, StringComparer.Ordinal))
        {
            var path = prefix + entry.Name;
            if (entry.LinkTarget is not null)
            {
                collector.Skip(path, SkipReason.SymbolicLink);
            }
            else if (entry is DirectoryInfo child)
            {
                if (SkipRules.FolderReason(entry.Name, collector.Limits) is { } reason)
                {
                    collector.Skip(path + "/", reason);
                }
                else if (path.Count(c => c == '/') < collector.Limits.MaxPathDepth)
                {
                    ReadFolder(child, path + "/", collector, cancel);
                }
            }
            else if (entry is FileInfo file && collector.Wants(path, file.Length))
            {
                ReadFile(file, path, collector);
            }
        }
    }

    private static void ReadFile(FileInfo file, string path, SourceCollector collector)
    {
        try
        {
            collector.Add(path, File.ReadAllBytes(file.FullName));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            collector.Skip(path, SkipReason.Unreadable, e.Message);
        }
    }

    private static void ReadZip(Stream stream, SourceCollector collector, CancellationToken cancel)
    {
        using var zip = new ZipArchive(stream, ZipArchiveMode.Read, leaveOpen: true);
        var budget = new Budget(stream.Length, collector.Limits);
        foreach (var entry in zip.Entries)
        {
            cancel.ThrowIfCancellationRequested();
            budget.CountEntry();
            if (entry.FullName.EndsWith('/'))
            {
                continue;
            }

            // The upper half of the external attributes holds the Unix mode; 0xA000 marks a symbolic link.
            if (((entry.ExternalAttributes >> 16) & 0xF000) == 0xA000)
            {
                collector.Skip(entry.FullName, SkipReason.SymbolicLink);
                continue;
            }

            if (collector.Wants(entry.FullName, entry.Length))
            {
                using var content = entry.Open();
                AddBounded(entry.FullName, content, collector, budget);
            }
        }
    }

    private static void ReadTar(Stream stream, long packedLength, SourceCollector collector, CancellationToken cancel)
    {
        var budget = new Budget(packedLength, collector.Limits);
        using var counted = new BoundedStream(stream, budget);
        using var tar = new TarReader(counted, leaveOpen: true);
        while (tar.GetNextEntry() is { } entry)
        {
            cancel.ThrowIfCancellationRequested();
            budget.CountEntry();
            var name = entry.Name.StartsWith("./", StringComparison.Ordinal) ? entry.Name[2..] : entry.Name;
            switch (entry.EntryType)
            {
                case TarEntryType.RegularFile or TarEntryType.V7RegularFile or TarEntryType.ContiguousFile:
                    if (collector.Wants(name, entry.Length) && entry.DataStream is { } data)
                    {
                        AddBounded(name, data, collector, null);
                    }
                    else if (entry.Length == 0 && collector.PathFault(name) is null && SkipRules.PathReason(name, collector.Limits) is null)
                    {
                        collector.Add(name, []);
                    }

                    break;
                case TarEntryType.SymbolicLink or TarEntryType.HardLink:
                    collector.Skip(name, SkipReason.SymbolicLink);
                    break;
            }
        }
    }

    private static void AddBounded(string path, Stream content, SourceCollector collector, Budget? budget)
    {
        // The size in the archive's directory is a claim; read no more than the limit whatever it says.
        using var memory = new MemoryStream();
        var buffer = new byte[81920];
        int read;
        while ((read = content.Read(buffer, 0, buffer.Length)) > 0)
        {
            budget?.Spend(read);
            memory.Write(buffer, 0, read);
            if (memory.Length > collector.Limits.MaxFileBytes)
            {
                collector.Skip(path, SkipReason.TooLarge, "larger than its archive says");
                return;
            }
        }

        collector.Add(path, memory.ToArray());
    }
}
