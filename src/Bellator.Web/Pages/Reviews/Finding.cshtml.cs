using Bellator.Core.Auditing;
using Bellator.Core.Checks;
using Bellator.Core.Sources;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class FindingModel(Database database) : ReviewPage(database)
{
    public static readonly string[] Verdicts = ["to judge", "upheld", "rejected", "risk accepted", "mended"];

    [BindProperty(SupportsGet = true)]
    public long Id { get; set; }

    public override string Stage => Row is null ? "Findings" : char.ToUpperInvariant(Row.Area[0]) + Row.Area[1..];

    public FindingRow Row { get; private set; } = null!;

    public ReportedFinding Finding { get; private set; } = null!;

    public Check Check => Finding.Check;

    public IReadOnlyList<TraceStop> Stops { get; private set; } = [];

    public IReadOnlyList<VerdictRow> History { get; private set; } = [];

    /// <summary>Other findings under headings: those of the same weakness, then the rest of the list that the reviewer came from.</summary>
    public IReadOnlyList<(string Title, IReadOnlyList<FindingRow> Rows)> Neighbours { get; private set; } = [];

    public string? Message { get; private set; }

    public string? Choice { get; private set; }

    public string? Reason { get; private set; }

    /// <summary>The choice of the list that the reviewer came from.</summary>
    public string Query => QueryString.Create(Request.Query.Where(q => q.Key is "area" or "score" or "certainty" or "verdict" or "text").Select(q => KeyValuePair.Create(q.Key, (string?)q.Value.ToString()))).Value ?? "";

    private readonly Dictionary<string, SourceFile> _files = new(StringComparer.Ordinal);

    public async Task<IActionResult> OnGetAsync() => await LoadAsync() ? await ShowAsync() : NotFound();

    public async Task<IActionResult> OnPostAsync(string? verdict, string? reason)
    {
        if (!await LoadAsync())
        {
            return NotFound();
        }

        Choice = verdict;
        Reason = reason;
        if (verdict is null || !Verdicts.Contains(verdict))
        {
            Message = "Choose a verdict.";
            return await ShowAsync();
        }

        if (string.IsNullOrWhiteSpace(reason) || reason.Length > 2000)
        {
            Message = "Say why, in at most 2000 characters: the verdict goes into the report.";
            return await ShowAsync();
        }

        await Findings.JudgeAsync(ReviewId, Row.Fingerprint, verdict, reason.Trim());
        await Scope.CommitAsync();
        return Redirect($"/reviews/{ReviewId}/findings/{Id}{Query}");
    }

    private async Task<bool> LoadAsync()
    {
        if (await Findings.FindAsync(ReviewId, Id) is not { } row || await Findings.DetailAsync(ReviewId, Id) is not { } detail)
        {
            return false;
        }

        Row = row;
        Finding = detail.Finding;
        History = await Findings.HistoryAsync(ReviewId, row.Fingerprint);
        foreach (var path in TraceView.PathsOf(Finding))
        {
            if (await OpenFileAsync(detail.Snapshot, path) is { } file)
            {
                _files[path] = file;
            }
        }

        if (Result is not null)
        {
            await LoadNeighboursAsync(row, FindingsModel.Filter(Request.Query["area"], Request.Query["score"], Request.Query["certainty"], Request.Query["verdict"], Request.Query["text"]));
        }

        return true;
    }

    private async Task<IActionResult> ShowAsync()
    {
        await CloseAsync();
        Stops = TraceView.Build(Finding, _files);
        return Page();
    }

    /// <summary>Those around this one: a list of thousands would cost more than the finding itself.</summary>
    private async Task LoadNeighboursAsync(FindingRow row, FindingFilter filter)
    {
        var run = Result!.Id;
        var (count, _) = await Findings.CountAsync(run, filter, row.CheckId, Gone);
        var (all, _) = await Findings.CountAsync(run, filter, cancel: Gone);
        IReadOnlyList<FindingRow> same =
        [
            .. await Findings.BeforeAsync(run, filter, row.Position, Around, row.CheckId, cancel: Gone),
            .. await Findings.AfterAsync(run, filter, row.Position - 1, Around, row.CheckId, cancel: Gone),
        ];

        // Where there are none, looking for them would go through the whole run.
        IReadOnlyList<FindingRow> others = all == count ? [] :
        [
            .. await Findings.BeforeAsync(run, filter, row.Position, Around / 2, row.CheckId, isOther: true, cancel: Gone),
            .. await Findings.AfterAsync(run, filter, row.Position, Around, row.CheckId, isOther: true, cancel: Gone),
        ];
        Neighbours = [.. new[] { ($"{Count(count)} of this kind{(count > same.Count ? $", {same.Count} nearby" : "")}", same), ("Others", others) }.Where(g => g.Item2.Count > 0)];
    }

    private const int Around = 30;

    private static string Count(int count) => count == 1 ? "One" : count.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
