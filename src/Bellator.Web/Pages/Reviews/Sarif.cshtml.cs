using System.Text;
using Bellator.Core.Auditing;
using Bellator.Core.Reports;
using Bellator.Storage;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class SarifModel(Database database) : ReviewPage(database)
{
    public override string Stage => "Report";

    public async Task<IActionResult> OnGetAsync()
    {
        if (Result is null)
        {
            return NotFound();
        }

        var findings = await Findings.AllAsync(Result.Id);
        var rows = await Findings.ListAsync(Result.Id, new());
        var snapshot = Snapshots.First(s => s.Id == Result.Snapshot);
        var verdicts = new Dictionary<string, SarifVerdict>(StringComparer.Ordinal);
        foreach (var row in rows.Where(r => r.Verdict is "rejected" or "risk accepted"))
        {
            var latest = (await Findings.HistoryAsync(ReviewId, row.Fingerprint))[0];
            verdicts[row.Fingerprint] = new SarifVerdict(latest.Verdict, latest.Reason);
        }

        var figures = new AuditFigures(snapshot.Files, snapshot.Lines, 0, 0, 0, 0, 0, TimeSpan.Zero, TimeSpan.Zero);
        var text = SarifReport.Write(new AuditResult(snapshot.Name, findings, [], [], figures), typeof(SarifModel).Assembly.GetName().Version!.ToString(3), verdicts);
        return File(Encoding.UTF8.GetBytes(text), "application/sarif+json", "findings.sarif");
    }
}
