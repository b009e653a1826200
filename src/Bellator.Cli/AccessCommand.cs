using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Cli;

internal sealed record AccessRequest(string Path, string? Json, string? Csv, bool Quiet);

/// <summary><c>bellator access</c>: who reaches whose records, as the code does it.</summary>
internal static class AccessCommand
{
    public static int Run(AccessRequest request, CancellationToken cancel)
    {
        var tree = SourceLoader.Load(request.Path, SourceLimits.Default, cancel);
        using var progress = new ProgressLine(request.Quiet);

        // No area has this name: nothing is checked.
        var result = AuditPipeline.Run(tree, new AuditOptions { Areas = ["access"] }, progress.Show, cancel);
        progress.Clear();
        OutputFile.Write(request.Json, () => AccessReport.Json(result.Records));
        OutputFile.Write(request.Csv, () => AccessReport.Csv(result.Records));
        if (!request.Quiet)
        {
            AccessReport.Text(result.Records, Console.Out);
        }

        return CommandLine.Done;
    }
}
