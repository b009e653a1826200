namespace Bellator.Text;

/// <summary>Reads a folder, an archive or a single file into a source tree.</summary>
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
                ReadFolder(path, collector, cancel);
            }
            else if (!File.Exists(path))
            {
                throw new SourceException($"{path}: no such file or folder");
            }
            else if (!FileKind.IsRegular(path, follow: true))
            {
                throw new SourceException($"{path}: neither a file nor a folder");
            }
            else if (ArchiveReader.IsArchive(path))
            {
                using var stream = File.OpenRead(path);
                ArchiveReader.Read(path, stream, collector, cancel);
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

    private static void ReadFolder(string root, SourceCollector collector, CancellationToken cancel)
    {
        // Folders wait their turn in a list: how deep they lie costs no stack.
        var waiting = new Stack<(DirectoryInfo Folder, string Prefix)>();
        waiting.Push((new DirectoryInfo(root), ""));
        while (waiting.TryPop(out var next))
        {
            cancel.ThrowIfCancellationRequested();
            FileSystemInfo[] entries;
            try
            {
                entries = next.Folder.GetFileSystemInfos();
            }
            catch (Exception e) when (next.Prefix.Length > 0 && e is IOException or UnauthorizedAccessException)
            {
                collector.Skip(next.Prefix, SkipReason.Unreadable, Reason(e));
                continue;
            }

            foreach (var entry in entries.OrderBy(e => e.Name, StringComparer.Ordinal))
            {
                var path = next.Prefix + entry.Name;
                try
                {
                    if (Read(entry, path, collector) is { } child)
                    {
                        waiting.Push((child, path + "/"));
                    }
                }
                catch (Exception e) when (e is IOException or UnauthorizedAccessException)
                {
                    // Names that are no text come with a sign in the place of what could not be read; no file has that name.
                    collector.Skip(path, SkipReason.Unreadable, path.Contains('\uFFFD', StringComparison.Ordinal) ? "its name is not UTF-8" : Reason(e));
                }
            }
        }
    }

    /// <summary>The system's reason, without the path: that is said beside it.</summary>
    private static string Reason(Exception e) => e is UnauthorizedAccessException ? "no permission" : e is FileNotFoundException or DirectoryNotFoundException ? "it was there a moment ago" : e.Message;

    /// <returns>A folder that is to be read too.</returns>
    private static DirectoryInfo? Read(FileSystemInfo entry, string path, SourceCollector collector)
    {
        if (entry.LinkTarget is not null)
        {
            collector.Skip(path, SkipReason.SymbolicLink);
        }
        else if (entry is DirectoryInfo folder)
        {
            if (SkipRules.FolderReason(entry.Name, collector.Limits) is { } reason)
            {
                collector.Skip(path + "/", reason);
            }
            else if (path.Count(c => c == '/') + 1 >= collector.Limits.MaxPathDepth)
            {
                collector.Skip(path + "/", SkipReason.LimitReached, $"it lies deeper than {collector.Limits.MaxPathDepth} folders");
            }
            else
            {
                return folder;
            }
        }
        else if (entry is FileInfo file && collector.Wants(path, file.Length))
        {
            if (file.Length == 0 && !FileKind.IsRegular(file.FullName))
            {
                // Pipes, sockets and devices have no length; opening one may never come back.
                collector.Skip(path, path.Contains('\uFFFD', StringComparison.Ordinal) ? SkipReason.Unreadable : SkipReason.NoFile);
            }
            else
            {
                collector.Add(path, File.ReadAllBytes(file.FullName));
            }
        }

        return null;
    }
}
