using System.Reflection;
using System.Text.Json;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Audit.Reports.Handover;
using Bellator.Text;

namespace Bellator.Cli;

internal sealed record ReportRequest(string Path, string? Verdicts, string? Baseline, string? Title, bool ShowSecrets, bool Quiet)
{
    public string? Html { get; init; }

    public string? Markdown { get; init; }

    public string? Json { get; init; }

    public string? Csv { get; init; }

    public string? Standards { get; init; }

    public string? Sarif { get; init; }

    public string? OpenApi { get; init; }
}

/// <summary><c>bellator report</c>: the report of the web application from a folder and a file of verdicts.</summary>
internal static class ReportCommand
{
    public static int Run(ReportRequest request, CancellationToken cancel)
    {
        string?[] outputs = [request.Html, request.Markdown, request.Json, request.Csv, request.Standards, request.Sarif, request.OpenApi];
        if (outputs.All(o => o is null))
        {
            throw new UsageException("say what to write: --html, --markdown, --json, --csv, --standards, --sarif or --openapi");
        }

        var verdicts = Read(request.Verdicts);
        var limits = SourceLimits.Default;
        var options = new AuditOptions { Threads = Environment.ProcessorCount, Facts = LibraryModels.Shipped };
        var baseline = request.Baseline is null ? null : EarlierVersion.Read(request.Baseline, limits, options, cancel);
        var tree = SourceLoader.Load(request.Path, limits, cancel);
        using var progress = new ProgressLine(request.Quiet);
        var result = AuditPipeline.Run(tree, options, progress.Show, cancel);
        progress.Clear();
        var compared = baseline?.Compare(tree, result);
        result = compared is null ? result : result with { Findings = [.. compared.Where(c => c.After is not null).Select(c => c.After!)] };
        var version = Assembly.GetExecutingAssembly().GetName().Version?.ToString(3) ?? "0.0.0";
        var content = Build(request, verdicts, tree, result, compared, baseline, version);
        OutputFile.Write(request.Html, () => HtmlReport.Write(content));
        OutputFile.Write(request.Markdown, () => MarkdownReport.Write(content));
        OutputFile.Write(request.Json, content.Write);
        OutputFile.Write(request.Csv, () => CsvReport.Findings(content));
        OutputFile.Write(request.Standards, () => CsvReport.Standards(content.Standards));
        var suppressed = content.Findings.Where(f => Verdicts.Suppresses(f.Verdict)).ToDictionary(f => f.Fingerprint, f => new SarifVerdict(f.Verdict, f.Reason ?? ""));
        OutputFile.Write(request.Sarif, () => compared is null
            ? SarifReport.Write(result, version, suppressed)
            : SarifReport.Write(result, version, compared.Select(c => new SarifResult((c.After ?? c.Before)!, suppressed.GetValueOrDefault((c.After ?? c.Before)!.Fingerprint), c.State))));
        OutputFile.Write(request.OpenApi, () => OpenApiReport.Write(result.Surface, content.Application, version));
        if (!request.Quiet)
        {
            var unknown = verdicts.Verdicts.Count(v => content.Findings.All(f => f.Fingerprint != v.Fingerprint));
            Console.Out.WriteLine(string.Join(' ', content.Causes.Count == 0 ? ["No finding."] : new[] { $"{content.Findings.Count()} findings, of which {content.Count(Verdicts.ToJudge)} still to judge." }.Concat(unknown > 0 ? [$"{unknown} verdicts are about findings that are not there."] : [])));
        }

        return CommandLine.Done;
    }

    private static ReportContent Build(ReportRequest request, VerdictFile verdicts, SourceTree tree, AuditResult result, IReadOnlyList<ComparedFinding>? compared, EarlierVersion? baseline, string version)
    {
        var files = tree.Files.ToDictionary(f => f.Path, StringComparer.Ordinal);
        return ReportBuilder.Build(new ReportInput(
            request.Title ?? (verdicts.Application.Length > 0 ? verdicts.Application : tree.Name),
            new ReportScope(tree.Name, null, ReportBuilder.DigestOf(tree.Files), tree.Files.Count, tree.LineCount, [.. tree.Skipped.Take(ReportScopes.MostListed).Select(s => new ReportOmission(s.Path, SkipText.Of(s)))], tree.Skipped.Count, result.Notes),
            result.Findings,
            result.About,
            verdicts.ByFingerprint(),
            p => files.GetValueOrDefault(p))
        {
            States = compared is null ? new Dictionary<string, string>() : compared.Where(c => c.After is not null).ToDictionary(c => c.After!.Fingerprint, c => ComparisonReport.Title(c.State).ToLowerInvariant()),
            Changes = compared is null ? null : ReportScopes.Changes(System.IO.Path.GetFileName(request.Baseline!.TrimEnd('/')), compared, baseline!.Parts(tree, result) ?? []),
            Judgements = verdicts.Judgements(),
            Settings = verdicts.Settings with { ShowsSecrets = request.ShowSecrets },
            By = verdicts.By,
            Date = DateOnly.FromDateTime(DateTime.Now),
            Program = version,
        });
    }

    private static VerdictFile Read(string? path)
    {
        if (path is null)
        {
            return new VerdictFile();
        }

        try
        {
            return VerdictFile.Read(File.ReadAllText(path));
        }
        catch (JsonException e)
        {
            throw new UsageException($"the verdicts in {path} cannot be used: {e.Message}");
        }
    }
}
