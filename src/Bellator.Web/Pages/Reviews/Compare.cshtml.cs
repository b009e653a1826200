using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>What changed from the snapshot before to the latest: findings, and what the application is; and one finding, old and new side by side.</summary>
public sealed class CompareModel(Database database) : ReviewPage(database)
{
    public const int MostShown = 100;

    private static readonly string[] Shown = ["back", "new", "changed", "moved"];

    public override string Stage => "Findings";

    [BindProperty(SupportsGet = true)]
    public long? Finding { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Lost { get; set; }

    public (Guid Run, int Snapshot, IReadOnlyList<PartChange> Parts)? Baseline { get; private set; }

    public IReadOnlyDictionary<string, int> Counts { get; private set; } = new Dictionary<string, int>();

    public IReadOnlyList<(string State, IReadOnlyList<(FindingRow Finding, string Reason)> Rows)> Groups { get; private set; } = [];

    public IReadOnlyList<GoneRow> GoneFindings { get; private set; } = [];

    public IReadOnlyList<QuestionRow> Questions { get; private set; } = [];

    /// <summary>One finding before and after; a side is empty where there is none.</summary>
    public (string Title, IReadOnlyList<TraceStop> Before, IReadOnlyList<TraceStop> After, string Reason)? Sides { get; private set; }

    public string Headline => Baseline is not { } baseline ? "" : $"Snapshot {Snapshots.FirstOrDefault(s => s.Id == Result?.Snapshot)?.Number} against snapshot {baseline.Snapshot}: "
        + string.Join(", ", new[] { ("new", "new"), ("back", "back"), ("changed", "changed"), ("moved", "moved"), ("still there", "still there"), ("gone", "gone") }.Where(s => s.Item1 is not "back" || Counts.GetValueOrDefault("back") > 0).Select(s => $"{Counts.GetValueOrDefault(s.Item1)} {s.Item2}")) + ".";

    public static string Word(string kind) => ComparisonReport.Of(Enum.Parse<LossKind>(kind, ignoreCase: true));

    public async Task<IActionResult> OnGetAsync()
    {
        if (Result is null)
        {
            return Page();
        }

        var table = new ChangeTable(Scope);
        Baseline = await table.BaselineAsync(Result.Id, Gone);
        if (Baseline is null)
        {
            return Page();
        }

        Counts = await table.CountAsync(Result.Id, Gone);
        var groups = new List<(string, IReadOnlyList<(FindingRow, string)>)>();
        foreach (var state in Shown.Where(s => Counts.GetValueOrDefault(s) > 0))
        {
            groups.Add((state, await table.InStateAsync(Result.Id, state, -1, MostShown, Gone)));
        }

        Groups = groups;
        GoneFindings = await table.GoneAsync(Result.Id, "", ChangeTable.PageSize, Gone);
        Questions = await table.QuestionsAsync(Result.Id, Gone);
        await LoadSidesAsync();
        return Page();
    }

    /// <summary>Takes the offer that those which were fixed get the verdict.</summary>
    public async Task<IActionResult> OnPostFixedAsync(List<string> finding)
    {
        if (Result is not null && finding.Count is > 0 and <= ChangeTable.PageSize)
        {
            var gone = (await new ChangeTable(Scope).GoneAsync(Result.Id, "", ChangeTable.PageSize, Gone)).ToDictionary(g => g.Fingerprint);
            foreach (var group in finding.Where(gone.ContainsKey).GroupBy(f => gone[f].Reason))
            {
                await new VerdictTable(Scope).JudgeAsync(ReviewId, new Judgement([.. group], Verdicts.Fixed, group.Key), Gone);
            }

            await Scope.CommitAsync(Gone);
        }

        return Redirect($"/reviews/{ReviewId}/compare");
    }

    public async Task<IActionResult> OnPostAnswerAsync(string fingerprint, string? candidate)
    {
        if (Result is not null)
        {
            await new ChangeTable(Scope).AnswerAsync(Result.Id, fingerprint, candidate ?? "", Gone);
            await Scope.CommitAsync(Gone);
        }

        return Redirect($"/reviews/{ReviewId}/compare");
    }

    private async Task LoadSidesAsync()
    {
        ReportedFinding? before = null;
        ReportedFinding? after = null;
        Guid afterSnapshot = default;
        var reason = "";
        if (Finding is { } id && await Findings.FindAsync(ReviewId, id, Gone) is { } row && await Findings.DetailAsync(ReviewId, id, Gone) is { } detail)
        {
            (after, afterSnapshot) = (detail.Finding, detail.Snapshot);
            var old = await new ChangeTable(Scope).ByFingerprintAsync(Baseline!.Value.Run, row.Fingerprint, Gone);
            before = old?.Finding;
            reason = await new ChangeTable(Scope).ReasonAsync(id, Gone) ?? "";
        }
        else if (Lost is { Length: > 0 } && GoneFindings.FirstOrDefault(g => g.Fingerprint == Lost) is { } gone)
        {
            before = (await new ChangeTable(Scope).ByFingerprintAsync(Baseline!.Value.Run, Lost, Gone))?.Finding;
            reason = gone.Reason;
            if (before is not null && gone.AtPath is { } path)
            {
                var region = new Region(gone.AtLine ?? 1, 1, gone.AtLine ?? 1, 1);
                after = before with { Path = path, Region = region, Steps = [new ReportedStep("checked", gone.Reason, path, region)], Certainty = Certainty.Matched };
                afterSnapshot = Result!.Snapshot;
            }
        }

        if (before is null && after is null)
        {
            return;
        }

        var beforeSnapshot = await new ChangeTable(Scope).SnapshotOfAsync(Baseline!.Value.Run, Gone);
        var oldFiles = await FilesAsync(before, beforeSnapshot);
        var newFiles = await FilesAsync(after, afterSnapshot);
        await CloseAsync();
        Sides = (FindingsModel.TitleOf((after ?? before)!.CheckId), before is null ? [] : TraceView.Build(before, oldFiles), after is null ? [] : TraceView.Build(after, newFiles), reason);
    }

    private async Task<Dictionary<string, SourceFile>> FilesAsync(ReportedFinding? finding, Guid snapshot)
    {
        var files = new Dictionary<string, SourceFile>(StringComparer.Ordinal);
        foreach (var path in finding is null ? [] : TraceView.PathsOf(finding))
        {
            if (await OpenFileAsync(snapshot, path) is { } file)
            {
                files[path] = file;
            }
        }

        return files;
    }
}
