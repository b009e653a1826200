using System.Runtime;
using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Storage.Runs;
using Bellator.Text;
using Npgsql;

namespace Bellator.Web.Supervision;

/// <summary>What a helper process is asked.</summary>
/// <param name="Kind">open, audit, measure, verify, search or cancel.</param>
public sealed record HelperRequest(string Kind)
{
    public string? Worker { get; init; }

    public string? Scratch { get; init; }

    public ClaimedRun? Run { get; init; }

    public int Threads { get; init; } = 1;

    public string? Activity { get; init; }

    public BenchTask? Bench { get; init; }
}

/// <summary>The other end of <see cref="HelperProcess"/>.</summary>
public static class HelperProgram
{
    /// <summary>The argument that makes our program a helper.</summary>
    public const string Mode = "helper";

    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web);

    private static readonly TimeSpan ProgressInterval = TimeSpan.FromMilliseconds(200);
    private static readonly Lock Writing = new();

    public static int Run()
    {
        // Only answers go to the output: what anything else prints is an error's text.
        var output = new StreamWriter(Console.OpenStandardOutput()) { AutoFlush = true };
        Console.SetOut(Console.Error);
        var input = new StreamReader(Console.OpenStandardInput());
        using var kept = new KeptAudits(TimeProvider.System);
        NpgsqlDataSource? worker = null;
        string? scratch = null;
        CancellationTokenSource? stop = null;
        while (input.ReadLine() is { } line)
        {
            var request = JsonSerializer.Deserialize<HelperRequest>(line, Json)!;
            switch (request.Kind)
            {
                case "open":
                    worker = request.Worker is null ? null : NpgsqlDataSource.Create(request.Worker);
                    scratch = request.Scratch;
                    Answer(output, new { kind = "ready" });
                    break;
                case "cancel":
                    stop?.Cancel();
                    break;
                default:
                    var token = (stop = new CancellationTokenSource()).Token;
                    new Thread(() => Do(request, new RunContext(worker, scratch, kept, output, token))).Start();
                    break;
            }
        }

        // Whoever started this is gone or has no more to ask: nothing that still runs here is of use to anybody.
        Environment.Exit(0);
        return 0;
    }

    private sealed record RunContext(NpgsqlDataSource? Worker, string? Scratch, KeptAudits Kept, StreamWriter Output, CancellationToken Cancel);

    private static void Do(HelperRequest request, RunContext context)
    {
        object answer;
        try
        {
            answer = request.Kind == "audit" ? Audit(request, context) : Bench.Do(request.Bench!, p => Answer(context.Output, p), context.Cancel);
        }
        catch (OperationCanceledException) when (context.Cancel.IsCancellationRequested)
        {
            answer = new { kind = "end", state = "cancelled" };
        }
        catch (OutOfMemoryException)
        {
            answer = new { kind = "end", state = "memory" };
        }
        catch (NpgsqlException e)
        {
            answer = new { kind = "end", state = "away", error = e.Message };
        }
        catch (Exception e)
        {
            // What the material is to blame for is the run's end; a defect of ours may be met again only with one of its files.
            answer = new { kind = "end", state = e is SourceException ? "failed" : "broken", error = e is SourceException ? e.Message : $"{e.GetType().Name}: {e.Message}" };
            Console.Error.WriteLine(e);
        }

        Answer(context.Output, answer);
        GiveBack();
    }

    private static object Audit(HelperRequest request, RunContext context)
    {
        using var activity = request.Activity is null ? null : new AuditActivity(request.Activity) { Begun = Faults.Wanted };
        var latest = new AuditProgress("reading", 0, 0, 0, 0);
        using var timer = new Timer(_ => Answer(context.Output, new { kind = "progress", progress = Volatile.Read(ref latest) }), null, ProgressInterval, ProgressInterval);
        var executor = new RunExecutor(context.Worker!, context.Scratch, context.Kept);
        var written = executor.RunAsync(request.Run!, new ExecutionSettings(request.Threads, activity), p => Volatile.Write(ref latest, p), context.Cancel).GetAwaiter().GetResult();
        return new { kind = "end", state = written ? "done" : "lost" };
    }

    private static void Answer(StreamWriter output, object answer)
    {
        lock (Writing)
        {
            try
            {
                output.WriteLine(JsonSerializer.Serialize(answer, Json));
            }
            catch (IOException)
            {
                Environment.Exit(0);
            }
        }
    }

    /// <summary>What the work needed goes back to the system at once; only what the next audit builds on is kept.</summary>
    private static void GiveBack()
    {
        GCSettings.LargeObjectHeapCompactionMode = GCLargeObjectHeapCompactionMode.CompactOnce;
        GC.Collect(2, GCCollectionMode.Aggressive, blocking: true, compacting: true);
    }
}
