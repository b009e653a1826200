using System.Text;
using Bellator.Audit.Comparison;
using Bellator.Audit.Reports;
using Bellator.Audit.Reports.Handover;
using Bellator.Audit.Standards;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The report: a draft that is put together from what was judged, and those that were handed over.</summary>
public sealed class ReportModel(Database database, AccountTable accounts) : ReviewPage(database)
{
    private const int LongestWords = 20_000;

    public override string Stage => "Report";

    /// <summary>What the draft is set to; null where nothing was audited. The draft itself is made when it is asked for.</summary>
    public ReportSettings? Draft { get; private set; }

    private IReadOnlyDictionary<string, int> _counts = new Dictionary<string, int>();

    public int Count(string verdict) => _counts.GetValueOrDefault(verdict);

    public IReadOnlyList<ReportRow> HandedOver { get; private set; } = [];

    public string? Message { get; private set; }

    /// <summary>All sections in the draft's order, and whether each is in it.</summary>
    public IReadOnlyList<(string Section, bool IsIn)> Sections { get; private set; } = [];

    public async Task OnGetAsync()
    {
        if (Result is not null)
        {
            HandedOver = await new ReportTable(Scope).ListAsync(ReviewId, Gone);
            Draft = await new ReportTable(Scope).DraftAsync(ReviewId, Gone);
            _counts = await Findings.VerdictsAsync(ReviewId, Result.Id, Gone);
            var chosen = Draft.Sections.Count > 0 ? Draft.Sections : ReportSections.Usual;
            Sections = [.. chosen.Where(ReportSections.Usual.Contains).Select(s => (s, true)), .. ReportSections.Usual.Where(s => !chosen.Contains(s)).Select(s => (s, false))];
        }
    }

    /// <summary>Saves which sections there are, in which order, and the words at their head.</summary>
    public async Task<IActionResult> OnPostSaveAsync()
    {
        var sections = Request.Form["section"].OfType<string>().Where(ReportSections.Usual.Contains).Distinct().ToList();
        var moved = Request.Form["move"].ToString().Split(' ', 2);
        if (moved.Length == 2 && sections.IndexOf(moved[1]) is >= 0 and var at)
        {
            var to = Math.Clamp(at + (moved[0] == "up" ? -1 : 1), 0, sections.Count - 1);
            (sections[at], sections[to]) = (sections[to], sections[at]);
        }

        var words = ReportSections.Usual.Select(s => (s, Text: Request.Form["words-" + s].ToString().Trim())).Where(w => w.Text.Length > 0).ToDictionary(w => w.s, w => w.Text.Length > LongestWords ? w.Text[..LongestWords] : w.Text);
        await new ReportTable(Scope).SaveDraftAsync(ReviewId, new ReportSettings { Sections = sections.Count == 0 ? [ReportSections.Summary] : sections, Words = words }, Gone);
        await Scope.CommitAsync(Gone);
        return Redirect($"/reviews/{ReviewId}/report");
    }

    /// <summary>Keeps the report as it is now.</summary>
    public async Task<IActionResult> OnPostHandOverAsync()
    {
        if (Result is null)
        {
            return NotFound();
        }

        var number = await new ReportTable(Scope).HandOverAsync(ReviewId, await MakeAsync(false), Gone);
        await Scope.CommitAsync(Gone);
        await accounts.LogAsync(User.AccountId(), "report handed over", $"{ReviewId} {number}", "");
        return Redirect($"/reviews/{ReviewId}/report");
    }

    /// <summary>The draft, or a report that was handed over, in one of its forms.</summary>
    /// <param name="form">html, md, json, csv, standards or verdicts.</param>
    /// <param name="number">Of a report that was handed over; the draft otherwise.</param>
    /// <param name="secrets">Secrets and hashes are shown; it is written down who asked for that.</param>
    public async Task<IActionResult> OnGetFileAsync(string form, int? number, bool secrets, bool inline)
    {
        if (Result is null)
        {
            return NotFound();
        }

        var content = number is { } kept ? await new ReportTable(Scope).FindAsync(ReviewId, kept, Gone) : await MakeAsync(secrets);
        if (content is null)
        {
            return NotFound();
        }

        await CloseAsync();
        if (secrets && number is null)
        {
            await accounts.LogAsync(User.AccountId(), "report with secrets", ReviewId.ToString(), "");
        }

        var (text, type, ending) = form switch
        {
            "html" => (HtmlReport.Write(content), "text/html; charset=utf-8", "html"),
            "md" => (MarkdownReport.Write(content), "text/markdown; charset=utf-8", "md"),
            "json" => (content.Write(), "application/json", "json"),
            "csv" => (CsvReport.Findings(content), "text/csv; charset=utf-8", "csv"),
            "standards" => (CsvReport.Standards(content.Standards), "text/csv; charset=utf-8", "csv"),
            "openapi" => (OpenApiReport.Write(content.About.Surface, content.Application, content.Program), "application/json", "json"),
            "verdicts" => (VerdictsOf(content).Write(), "application/json", "json"),
            _ => ("", "", ""),
        };
        if (type.Length == 0)
        {
            return NotFound();
        }

        if (form == "html" && inline)
        {
            // The report brings its own style and nothing else; it is shown apart from our pages, and may not do more than a picture.
            Response.Headers.ContentSecurityPolicy = "sandbox; default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'";
            return Content(text, type);
        }

        return File(Encoding.UTF8.GetBytes(text), type, $"{(form is "html" or "md" or "json" or "csv" ? "report" : form)}{(number is { } n ? $"-{n}" : "")}.{ending}");
    }

    private static VerdictFile VerdictsOf(ReportContent content) => new()
    {
        Application = content.Application,
        By = content.By,
        Settings = content.Settings,
        Verdicts = [.. content.Findings.Where(f => f.Verdict != Verdicts.ToJudge).Select(f => new VerdictEntry(f.Fingerprint, f.Verdict, f.Reason ?? "", f.By, f.At, f.Until))],
        Requirements = [.. content.Standards.SelectMany(s => s.Chapters.SelectMany(c => c.Requirements.Where(r => r.Reason is not null).Select(r => new RequirementEntry(Standard.All.First(k => k.Title == s.Title).Id, r.Number, r.State, r.Reason!, r.By))))],
    };

    private async Task<ReportContent> MakeAsync(bool secrets)
    {
        var settings = await new ReportTable(Scope).DraftAsync(ReviewId, Gone);
        var snapshot = Snapshots.First(s => s.Id == Result!.Snapshot);
        return await ReportDesk.MakeAsync(Scope, (ReviewId, ReviewName), Result!, snapshot, settings with { ShowsSecrets = secrets }, User.FindFirst("name")?.Value ?? "", Gone);
    }
}
