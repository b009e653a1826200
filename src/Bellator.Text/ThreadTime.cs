using System.Runtime.InteropServices;

namespace Bellator.Text;

/// <summary>Processor time of the thread that asks: how long something took, whatever else the machine was doing meanwhile.</summary>
public static partial class ThreadTime
{
    /// <summary>The clock of the calling thread (POSIX, clock_gettime; the number is that of Linux).</summary>
    private const int ThreadClock = 3;

    /// <summary>What the thread has used so far; to be compared with what the same thread asks for later.</summary>
    public static TimeSpan Now => Read(ThreadClock, out var time) == 0 ? new TimeSpan((time.Seconds * TimeSpan.TicksPerSecond) + (time.Nanoseconds / TimeSpan.NanosecondsPerTick)) : TimeSpan.FromMilliseconds(Environment.TickCount64);

    /// <summary>
    /// A time at which the thread stood at most a few milliseconds ago: asking the system costs as much as following a small function, and
    /// where a limit is seconds, that much does not count.
    /// </summary>
    public static TimeSpan Recent
    {
        get
        {
            var clock = Environment.TickCount64;
            if (clock - s_askedAt > Coarse || s_asked == default)
            {
                (s_askedAt, s_asked) = (clock, Now);
            }

            return s_asked;
        }
    }

    /// <summary>Milliseconds.</summary>
    private const long Coarse = 10;

    [ThreadStatic]
    private static long s_askedAt;

    [ThreadStatic]
    private static TimeSpan s_asked;

    [LibraryImport("libc", EntryPoint = "clock_gettime")]
    private static partial int Read(int clock, out ClockTime time);

    [StructLayout(LayoutKind.Sequential)]
    private readonly struct ClockTime
    {
        public readonly long Seconds;
        public readonly long Nanoseconds;
    }
}
