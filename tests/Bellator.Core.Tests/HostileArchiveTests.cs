using System.Buffers.Binary;
using System.Diagnostics;
using System.Formats.Tar;
using System.IO.Compression;
using System.Text;
using Bellator.Text;

namespace Bellator.Core.Tests;

/// <summary>Archives and folders that were made to do harm or to hide something: refused as a whole, or listed by name.</summary>
public sealed class HostileArchiveTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-hostile").FullName;

    /// <summary>The platform's library cannot delete what it cannot name.</summary>
    public void Dispose() => Run("rm", "-rf", _folder);

    [Fact]
    public void Entries_that_lie_over_each_other_are_refused()
    {
        // The second entry's place in the directory is set to that of the first: one stretch of the file is unpacked twice.
        var zip = Zip(("a.php", "<?php one();"), ("b.php", "<?php two();"));
        var second = Find(zip, 0x02014b50, Find(zip, 0x02014b50, 0) + 1);
        BinaryPrimitives.WriteUInt32LittleEndian(zip.AsSpan(second + 42), 0);
        Assert.Contains("lie over each other", Refused("a.zip", zip).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_directory_that_is_cut_off_or_points_nowhere_is_a_clear_error()
    {
        var zip = Zip(("a.php", "<?php one();"));
        for (var length = 0; length < zip.Length; length += 3)
        {
            Assert.Contains("not a readable archive", Refused("a.zip", zip[..length]).Message, StringComparison.Ordinal);
        }

        var end = Find(zip, 0x06054b50, 0);
        BinaryPrimitives.WriteUInt32LittleEndian(zip.AsSpan(end + 16), 0x7fffffff);
        Refused("a.zip", zip);
    }

    [Fact]
    public void More_entries_than_the_limit_are_refused_before_any_is_read()
    {
        var collector = new SourceCollector(SourceLimits.Default with { MaxArchiveEntries = 2 });
        var zip = Zip(("a.php", "1"), ("b.php", "2"), ("c.php", "3"));
        Assert.Contains("more than 2 entries", Assert.Throws<SourceException>(() => ArchiveReader.Read("a.zip", new MemoryStream(zip), collector)).Message, StringComparison.Ordinal);
        Assert.Equal(0, collector.FileCount);
    }

    [Fact]
    public void Encrypted_entries_are_listed_and_not_taken_for_source()
    {
        var zip = Zip(("a.php", "<?php one();"), ("b.php", "<?php two();"));
        zip[Find(zip, 0x02014b50, 0) + 8] |= 1;
        zip[Find(zip, 0x04034b50, 0) + 6] |= 1;
        var tree = Taken("a.zip", zip);
        Assert.Equal(["b.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(("a.php", SkipReason.Encrypted), Listed(tree));
    }

    [Fact]
    public void An_entry_whose_checksum_is_wrong_is_listed()
    {
        var zip = Zip(("a.php", "<?php one();"), ("b.php", "<?php two();"));
        zip[zip.AsSpan().IndexOf("one()"u8)] = (byte)'0';
        var tree = Taken("a.zip", zip);
        Assert.Equal(["b.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(("a.php", SkipReason.Damaged), Listed(tree));
    }

    [Fact]
    public void Of_two_entries_with_one_path_the_second_is_listed()
    {
        var tree = Taken("a.zip", Zip(("a.php", "<?php one();"), ("a.php", "<?php two();"), ("b.php", "<?php three();")));
        Assert.Equal(["a.php", "b.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(("a.php", SkipReason.SamePath), Listed(tree));
    }

    [Theory]
    [InlineData(TarEntryType.LongPath)]
    [InlineData(TarEntryType.LongLink)]
    [InlineData(TarEntryType.ExtendedAttributes)]
    [InlineData(TarEntryType.GlobalExtendedAttributes)]
    public void A_name_of_hundreds_of_megabytes_is_refused_before_it_is_read(TarEntryType type)
    {
        // A header that announces the name, and nothing behind it: a reader that believes it would ask for the memory first.
        var header = new byte[512];
        Encoding.ASCII.GetBytes("././@LongLink").CopyTo(header, 0);
        Encoding.ASCII.GetBytes(Convert.ToString(590L * 1024 * 1024, 8).PadLeft(11, '0')).CopyTo(header, 124);
        header[156] = (byte)type;
        Encoding.ASCII.GetBytes("ustar  ").CopyTo(header, 257);
        header.AsSpan(148, 8).Fill((byte)' ');
        Encoding.ASCII.GetBytes(Convert.ToString(header.Sum(b => b), 8).PadLeft(6, '0') + "\0 ").CopyTo(header, 148);
        var before = GC.GetTotalAllocatedBytes();
        Assert.Contains("a name or properties", Refused("a.tar", header).Message, StringComparison.Ordinal);
        Assert.True(GC.GetTotalAllocatedBytes() - before < 50_000_000);
    }

    [Fact]
    public void Long_names_that_people_have_are_read()
    {
        var name = string.Join('/', Enumerable.Repeat(new string('n', 40), 6)) + "/a.php";
        using var stream = new MemoryStream();
        using (var tar = new TarWriter(stream, leaveOpen: true))
        {
            tar.WriteEntry(new PaxTarEntry(TarEntryType.RegularFile, name) { DataStream = new MemoryStream("<?php"u8.ToArray()) });
            tar.WriteEntry(new GnuTarEntry(TarEntryType.RegularFile, name + "b.php") { DataStream = new MemoryStream("<?php"u8.ToArray()) });
            tar.WriteEntry(new UstarTarEntry(TarEntryType.RegularFile, "c.php") { DataStream = new MemoryStream("<?php"u8.ToArray()) });
            tar.WriteEntry(new V7TarEntry(TarEntryType.V7RegularFile, "d.php"));
        }

        Assert.Equal(4, Taken("a.tar", stream.ToArray()).Files.Count);
    }

    [Fact]
    public void Reading_an_archive_ends_when_nobody_waits_for_it()
    {
        using var cancel = new CancellationTokenSource();
        cancel.Cancel();
        Assert.ThrowsAny<OperationCanceledException>(() => ArchiveReader.Read("a.zip", new MemoryStream(Zip(("a.php", "1"))), new SourceCollector(SourceLimits.Default), cancel.Token));
        var slow = new SourceCollector(SourceLimits.Default with { MaxArchiveTime = TimeSpan.FromMilliseconds(-1) });
        Assert.Contains("to unpack", Assert.Throws<SourceException>(() => ArchiveReader.Read("a.zip", new MemoryStream(Zip(("a.php", "1"))), slow)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void What_is_no_file_in_a_folder_is_listed_and_never_opened()
    {
        Run("mkfifo", Path.Combine(_folder, "pipe.php"));
        File.WriteAllText(Path.Combine(_folder, "a.php"), "<?php");
        File.WriteAllText(Path.Combine(_folder, "empty.php"), "");
        var tree = SourceLoader.Load(_folder, SourceLimits.Default);
        Assert.Equal(["a.php", "empty.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(("pipe.php", SkipReason.NoFile), Listed(tree));
        Assert.Contains("neither a file nor a folder", Assert.Throws<SourceException>(() => SourceLoader.Load(Path.Combine(_folder, "pipe.php"), SourceLimits.Default)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void A_name_that_is_no_text_is_listed()
    {
        Run("sh", "-c", $"printf '<?php' > \"{_folder}/caf$(printf '\\351').php\"; printf '<?php' > \"{_folder}/b.php\"");
        var tree = SourceLoader.Load(_folder, SourceLimits.Default);
        Assert.Equal(["b.php"], tree.Files.Select(f => f.Path));
        Assert.Equal(SkipReason.Unreadable, Assert.Single(tree.Skipped).Reason);
    }

    [Fact]
    public void Folders_below_the_greatest_depth_are_listed()
    {
        var deep = Path.Combine(_folder, string.Join('/', Enumerable.Repeat("d", 60)));
        Directory.CreateDirectory(deep);
        File.WriteAllText(Path.Combine(deep, "a.php"), "<?php");
        File.WriteAllText(Path.Combine(_folder, string.Join('/', Enumerable.Repeat("d", 38)), "b.php"), "<?php");
        var tree = SourceLoader.Load(_folder, SourceLimits.Default);
        Assert.Equal("b.php", Path.GetFileName(Assert.Single(tree.Files).Path));
        Assert.Equal(SkipReason.LimitReached, Assert.Single(tree.Skipped).Reason);
    }

    private static (string, SkipReason) Listed(SourceTree tree) => Assert.Single(tree.Skipped.Select(s => (s.Path, s.Reason)));

    private static SourceException Refused(string name, byte[] archive) => Assert.Throws<SourceException>(() => Taken(name, archive));

    private static SourceTree Taken(string name, byte[] archive)
    {
        var collector = new SourceCollector(SourceLimits.Default);
        ArchiveReader.Read(name, new MemoryStream(archive), collector);
        return collector.Build("a");
    }

    private static byte[] Zip(params (string Path, string Text)[] files)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, text) in files)
            {
                using var entry = zip.CreateEntry(path, CompressionLevel.NoCompression).Open();
                entry.Write(Encoding.UTF8.GetBytes(text));
            }
        }

        return stream.ToArray();
    }

    private static int Find(byte[] zip, uint sign, int from)
    {
        var bytes = new byte[4];
        BinaryPrimitives.WriteUInt32LittleEndian(bytes, sign);
        return from + zip.AsSpan(from).IndexOf(bytes);
    }

    private static void Run(string program, params string[] arguments)
    {
        using var process = Process.Start(program, arguments);
        process.WaitForExit();
        Assert.Equal(0, process.ExitCode);
    }
}
