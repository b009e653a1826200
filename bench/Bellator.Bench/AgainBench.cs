using System.Diagnostics;
using System.Globalization;
using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

/// <summary>
/// Measures an audit that is repeated after one file was changed, against the first one, for a spread of files: the middle and the
/// slowest of them, and whether the results are those of a whole audit.
/// </summary>
internal static class AgainBench
{
    private const int Changes = 12;

    public static void Run(IEnumerable<string> folders)
    {
        Console.WriteLine("folder | lines | first s | again s, middle | again s, slowest | middle : first | slowest : first | visits repeated % | MiB | identical");
        Console.WriteLine("---|---:|---:|---:|---:|---:|---:|---:|---:|---");
        foreach (var folder in folders)
        {
            var tree = SourceLoader.Load(folder, SourceLimits.Default);
            if (tree.Files.Count == 0)
            {
                Console.Error.WriteLine($"bench: nothing in {folder} can be audited");
                continue;
            }

            var memory = new AuditCache();
            var options = new AuditOptions();
            AuditPipeline.Run(tree, options);
            var watch = Stopwatch.StartNew();
            AuditPipeline.Run(tree, options);
            var first = watch.Elapsed.TotalSeconds;
            AuditPipeline.Run(tree, options with { Memory = memory });
            var times = new List<double>();
            var repeated = new List<double>();
            var identical = true;
            for (var i = 0; i < Changes; i++)
            {
                var changed = Changed(tree, i * tree.Files.Count / Changes, i);
                watch.Restart();
                var result = AuditPipeline.Run(changed, options with { Memory = memory });
                times.Add(watch.Elapsed.TotalSeconds);
                repeated.Add(100.0 * memory.Reused.Visits / Math.Max(1, memory.Analyses));
                if (Environment.GetEnvironmentVariable("BELLATOR_BENCH_DETAIL") is not null)
                {
                    Console.Error.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{changed.Files[i * tree.Files.Count / Changes].Path}: {times[^1]:0.00} s, {memory.Reused.Files} files and {memory.Reused.Visits} of {memory.Analyses} visits reused"));
                }

                if (i % 4 == 0)
                {
                    var again = JsonReport.Write(Timeless(result), "");
                    var whole = JsonReport.Write(Timeless(AuditPipeline.Run(changed, options)), "");
                    identical &= again == whole;
                    if (again != whole && Environment.GetEnvironmentVariable("BELLATOR_BENCH_DETAIL") is not null)
                    {
                        var at = Enumerable.Range(0, Math.Min(again.Length, whole.Length)).FirstOrDefault(k => again[k] != whole[k]);
                        Console.Error.WriteLine($"repeated: {again[Math.Max(0, at - 600)..Math.Min(again.Length, at + 300)]}\nwhole: {whole[Math.Max(0, at - 300)..Math.Min(whole.Length, at + 300)]}");
                    }
                }

                tree = changed;
            }

            times.Sort();
            var megabytes = Process.GetCurrentProcess().PeakWorkingSet64 / 1024.0 / 1024;
            Console.WriteLine(string.Create(
                CultureInfo.InvariantCulture,
                $"{Path.GetFileName(Path.TrimEndingDirectorySeparator(folder))} | {tree.LineCount} | {first:0.00} | {times[Changes / 2]:0.00} | {times[^1]:0.00} | {times[Changes / 2] / first:0.00} | {times[^1] / first:0.00} | {repeated.Average():0.0} | {megabytes:0} | {(identical ? "yes" : "NO")}"));
        }
    }

    private static AuditResult Timeless(AuditResult result) => result with { Figures = result.Figures with { ParseTime = default, TotalTime = default } };

    /// <summary>The tree after a comment was put near the top of one file, so that everything below moves.</summary>
    private static SourceTree Changed(SourceTree tree, int index, int number)
    {
        var file = tree.Files[index];
        var text = Encoding.UTF8.GetString(file.Content);
        var line = text.IndexOf('\n', StringComparison.Ordinal) + 1;
        var comment = file.Language is Language.Python or Language.Ruby ? $"# changed {number}\n" : $"// changed {number}\n";
        var files = tree.Files.ToArray();
        files[index] = new SourceFile(file.Path, Encoding.UTF8.GetBytes(text[..line] + comment + text[line..]), file.Language);
        return new SourceTree(tree.Name, files, tree.Skipped);
    }
}
