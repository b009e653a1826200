using System.Runtime.CompilerServices;
using Bellator.Storage.Runs;

namespace Bellator.Web.Supervision;

/// <summary>
/// Goes wrong on purpose, over files of certain names, so that tests see what the supervisor makes of it: defects that we know of are
/// mended, and those that we do not know of cannot be tested. Only where the environment asks for it.
/// </summary>
internal static class Faults
{
    public const string Variable = "BELLATOR_TEST_FAULTS";

    /// <summary>What is to happen when an audit begins with a file; null in every ordinary process.</summary>
    public static Action<string>? Wanted { get; } = Environment.GetEnvironmentVariable(Variable) == "1" ? Happen : null;

    private static void Happen(string path)
    {
        switch (Path.GetFileName(path))
        {
            case "fault-hang.php":
                Thread.Sleep(Timeout.Infinite);
                break;
            case "fault-spin.php":
                for (var i = 0; ;)
                {
                    i = unchecked((i * 31) + 7);
                    GC.KeepAlive(i);
                }

            case "fault-die.php":
                Environment.Exit(139);
                break;
            case "fault-overflow.php":
                Deeper(0);
                break;
            case "fault-memory.php":
                for (var kept = new List<byte[]>(); ;)
                {
                    var more = new byte[64 * 1024 * 1024];
                    more.AsSpan().Fill(1);
                    kept.Add(more);
                }

            case "fault-throw.php":
                throw new InvalidOperationException("thrown on purpose");
            case "fault-brief.php":
                // Many of them make a long run that never stands still.
                Thread.Sleep(TimeSpan.FromSeconds(0.5));
                break;
            case RunExecutor.Commit:
            case "fault-slow.php":
                Thread.Sleep(TimeSpan.FromSeconds(3));
                break;
        }
    }

    [MethodImpl(MethodImplOptions.NoInlining)]
    private static int Deeper(int depth) => Deeper(depth + 1) + Deeper(depth + 2);
}
