using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Cli;

/// <summary>What an audit is compared with: a report of an earlier version, or its code.</summary>
internal sealed class EarlierVersion
{
    private const long MostBytes = 512L * 1024 * 1024;

    private readonly IReadOnlyList<ReportedFinding> _findings;
    private readonly IReadOnlyDictionary<string, SarifVerdict> _verdicts;
    private readonly CodeVersion _code;
    private readonly ReportedApplication? _about;

    private EarlierVersion(IReadOnlyList<ReportedFinding> findings, IReadOnlyDictionary<string, SarifVerdict> verdicts, CodeVersion code, ReportedApplication? about)
    {
        (_findings, _verdicts, _code, _about) = (findings, verdicts, code, about);
    }

    public static EarlierVersion Read(string path, SourceLimits limits, AuditOptions options, CancellationToken cancel)
    {
        if (File.Exists(path) && IsJson(path))
        {
            if (new FileInfo(path).Length > MostBytes)
            {
                throw new UsageException($"the baseline {path} is larger than {MostBytes / (1024 * 1024)} MiB");
            }

            try
            {
                var baseline = SarifBaseline.Read(File.ReadAllBytes(path));
                return new EarlierVersion(baseline.Findings, baseline.Verdicts, CodeVersion.Unknown, null);
            }
            catch (BaselineException e)
            {
                throw new UsageException($"the baseline {path} cannot be used: {e.Message}");
            }
        }

        var tree = SourceLoader.Load(path, limits, cancel);
        var result = AuditPipeline.Run(tree, options with { Memory = null }, null, cancel);
        return new EarlierVersion(result.Findings, new Dictionary<string, SarifVerdict>(), CodeVersion.Of(tree, result.Notes), result.About);
    }

    public IReadOnlyList<ComparedFinding> Compare(SourceTree tree, AuditResult result) => FindingComparison.Compare(_findings, result.Findings, _code, CodeVersion.Of(tree, result.Notes));

    /// <summary>What else changed; null where only a report of the findings is at hand.</summary>
    public IReadOnlyList<PartChange>? Parts(SourceTree tree, AuditResult result) => _about is null ? null : ComparedParts.Compare(_about, result.About, PathRoots.Find(_code.Paths, [.. tree.Files.Select(f => f.Path)]));

    /// <summary>A false positive whose lines have changed is open again.</summary>
    public SarifVerdict? VerdictOf(ComparedFinding compared) =>
        _verdicts.GetValueOrDefault((compared.After ?? compared.Before)!.Fingerprint) is { } verdict && !(verdict.Verdict == Verdicts.FalsePositive && compared.ChangedLines.Count > 0) ? verdict : null;

    private static bool IsJson(string path)
    {
        using var file = File.OpenRead(path);
        int first;
        do
        {
            first = file.ReadByte();
        }
        while (first is ' ' or '\t' or '\n' or '\r' or 0xEF or 0xBB or 0xBF);
        return first == '{';
    }
}
