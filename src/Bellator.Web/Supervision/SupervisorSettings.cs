using Bellator.Storage.Runs;

namespace Bellator.Web.Supervision;

/// <summary>Bounds on helper processes. The environment can change them: <c>BELLATOR_AUDIT_MIB</c>, <c>BELLATOR_STALL_SECONDS</c>, <c>BELLATOR_SILENCE_SECONDS</c>.</summary>
public sealed record SupervisorSettings
{
    private const long MiB = 1024 * 1024;

    /// <summary>What the audit of a large application may have in memory: half of the machine's, at most 6 GiB.</summary>
    public long LargeBytes { get; init; } = Math.Min(6 * 1024 * MiB, GC.GetGCMemoryInfo().TotalAvailableMemoryBytes / 2);

    public long SmallBytes { get; init; } = 1536 * MiB;

    /// <summary>A value of the bench may ask for 512 MiB; the rest is the program itself.</summary>
    public long BenchBytes { get; init; } = 800 * MiB;

    /// <summary>More source than this waits in the lane of large runs, so that small ones need not wait behind it.</summary>
    public long SmallRunBytes { get; init; } = 4 * MiB;

    /// <summary>An audit that begins nothing new for this long hangs. Time in which the machine did not let it run does not count.</summary>
    public TimeSpan Stall { get; init; } = TimeSpan.FromSeconds(60);

    /// <summary>What it may take before it begins anything: a process that was just started has its program to load.</summary>
    public TimeSpan LongestStart { get; init; } = TimeSpan.FromSeconds(60);

    /// <summary>A process that says nothing of its runs for this long is taken for dead.</summary>
    public TimeSpan Silence { get; init; } = RunQueue.UsualSilence;

    /// <summary>One that was told to stop does so within this time, or is ended.</summary>
    public TimeSpan StopPatience { get; init; } = TimeSpan.FromSeconds(2);

    /// <summary>A helper that had nothing to do for this long is ended, and what it kept with it.</summary>
    public TimeSpan Idle { get; init; } = TimeSpan.FromMinutes(20);

    /// <summary>Files over which an audit hung or died, and that are left out one after another, before it is given up.</summary>
    public int MaxLeftOut { get; init; } = 8;

    /// <summary>For tests: see <see cref="Supervision.Faults"/>.</summary>
    public bool Faults { get; init; }

    /// <summary>Where helpers say what they are busy with.</summary>
    public string Folder { get; init; } = Path.GetTempPath();

    public static SupervisorSettings Read(string folder)
    {
        var settings = new SupervisorSettings { Folder = folder, Faults = Environment.GetEnvironmentVariable(Supervision.Faults.Variable) == "1" };
        if (long.TryParse(Environment.GetEnvironmentVariable("BELLATOR_AUDIT_MIB"), out var memory) && memory >= 256)
        {
            settings = settings with { LargeBytes = memory * MiB, SmallBytes = Math.Min(settings.SmallBytes, memory * MiB) };
        }

        return settings with { Stall = Seconds("BELLATOR_STALL_SECONDS") ?? settings.Stall, Silence = Seconds("BELLATOR_SILENCE_SECONDS") ?? settings.Silence };
    }

    private static TimeSpan? Seconds(string variable) => int.TryParse(Environment.GetEnvironmentVariable(variable), out var seconds) && seconds > 0 ? TimeSpan.FromSeconds(seconds) : null;
}
