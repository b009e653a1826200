using System.Reflection;
using Bellator.Audit.Reports;

namespace Bellator.Cli;

internal sealed record SurfaceRequest(string Path, string? OpenApi, string? Json, string? Csv, bool Quiet);

/// <summary><c>bellator surface</c>: the addresses and tables of an application.</summary>
internal static class SurfaceCommand
{
    public static int Run(SurfaceRequest request, CancellationToken cancel)
    {
        var result = UncheckedAudit.Run(request.Path, request.Quiet, cancel);
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
