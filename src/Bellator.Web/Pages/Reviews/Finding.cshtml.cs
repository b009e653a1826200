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

    public string Query => Request.QueryString.Value ?? "";

    public async Task<IActionResult> OnGetAsync() => await LoadAsync() ? Page() : NotFound();

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
            return Page();
        }

        if (string.IsNullOrWhiteSpace(reason) || reason.Length > 2000)
        {
            Message = "Say why, in at most 2000 characters: the verdict goes into the report.";
            return Page();
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
        Stops = await TraceView.BuildAsync(Finding, path => OpenFileAsync(detail.Snapshot, path));
        if (Result is not null)
        {
            var all = await Findings.ListAsync(Result.Id, FindingsModel.Filter(Request.Query["area"], Request.Query["score"], Request.Query["certainty"], Request.Query["verdict"], Request.Query["text"]));
            var same = all.Where(f => f.CheckId == row.CheckId).ToList();
            var others = all.Where(f => f.CheckId != row.CheckId).ToList();
            Neighbours = [.. new[] { ($"{Count(same.Count)} of this kind", (IReadOnlyList<FindingRow>)same), ("Others", others) }.Where(g => g.Item2.Count > 0)];
        }

        return true;
    }

    private static string Count(int count) => count == 1 ? "One" : count.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
