using Bellator.Text;

namespace Bellator.Cli;

/// <summary>Writes a report so that the one before it is there until the new one is complete.</summary>
internal static class OutputFile
{
    /// <param name="path">Null writes nothing.</param>
    /// <exception cref="UsageException">It cannot be written; what was there before is untouched.</exception>
    public static void Write(string? path, Func<string> content)
    {
        if (path is null)
        {
            return;
        }

        // A pipe or a terminal cannot be replaced, and has nothing to lose.
        var target = new FileInfo(path);
        string? beside = null;
        try
        {
            if (Path.Exists(path) && !FileKind.IsRegular(path, follow: true))
            {
                File.WriteAllText(path, content());
                return;
            }

            // A link stays one: what it points to is replaced.
            var full = target.LinkTarget is null ? target.FullName : target.ResolveLinkTarget(returnFinalTarget: true)!.FullName;
            beside = $"{full}.{Environment.ProcessId}.part";
            using (var stream = new FileStream(beside, FileMode.Create, FileAccess.Write))
            {
                using (var writer = new StreamWriter(stream, leaveOpen: true))
                {
                    writer.Write(content());
                }

                stream.Flush(flushToDisk: true);
            }

            File.Move(beside, full, overwrite: true);
            beside = null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{path}: cannot be written: {e.Message}");
        }
        finally
        {
            if (beside is not null)
            {
                TryDelete(beside);
            }
        }
    }

    private static void TryDelete(string path)
    {
        try
        {
            File.Delete(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            Console.Error.WriteLine($"bellator: {path} was left behind: {e.Message}");
        }
    }
}
