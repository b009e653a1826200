using Bellator.Audit.Checks;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The injection stage: findings by what they have in common, so that ten with one cause are one thing to mend.</summary>
public sealed class InjectionModel(Database database) : ReviewPage(database)
{
    private const string Area = "injection";
    private const int MostShared = 20;
    private const int MostSingle = 100;

    public override string Stage => "Injection";

    /// <summary>The cause of several flows after which this page begins.</summary>
    [BindProperty(SupportsGet = true)]
    public int After { get; set; }

    /// <summary>The one of a single flow after which its list begins.</summary>
    [BindProperty(SupportsGet = true)]
    public int Single { get; set; }

    public IReadOnlyList<CauseRow> Shared { get; private set; } = [];

    public IReadOnlyList<CauseRow> Singles { get; private set; } = [];

    /// <summary>How many causes there are of several flows, and of one.</summary>
    public (int Shared, int Single) Causes { get; private set; }

    public int Count { get; private set; }

    public bool HasMoreShared { get; private set; }

    public bool HasMoreSingle { get; private set; }

    public async Task OnGetAsync()
    {
        if (Result is null)
        {
            return;
        }

        (Count, _) = await Findings.CountAsync(Result.Id, new FindingFilter(Area: Area), cancel: Gone);
        var causes = new CauseTable(Scope);
        Causes = await causes.CountOfAreaAsync(Result.Id, Area, Gone);
        var shared = await causes.OfAreaAsync(Result.Id, Area, shared: true, After, MostShared + 1, CauseDrawing.MostShown, Gone);
        var singles = await causes.OfAreaAsync(Result.Id, Area, shared: false, Single, MostSingle + 1, 1, Gone);
        (Shared, HasMoreShared) = ([.. shared.Take(MostShared)], shared.Count > MostShared);
        (Singles, HasMoreSingle) = ([.. singles.Take(MostSingle)], singles.Count > MostSingle);
    }

    public string Link(FindingRow flow) => $"/reviews/{ReviewId}/findings/{flow.Id}?area={Area}";

    public static string Title(CauseRow cause) => CheckList.Find(cause.CheckId)?.Title ?? cause.CheckId;
}
