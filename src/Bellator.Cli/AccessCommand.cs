using Bellator.Audit.Reports;

namespace Bellator.Cli;

internal sealed record AccessRequest(string Path, string? Json, string? Csv, bool Quiet);

/// <summary><c>bellator access</c>: who reaches whose records, as the code does it.</summary>
internal static class AccessCommand
{
    public static int Run(AccessRequest request, CancellationToken cancel)
    {
        var result = UncheckedAudit.Run(request.Path, request.Quiet, cancel);
        OutputFile.Write(request.Json, () => AccessReport.Json(result.Records));
        OutputFile.Write(request.Csv, () => AccessReport.Csv(result.Records));
        if (!request.Quiet)
        {
            AccessReport.Text(result.Records, Console.Out);
        }

        return CommandLine.Done;
    }
}

/// <summary><c>bellator sessions</c>: what is handed out to be recognised by, and what ends it.</summary>
internal static class SessionsCommand
{
    public static int Run(AccessRequest request, CancellationToken cancel)
    {
        var result = UncheckedAudit.Run(request.Path, request.Quiet, cancel);
        OutputFile.Write(request.Json, () => SessionReport.Json(result.Sessions));
        OutputFile.Write(request.Csv, () => SessionReport.Csv(result.Sessions));
        if (!request.Quiet)
        {
            SessionReport.Text(result.Sessions, Console.Out);
        }

        return CommandLine.Done;
    }
}
