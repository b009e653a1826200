using System.Diagnostics;
using System.Globalization;

namespace Bellator.Web.Supervision;

/// <summary>
/// The time that another process was given: what passed on the clock, less what its threads spent waiting for a processor that others used.
/// A process that stands still while it may run hangs; one that is not let run on a busy machine does not.
/// </summary>
/// <remarks>The wait is the second number of <c>/proc/PID/task/TID/schedstat</c>, in nanoseconds (Linux kernel, Documentation/scheduler/sched-stats.rst).</remarks>
internal sealed class GivenTime(int processId)
{
    /// <summary>On the clock it is never more than this many times as long, whatever the machine does.</summary>
    private const int MostSlowdown = 6;

    private readonly Stopwatch _clock = Stopwatch.StartNew();
    private Dictionary<string, long> _waits = [];
    private TimeSpan _last;
    private TimeSpan _given;

    /// <summary>Starts again from nothing.</summary>
    public void Restart()
    {
        _clock.Restart();
        _last = _given = TimeSpan.Zero;
        _waits = ReadWaits();
    }

    /// <summary>What it was given since the start. To be asked a few times a second.</summary>
    public TimeSpan Elapsed()
    {
        var now = _clock.Elapsed;
        var waits = ReadWaits();
        var longest = waits.Max(w => (long?)(w.Value - _waits.GetValueOrDefault(w.Key))) ?? 0;
        var passed = now - _last - TimeSpan.FromTicks(longest / TimeSpan.NanosecondsPerTick);
        _given += passed > TimeSpan.Zero ? passed : TimeSpan.Zero;
        (_last, _waits) = (now, waits);
        return _given > now / MostSlowdown ? _given : now / MostSlowdown;
    }

    private Dictionary<string, long> ReadWaits()
    {
        var waits = new Dictionary<string, long>();
        try
        {
            foreach (var thread in Directory.EnumerateDirectories($"/proc/{processId}/task"))
            {
                var fields = File.ReadAllText(Path.Combine(thread, "schedstat")).Split(' ');
                waits[thread] = long.Parse(fields[1], CultureInfo.InvariantCulture);
            }
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or FormatException or IndexOutOfRangeException)
        {
            // A thread or the process is gone, or this kernel does not count: then the clock alone tells.
        }

        return waits;
    }
}
