using System.Formats.Tar;
using System.IO.Compression;
using System.Text;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Tables;
using Bellator.Passwords;
using Bellator.Text;

namespace Bellator.Fuzz;

/// <summary>One input, as the target of its kind takes it.</summary>
/// <param name="Kind">The ending of a code file, or sql, hash, facts, zip, tar.</param>
public sealed record FuzzInput(string Kind, byte[] Content)
{
    public string Text => Encoding.UTF8.GetString(Content);
}

/// <summary>What reads material from strangers, each to be given anything. A target returns null, or what went wrong.</summary>
public static class Targets
{
    /// <summary>An input of usual size takes milliseconds; the slowest known, a chain of a thousand members, four seconds of an idle machine.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(60);

    /// <summary>Runs an input on a thread of its own, so that one that never ends is noticed.</summary>
    public static string? Run(IReadOnlyList<FuzzInput> inputs)
    {
        string? fault = null;
        var thread = new Thread(() => fault = Do(inputs), 256 * 1024 * 1024) { IsBackground = true };
        thread.Start();
        return thread.Join(Patience * Math.Max(1, inputs.Count / 10)) ? fault : "it did not come to an end";
    }

    private static string? Do(IReadOnlyList<FuzzInput> inputs)
    {
        try
        {
            return inputs[0].Kind switch
            {
                "sql" => Sql(inputs),
                "hash" => Hash(inputs),
                "facts" => Facts(inputs),
                "zip" or "tar" or "tar.gz" => Archive(inputs),
                _ => Code(inputs),
            };
        }
        catch (Exception e)
        {
            return $"{e.GetType().Name}: {e.Message} {e.StackTrace?.Split('\n').FirstOrDefault()?.Trim()}";
        }
    }

    private static string? Code(IReadOnlyList<FuzzInput> inputs)
    {
        var files = inputs.Select((input, i) => new SourceFile($"f{i}.{input.Kind}", input.Content, Languages.Detect($"f{i}.{input.Kind}", input.Content))).Where(f => f.Language != Language.Unknown).ToList();
        var result = AuditPipeline.Run(new SourceTree("fuzz", files, []), new AuditOptions { Threads = 1 });
        return result.Notes.FirstOrDefault(n => n.Text.Contains("internal error", StringComparison.Ordinal)) is { } note ? $"{note.Path}: {note.Text}" : null;
    }

    private static string? Sql(IReadOnlyList<FuzzInput> inputs)
    {
        foreach (var input in inputs)
        {
            DdlReader.Read(new DatabaseSchema(), 0, input.Text);
        }

        return Code([.. inputs.Select(i => i with { Kind = "sql" })]);
    }

    private static string? Hash(IReadOnlyList<FuzzInput> inputs)
    {
        foreach (var line in inputs.SelectMany(i => i.Text.Split('\n')).Take(200))
        {
            foreach (var reading in SchemeList.Identify(line.Trim()))
            {
                reading.Scheme.Rate(reading);
                _ = PasswordTable.TitleOf(reading);
                if (!reading.Scheme.IsTooDear(reading) && reading.Kind != HashKind.Slow)
                {
                    reading.Scheme.Verify(reading, "x");
                }
            }
        }

        try
        {
            var columns = PasswordCsv.Columns(inputs[0].Text);
            PasswordTable.Of(columns.Count > 0 ? PasswordCsv.Read(inputs[0].Text, columns[0], null) : PasswordCsv.Lines(inputs[0].Text));
        }
        catch (PasswordCsvException)
        {
            // A clear error.
        }

        return null;
    }

    private static string? Facts(IReadOnlyList<FuzzInput> inputs)
    {
        var folder = Directory.CreateTempSubdirectory("bellator-fuzz").FullName;
        try
        {
            File.WriteAllBytes(Path.Combine(folder, "a.yaml"), inputs[0].Content);
            LibraryModels.Load(folder);
        }
        catch (LibraryModelException)
        {
            // A clear error.
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }

        return null;
    }

    private static string? Archive(IReadOnlyList<FuzzInput> inputs)
    {
        foreach (var input in inputs)
        {
            var before = GC.GetAllocatedBytesForCurrentThread();
            try
            {
                ArchiveReader.Read("a." + input.Kind, new MemoryStream(input.Content), new SourceCollector(SourceLimits.Default));
            }
            catch (SourceException)
            {
                // A clear error.
            }

            if (GC.GetAllocatedBytesForCurrentThread() - before > 300_000_000)
            {
                return "it took more than 300 MB of memory";
            }
        }

        return null;
    }

    /// <summary>An archive to begin with.</summary>
    public static byte[] SampleArchive(string kind)
    {
        using var stream = new MemoryStream();
        if (kind == "zip")
        {
            using var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true);
            foreach (var name in new[] { "a.php", "b/c.js", "d.sql" })
            {
                using var entry = zip.CreateEntry(name).Open();
                entry.Write(Encoding.UTF8.GetBytes($"<?php f('{name}');\n"));
            }
        }
        else
        {
            using var packed = kind == "tar.gz" ? new GZipStream(stream, CompressionLevel.Fastest, leaveOpen: true) : (Stream)stream;
            using var tar = new TarWriter(packed, leaveOpen: true);
            tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, new string('n', 120) + "/a.php") { DataStream = new MemoryStream("<?php f();"u8.ToArray()) });
            tar.WriteEntry(new GnuTarEntry(TarEntryType.RegularFile, new string('m', 120) + "/b.php") { DataStream = new MemoryStream("<?php g();"u8.ToArray()) });
        }

        return stream.ToArray();
    }
}
