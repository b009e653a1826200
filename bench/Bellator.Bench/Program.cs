using System.Diagnostics;
using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Syntax.Parsing;
using Bellator.Text;

// Compares a whole audit with only parsing the same files, on the same threads, in turns, so that both meet the same machine. After
// one round to warm up the runtime's compiler, the best of each counts, and the middle one of the rounds' ratios.
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

const int Rounds = 5;
var threads = Environment.ProcessorCount;
Console.WriteLine("folder | files | lines | parse s | lines/s parsed | audit s | lines/s audited | audit : parse | reading s | GC s | MiB | opaque %");
Console.WriteLine("---|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:|---:");
foreach (var folder in args)
{
    var tree = SourceLoader.Load(folder, SourceLimits.Default);
    if (tree.Files.Count == 0)
    {
        Console.Error.WriteLine($"bench: nothing in {folder} can be audited");
        continue;
    }

    ParseAll(tree, threads);
    var result = AuditPipeline.Run(tree, new AuditOptions { Threads = threads });
    var rounds = new List<(double Parse, double Audit)>();
    var pause = TimeSpan.Zero;
    for (var round = 0; round < Rounds; round++)
    {
        var parsing = Seconds(() => ParseAll(tree, threads));
        var paused = GC.GetTotalPauseDuration();
        rounds.Add((parsing, Seconds(() => result = AuditPipeline.Run(tree, new AuditOptions { Threads = threads }))));
        pause += GC.GetTotalPauseDuration() - paused;
    }

    var (parse, audit) = (rounds.Min(r => r.Parse), rounds.Min(r => r.Audit));
    var ratio = rounds.Select(r => r.Audit / r.Parse).Order().ElementAt(Rounds / 2);
    var memory = Process.GetCurrentProcess().PeakWorkingSet64 / 1024.0 / 1024;
    Console.WriteLine(string.Create(
        CultureInfo.InvariantCulture,
        $"{Path.GetFileName(Path.TrimEndingDirectorySeparator(folder))} | {tree.Files.Count} | {tree.LineCount} | {parse:0.00} | {tree.LineCount / parse:0} | {audit:0.00} | {tree.LineCount / audit:0} | {ratio:0.0} | {result.Figures.ParseTime.TotalSeconds:0.00} | {pause.TotalSeconds / Rounds:0.00} | {memory:0} | {100.0 * result.Figures.OpaqueNodes / Math.Max(1, result.Figures.Nodes):0.0000}"));
}

return 0;

static double Seconds(Action action)
{
    var watch = Stopwatch.StartNew();
    action();
    return watch.Elapsed.TotalSeconds;
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
            if (tree.Files[index].Language is not (Language.Prisma or Language.Settings))
            {
                parser.Parse(tree.Files[index])?.Dispose();
            }
        }
    })).ToList();
    workers.ForEach(w => w.Start());
    workers.ForEach(w => w.Join());
}
