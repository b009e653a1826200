using System.Diagnostics;
using System.Globalization;
using Bellator.Fuzz;

// bellator fuzz MINUTES [SEED [FOLDER…]]: without end in sight, until the time is up, beginning with the code of the folders too; each fault
// is written to a file of its own.
if (args.Length < 1 || args.Skip(2).Any(f => !Directory.Exists(f)) || !double.TryParse(args[0], NumberStyles.Float, CultureInfo.InvariantCulture, out var minutes) || minutes <= 0)
{
    Console.Error.WriteLine("usage: bellator fuzz MINUTES [SEED [FOLDER…]]");
    return 2;
}

var seed = args.Length > 1 && int.TryParse(args[1], CultureInfo.InvariantCulture, out var given) ? given : Environment.TickCount;
var home = Environment.GetEnvironmentVariable("BELLATOR_HOME") ?? Directory.GetCurrentDirectory();
var fuzzer = new Fuzzer(new Corpus(home, args.Skip(2)), seed);
var folder = Path.Combine(home, ".local", "fuzz");
var (made, faults, number) = (0L, 0, 0);
(TimeSpan Time, IReadOnlyList<FuzzInput> Inputs) slowest = (TimeSpan.Zero, []);
var gate = new object();
var watch = Stopwatch.StartNew();
Console.WriteLine($"seed {seed}");
var workers = Enumerable.Range(0, Environment.ProcessorCount).Select(_ => new Thread(Work)).ToList();
workers.ForEach(w => w.Start());
while (workers.Any(w => w.IsAlive))
{
    Thread.Sleep(TimeSpan.FromSeconds(5));
    Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{watch.Elapsed:hh\\:mm\\:ss}  {Interlocked.Read(ref made):N0} inputs, {faults} faults"));
}

if (slowest.Inputs.Count > 0)
{
    // What is slow for its size is the next thing to look at.
    Directory.CreateDirectory(folder);
    for (var i = 0; i < slowest.Inputs.Count; i++)
    {
        File.WriteAllBytes(Path.Combine(folder, $"slowest-{i}.{slowest.Inputs[i].Kind}"), slowest.Inputs[i].Content);
    }

    Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"the slowest batch took {slowest.Time.TotalSeconds:0.0} s: {folder}/slowest-*"));
}

Console.WriteLine(faults == 0 ? "no fault was found" : $"{faults} faults, in {folder}");
return faults == 0 ? 0 : 1;

void Work()
{
    while (watch.Elapsed < TimeSpan.FromMinutes(minutes))
    {
        var inputs = fuzzer.Make(Interlocked.Increment(ref number));
        var began = Stopwatch.GetTimestamp();
        var fault = Fuzzer.Try(inputs);
        lock (gate)
        {
            if (Stopwatch.GetElapsedTime(began) is var took && took > slowest.Time)
            {
                slowest = (took, inputs);
            }
        }

        Interlocked.Add(ref made, inputs.Count);
        if (fault is not null)
        {
            lock (gate)
            {
                Directory.CreateDirectory(folder);
                var path = Path.Combine(folder, $"{++faults}.{fault.Kind}");
                File.WriteAllBytes(path, fault.Content);
                Console.WriteLine($"{fault.Kind}: {fault.What}\n  {path}");
            }
        }
    }
}
