using Bellator.Audit.Reports.Handover;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>Two reports that were handed over, held against each other.</summary>
public sealed class ReportsModel(Database database) : ReviewPage(database)
{
    /// <summary>So many rows of each kind are listed; the true count stands beside.</summary>
    public const int MostShown = 200;

    public override string Stage => "Report";

    [BindProperty(SupportsGet = true)]
    public int? From { get; set; }

    [BindProperty(SupportsGet = true)]
    public int? To { get; set; }

    public IReadOnlyList<ReportRow> HandedOver { get; private set; } = [];

    public ReportComparison? Compared { get; private set; }

    public async Task<IActionResult> OnGetAsync()
    {
        var reports = new ReportTable(Scope);
        HandedOver = await reports.ListAsync(ReviewId, Gone);
        To ??= HandedOver.Select(r => (int?)r.Number).FirstOrDefault();
        From ??= HandedOver.Select(r => (int?)r.Number).Skip(1).FirstOrDefault();
        if (From is not { } from || To is not { } to)
        {
            return Page();
        }

        var (before, after) = (await reports.FindAsync(ReviewId, from, Gone), await reports.FindAsync(ReviewId, to, Gone));
        if (before is null || after is null)
        {
            return NotFound();
        }

        await CloseAsync();
        Compared = ReportComparison.Of(before, after);
        return Page();
    }
}
