using Bellator.Core.Auditing;
using Bellator.Core.Checks;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The injection stage: findings by what they have in common, so that ten with one cause are one thing to mend.</summary>
public sealed class InjectionModel(Database database) : ReviewPage(database)
{
    public override string Stage => "Injection";

    public IReadOnlyList<Cause> Shared { get; private set; } = [];

    public IReadOnlyList<Cause> Single { get; private set; } = [];

    public int Count => Shared.Sum(c => c.Flows.Count) + Single.Sum(c => c.Flows.Count);

    private IReadOnlyDictionary<string, FindingRow> Rows { get; set; } = new Dictionary<string, FindingRow>();

    public async Task<IActionResult> OnGetAsync()
    {
        if (Result is not null)
        {
            Rows = (await Findings.ListAsync(Result.Id, new FindingFilter(Area: "injection"))).GroupBy(r => r.Fingerprint).ToDictionary(g => g.Key, g => g.First());
            var causes = Causes.Of((await Findings.AllAsync(Result.Id)).Where(f => f.Area == "injection"));
            Shared = [.. causes.Where(c => c.Flows.Count > 1)];
            Single = [.. causes.Where(c => c.Flows.Count == 1)];
        }

        return Page();
    }

    public FindingRow? Row(CauseFlow flow) => Rows.GetValueOrDefault(flow.Finding.Fingerprint);

    public string Link(CauseFlow flow) => Row(flow) is { } row ? $"/reviews/{ReviewId}/findings/{row.Id}?area=injection" : "#";

    public static string Title(Cause cause) => CheckList.Find(cause.CheckId)?.Title ?? cause.CheckId;
}
