using System.Reflection;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Audit.Scoring;
using Bellator.Text;

namespace Bellator.Cli;

internal sealed record AuditRequest(string Path, string? Sarif, string? Json, string? Areas, string? Facts, int Threads, string FailOn, bool Tests, bool Quiet, bool Watch)
{
    /// <summary>An earlier version: its SARIF report, or its code.</summary>
    public string? Baseline { get; init; }

    public bool FailOnNew { get; init; }
}

/// <summary><c>bellator audit</c>.</summary>
internal static class AuditCommand
{
    private static readonly string[] Severities = ["none", "low", "medium", "high", "critical"];

    public static int Run(AuditRequest request, CancellationToken cancel)
    {
        var areas = request.Areas?.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) ?? [];
        if (areas.FirstOrDefault(a => !CheckList.Areas.Contains(a)) is { } unknown)
        {
            throw new UsageException($"there is no area “{unknown}”; there are {string.Join(", ", CheckList.Areas)}");
        }

        if (request.Threads is < 1 or > 256)
        {
            throw new UsageException("--threads takes a number from 1 to 256");
        }

        var options = new AuditOptions
        {
            Areas = areas,
            Threads = request.Threads,
            Facts = request.Facts is null ? LibraryModels.Shipped : LibraryModels.Load(request.Facts),
        };
        if (request.Watch && !Directory.Exists(request.Path))
        {
            throw new UsageException("--watch takes a folder");
        }

        if (request.FailOnNew && request.Baseline is null)
        {
            throw new UsageException("--fail-on-new needs a --baseline to compare with");
        }

        if (request.Watch && request.Baseline is not null)
        {
            throw new UsageException("--watch compares with the state before each change; it takes no --baseline");
        }

        var limits = SourceLimits.Default with { IncludeTests = request.Tests };
        options = options with { Memory = request.Watch ? new AuditCache() : null };
        var baseline = request.Baseline is null ? null : EarlierVersion.Read(request.Baseline, limits, options, cancel);
        IReadOnlyList<ComparedFinding>? compared = null;
        IReadOnlyList<PartChange>? parts = null;
        var result = Audited();
        if (request.Watch)
        {
            new AuditWatch(request.Path, Console.Out).Run(result, Audited, cancel);
            return CommandLine.Done;
        }

        var threshold = Array.IndexOf(Severities, request.FailOn);
        var counted = request.FailOnNew ? compared!.Where(c => c.State == FindingState.New).Select(c => c.After!) : result.Findings;
        return (threshold > 0 || request.FailOnNew) && counted.Any(f => Array.IndexOf(Severities, Cvss31.Rating(f.Score)) >= threshold)
            ? CommandLine.ThresholdReached
            : CommandLine.Done;

        AuditResult Audited()
        {
            var tree = SourceLoader.Load(request.Path, limits, cancel);
            using var progress = new ProgressLine(request.Quiet);
            var result = AuditPipeline.Run(tree, options, progress.Show, cancel);
            progress.Clear();
            if (baseline is not null)
            {
                compared = baseline.Compare(tree, result);
                parts = baseline.Parts(tree, result);

                // What is known from before keeps the fingerprint that it was known by.
                result = result with { Findings = [.. compared.Where(c => c.After is not null).Select(c => c.After!)] };
            }

            Report(request, result, baseline, compared, parts);
            return result;
        }
    }

    private static void Report(AuditRequest request, AuditResult result, EarlierVersion? baseline, IReadOnlyList<ComparedFinding>? compared, IReadOnlyList<PartChange>? parts)
    {
        var version = Assembly.GetExecutingAssembly().GetName().Version?.ToString(3) ?? "0.0.0";
        OutputFile.Write(request.Sarif, () => compared is null
            ? SarifReport.Write(result, version)
            : SarifReport.Write(result, version, compared.Select(c => new SarifResult((c.After ?? c.Before)!, baseline!.VerdictOf(c), c.State))));
        OutputFile.Write(request.Json, () => JsonReport.Write(result, version, compared));
        if (!request.Quiet && !request.Watch)
        {
            if (compared is null)
            {
                SummaryReport.Write(result, Console.Out);
            }
            else
            {
                ComparisonReport.Write(compared, parts, Console.Out);
                SummaryReport.WriteFigures(result, Console.Out);
            }
        }
    }
}

/// <summary>One line on the error output that is written over while an audit runs.</summary>
internal sealed class ProgressLine(bool quiet) : IDisposable
{
    private readonly Lock _gate = new();
    private readonly bool _show = !quiet && !Console.IsErrorRedirected;
    private long _last;

    public void Show(AuditProgress progress)
    {
        lock (_gate)
        {
            if (!_show || Environment.TickCount64 - _last < 100)
            {
                return;
            }

            _last = Environment.TickCount64;
            Console.Error.Write($"\r{progress.Stage} {progress.FilesDone}/{progress.FilesTotal} files, {progress.Share:0%}      ");
        }
    }

    public void Clear()
    {
        if (_show)
        {
            Console.Error.Write("\r" + new string(' ', 60) + "\r");
        }
    }

    public void Dispose() => Clear();
}
