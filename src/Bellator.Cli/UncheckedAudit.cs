using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Cli;

/// <summary>An audit that only finds out what the application is.</summary>
internal static class UncheckedAudit
{
    /// <summary>No area has this name: nothing is checked.</summary>
    private static readonly AuditOptions Options = new() { Areas = ["none"] };

    public static AuditResult Run(string path, bool quiet, CancellationToken cancel)
    {
        var tree = SourceLoader.Load(path, SourceLimits.Default, cancel);
        using var progress = new ProgressLine(quiet);
        var result = AuditPipeline.Run(tree, Options, progress.Show, cancel);
        progress.Clear();
        return result;
    }
}
