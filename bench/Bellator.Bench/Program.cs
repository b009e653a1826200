using System.Diagnostics;
using System.Globalization;
using Bellator.Core.Auditing;
using Bellator.Core.Parsing;
using Bellator.Core.Sources;

// Compares a whole audit with only parsing the same files, on the same threads. Each is done three times and the best counts:
// the first warms up the runtime's compiler, which is not what is measured.
if (args.Length == 0)
{
    Console.Error.WriteLine("bench: name one or more folders");
    return 2;
}

if (args[0] == "--again")
{
    AgainBench.Run(args.Skip(1));
    return 0;
}

const int Rounds = 3;
var threads = Environment.ProcessorCount;
Console.WriteLine("folder | files | lines | parse s | lines/s parsed | audit s | lines/s audited | audit : parse | reading s | GC s | MiB | opaque %");
Console.WriteLine("---|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:");
foreach (var folder in args)
{
    var tree = SourceLoader.Load(folder, SourceLimits.Default);
    var parse = Best(() => ParseAll(tree, threads));
    AuditResult result = null!;
    var paused = GC.GetTotalPauseDuration();
    var audit = Best(() => result = Audit.Run(tree, new AuditOptions { Threads = threads }));
    var pause = (GC.GetTotalPauseDuration() - paused).TotalSeconds / Rounds;
    var memory = Process.GetCurrentProcess().PeakWorkingSet64 / 1024.0 / 1024;
    Console.WriteLine(string.Create(
        CultureInfo.InvariantCulture,
        $"{Path.GetFileName(Path.TrimEndingDirectorySeparator(folder))} | {tree.Files.Count} | {tree.LineCount} | {parse:0.00} | {tree.LineCount / parse:0} | {audit:0.00} | {tree.LineCount / audit:0} | {audit / parse:0.0} | {result.Figures.ParseTime.TotalSeconds:0.00} | {pause:0.00} | {memory:0} | {100.0 * result.Figures.OpaqueNodes / Math.Max(1, result.Figures.Nodes):0.0000}"));
}

return 0;

static double Best(Action action)
{
    var best = double.MaxValue;
    for (var round = 0; round < Rounds; round++)
    {
        var watch = Stopwatch.StartNew();
        action();
        best = Math.Min(best, watch.Elapsed.TotalSeconds);
    }

    return best;
}

static void ParseAll(SourceTree tree, int threads)
{
    var next = -1;
    var workers = Enumerable.Range(0, threads).Select(_ => new Thread(() =>
    {
        using var parser = new SyntaxParser();
        int index;
        while ((index = Interlocked.Increment(ref next)) < tree.Files.Count)
        {
            parser.Parse(tree.Files[index])?.Dispose();
        }
    })).ToList();
    workers.ForEach(w => w.Start());
    workers.ForEach(w => w.Join());
}
