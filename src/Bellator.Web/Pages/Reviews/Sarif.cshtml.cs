using System.Runtime.CompilerServices;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The findings as SARIF. It is sent while it is read, so that a large report costs no more memory than a small one.</summary>
public sealed class SarifModel(Database database) : ReviewPage(database)
{
    public override string Stage => "Report";

    public async Task<IActionResult> OnGetAsync()
    {
        if (Result is null || Snapshots.FirstOrDefault(s => s.Id == Result.Snapshot) is not { } snapshot)
        {
            return NotFound();
        }

        // What was left out and what could not be audited as it should goes into the report, with true counts.
        var leftOut = await SnapshotRows.LeftOutAsync(snapshot.Id, 0, int.MaxValue, Gone);
        var notes = new List<AuditNote>(await new RunTable(Scope).NotesAsync(Result.Id, Gone));
        notes.AddRange(leftOut.Select(l => new AuditNote(l.Path, $"Left out: {l.Reason}")));
        if (snapshot.LeftOut > leftOut.Count)
        {
            notes.Add(new AuditNote("", $"{snapshot.LeftOut} files were left out, of which {leftOut.Count} are listed"));
        }

        var figures = new AuditFigures(snapshot.Files, snapshot.Lines, 0, 0, 0, 0, 0, TimeSpan.Zero, TimeSpan.Zero);
        Response.ContentType = "application/sarif+json";
        Response.Headers.ContentDisposition = "attachment; filename=findings.sarif";
        var about = new AuditResult(snapshot.Name, [], [], notes, figures);
        await SarifReport.WriteAsync(Response.Body, about, typeof(SarifModel).Assembly.GetName().Version!.ToString(3), JudgedAsync(Result.Id, Gone), Gone);
        return new EmptyResult();
    }

    private async IAsyncEnumerable<SarifResult> JudgedAsync(Guid run, [EnumeratorCancellation] CancellationToken cancel)
    {
        await foreach (var (finding, verdict, reason) in Findings.AllAsync(run, cancel))
        {
            yield return new SarifResult(finding, Verdicts.Suppresses(verdict) ? new SarifVerdict(verdict, reason ?? "") : null);
        }
    }
}
