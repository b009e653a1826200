using Bellator.Audit.Checks;
using Bellator.Audit.Standards;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>Published requirements one by one: what shows that each is met or not, and what a reviewer says of it.</summary>
public sealed class StandardsModel(Database database) : ReviewPage(database)
{
    public static readonly string[] States = ["met", "not met", "not applicable", "not judged", "as found"];

    private const int LongestReason = 2000;

    public override string Stage => "Report";

    [BindProperty(SupportsGet = true)]
    public string? Id { get; set; }

    public Standard Standard { get; private set; } = Standard.All[0];

    public IReadOnlyDictionary<string, AssessedRequirement> Assessed { get; private set; } = new Dictionary<string, AssessedRequirement>();

    public IReadOnlyDictionary<string, long> FindingIds { get; private set; } = new Dictionary<string, long>();

    public string? Message { get; private set; }

    public async Task OnGetAsync() => await LoadAsync();

    public async Task<IActionResult> OnPostAsync(string? number, string? state, string? reason)
    {
        Standard = Standard.Find(Id ?? "") ?? Standard.All[0];
        if (number is null || state is null || !States.Contains(state) || Standard.Requirements.All(r => r.Number != number))
        {
            Message = "Choose what the requirement is.";
        }
        else if (string.IsNullOrWhiteSpace(reason) || reason.Length > LongestReason)
        {
            Message = "Say why, in at most 2000 characters.";
        }
        else
        {
            await new ReportTable(Scope).JudgeAsync(ReviewId, Standard.Id, number, state, reason.Trim(), Gone);
            await Scope.CommitAsync(Gone);
            return Redirect($"/reviews/{ReviewId}/standards?id={Standard.Id}#r-{Uri.EscapeDataString(number)}");
        }

        await LoadAsync();
        return Page();
    }

    private async Task LoadAsync()
    {
        Standard = Standard.Find(Id ?? "") ?? Standard.All[0];
        if (Result is null)
        {
            return;
        }

        var findings = await Findings.AfterAsync(Result.Id, new FindingFilter(), -1, ReportTable.MostFindings, cancel: Gone);
        var judged = findings.Select(f => new JudgedFinding(f.CheckId, CheckList.Find(f.CheckId)?.Cwes ?? [], f.Path, f.Line, f.Verdict, f.Fingerprint)).ToList();
        FindingIds = findings.GroupBy(f => f.Fingerprint).ToDictionary(g => g.Key, g => g.First().Id);
        Assessed = StandardAssessment.Assess(Standard, judged, await ApplicationAsync(), await new ReportTable(Scope).JudgementsAsync(ReviewId, Gone)).ToDictionary(a => a.Requirement.Number, StringComparer.Ordinal);
    }
}
