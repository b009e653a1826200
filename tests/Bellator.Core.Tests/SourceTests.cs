using System.Formats.Tar;
using System.IO.Compression;
using System.Text;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Taking in folders and archives, friendly and hostile.</summary>
public sealed class SourceTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-sources").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public void What_is_left_out_of_a_folder_is_listed_with_its_reason()
    {
        Write("src/a.php", "<?php");
        Write("node_modules/x/index.js", "x");
        Write("public/app.min.js", "x");
        Write("tests/a.php", "<?php");
        Write("notes.txt", "x");
        Write("data.js", "a\0b");
        Write("big.js", new string('a', 3 * 1024 * 1024));
        Write("packed.js", "var a=1;" + new string('x', 9000));
        File.CreateSymbolicLink(Path.Combine(_folder, "passwd.php"), "/etc/passwd");
        var tree = SourceLoader.Load(_folder, SourceLimits.Default);
        Assert.Equal(["src/a.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(
            [("big.js", SkipReason.TooLarge), ("data.js", SkipReason.Binary), ("node_modules/", SkipReason.Vendored), ("notes.txt", SkipReason.UnknownLanguage), ("packed.js", SkipReason.Minified), ("passwd.php", SkipReason.SymbolicLink), ("public/app.min.js", SkipReason.Minified), ("tests/", SkipReason.Test)],
            tree.Skipped.Select(s => (s.Path, s.Reason)).OrderBy(s => s.Path, StringComparer.Ordinal));
    }

    [Theory]
    [InlineData("../evil.php")]
    [InlineData("/etc/evil.php")]
    [InlineData("a/../../evil.php")]
    [InlineData("a\\..\\evil.php")]
    [InlineData("C:evil.php")]
    [InlineData("a/./b.php")]
    [InlineData("a\nb.php")]
    public void Paths_that_leave_their_folder_are_refused(string path)
    {
        var tree = FromZip((path, "<?php evil();"), ("good.php", "<?php good();"));
        Assert.Equal(["good.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(SkipReason.UnsafePath, Assert.Single(tree.Skipped).Reason);
    }

    [Fact]
    public void An_archive_bomb_is_refused()
    {
        var zeros = new byte[1024 * 1024];
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            for (var i = 0; i < 60; i++)
            {
                using var entry = zip.CreateEntry($"f{i}.php", CompressionLevel.SmallestSize).Open();
                entry.Write(zeros);
            }
        }

        stream.Position = 0;
        var refused = Assert.Throws<SourceException>(() => ArchiveReader.Read("a.zip", stream, new SourceCollector(SourceLimits.Default)));
        Assert.Contains("archive bomb", refused.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_packed_tar_bomb_is_refused_even_in_files_that_nobody_wants()
    {
        using var stream = new MemoryStream();
        using (var gzip = new GZipStream(stream, CompressionLevel.SmallestSize, leaveOpen: true))
        using (var tar = new TarWriter(gzip))
        {
            tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, "big.bin") { DataStream = new MemoryStream(new byte[64 * 1024 * 1024]) });
        }

        stream.Position = 0;
        Assert.Throws<SourceException>(() => ArchiveReader.Read("a.tar.gz", stream, new SourceCollector(SourceLimits.Default)));
    }

    [Fact]
    public void Links_in_archives_are_left_out()
    {
        using var stream = new MemoryStream();
        using (var tar = new TarWriter(stream, leaveOpen: true))
        {
            tar.WriteEntry(new PaxTarEntry(TarEntryType.SymbolicLink, "link.php") { LinkName = "/etc/passwd" });
            tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, "./a.php") { DataStream = new MemoryStream("<?php"u8.ToArray()) });
        }

        stream.Position = 0;
        var collector = new SourceCollector(SourceLimits.Default);
        ArchiveReader.Read("a.tar", stream, collector);
        var tree = collector.Build("a");
        Assert.Equal("a.php", Assert.Single(tree.Files).Path);
        Assert.Equal(SkipReason.SymbolicLink, Assert.Single(tree.Skipped).Reason);
    }

    [Fact]
    public void A_broken_archive_is_a_clear_error()
    {
        using var stream = new MemoryStream("not a zip"u8.ToArray());
        var refused = Assert.Throws<SourceException>(() => ArchiveReader.Read("a.zip", stream, new SourceCollector(SourceLimits.Default)));
        Assert.Contains("not a readable archive", refused.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Other_encodings_become_utf8()
    {
        File.WriteAllText(Path.Combine(_folder, "a.php"), "<?php 'é';", Encoding.Unicode);
        File.WriteAllText(Path.Combine(_folder, "b.php"), "<?php 'é';", new UTF8Encoding(true));
        Assert.All(SourceLoader.Load(_folder, SourceLimits.Default).Files, f => Assert.Equal("<?php 'é';", Encoding.UTF8.GetString(f.Content)));
    }

    private static SourceTree FromZip(params (string Path, string Text)[] files)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, text) in files)
            {
                using var entry = zip.CreateEntry(path).Open();
                entry.Write(Encoding.UTF8.GetBytes(text));
            }
        }

        stream.Position = 0;
        var collector = new SourceCollector(SourceLimits.Default);
        ArchiveReader.Read("a.zip", stream, collector);
        return collector.Build("a");
    }

    private void Write(string path, string text)
    {
        var full = Path.Combine(_folder, path);
        Directory.CreateDirectory(Path.GetDirectoryName(full)!);
        File.WriteAllText(full, text);
    }
}
