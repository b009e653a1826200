using System.Reflection;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Cli;

internal sealed record SurfaceRequest(string Path, string? OpenApi, string? Json, string? Csv, bool Quiet);

/// <summary><c>bellator surface</c>: the addresses and tables of an application.</summary>
internal static class SurfaceCommand
{
    public static int Run(SurfaceRequest request, CancellationToken cancel)
    {
        var tree = SourceLoader.Load(request.Path, SourceLimits.Default, cancel);
        using var progress = new ProgressLine(request.Quiet);

        // No area has this name: nothing is checked.
        var result = AuditPipeline.Run(tree, new AuditOptions { Areas = ["surface"] }, progress.Show, cancel);
        progress.Clear();
        var version = Assembly.GetExecutingAssembly().GetName().Version?.ToString(3) ?? "0.0.0";
        OutputFile.Write(request.OpenApi, () => OpenApiReport.Write(result.Surface, result.Name, version));
        OutputFile.Write(request.Json, () => SurfaceReport.Json(result.Surface, result.Accounts));
        OutputFile.Write(request.Csv, () => SurfaceReport.Csv(result.Surface));
        if (!request.Quiet)
        {
            SurfaceReport.Text(result.Surface, Console.Out);
            SurfaceReport.Journeys(result.Accounts, Console.Out);
        }

        return CommandLine.Done;
    }
}
