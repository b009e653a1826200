using System.Runtime.InteropServices;

namespace Bellator.Text;

/// <summary>Processor time of the thread that asks: how long something took, whatever else the machine was doing meanwhile.</summary>
public static partial class ThreadTime
{
    /// <summary>The clock of the calling thread (POSIX, clock_gettime; the number is that of Linux).</summary>
    private const int ThreadClock = 3;

    /// <summary>What the thread has used so far; to be compared with what the same thread asks for later.</summary>
    public static TimeSpan Now => Read(ThreadClock, out var time) == 0 ? new TimeSpan((time.Seconds * TimeSpan.TicksPerSecond) + (time.Nanoseconds / TimeSpan.NanosecondsPerTick)) : TimeSpan.FromMilliseconds(Environment.TickCount64);

    [LibraryImport("libc", EntryPoint = "clock_gettime")]
    private static partial int Read(int clock, out ClockTime time);

    [StructLayout(LayoutKind.Sequential)]
    private readonly struct ClockTime
    {
        public readonly long Seconds;
        public readonly long Nanoseconds;
    }
}
