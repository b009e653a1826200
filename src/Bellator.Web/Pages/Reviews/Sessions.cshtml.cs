using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The sessions stage: what the application hands out to be recognised by, what ends it, and what keeps forged requests out.</summary>
public sealed class SessionsModel(Database database) : ReviewPage(database)
{
    private const int ShownFindings = 12;
    private const int MostRows = 500;

    public override string Stage => "Sessions";

    /// <summary>Empty for credentials, or <c>forgery</c>.</summary>
    [BindProperty(SupportsGet = true, Name = "view")]
    public string? Part { get; set; }

    /// <summary>The credential and event that are open: <c>2</c> or <c>2.signOut</c>.</summary>
    [BindProperty(SupportsGet = true, Name = "open")]
    public string? Open { get; set; }

    /// <summary>Only entry points of a state of protection.</summary>
    [BindProperty(SupportsGet = true, Name = "state")]
    public string? State { get; set; }

    public ReportedSessions? Sessions { get; private set; }

    public (int Credential, string? Event) Opened { get; private set; } = (-1, null);

    public EvidencePlaces? Places { get; private set; }

    public IReadOnlyList<FindingRow> Found { get; private set; } = [];

    public int FoundCount { get; private set; }

    public IReadOnlyList<ReportedForgery> Forgery { get; private set; } = [];

    public bool IsForgery => Part == "forgery";

    public ReportedCredential? OpenCredential => Opened.Credential < 0 ? null : Sessions!.Credentials[Opened.Credential];

    public ReportedLifeCell? OpenCell => Opened.Event is { } name ? OpenCredential?.Life.FirstOrDefault(l => l.Event == name) : null;

    public async Task<IActionResult> OnGetAsync()
    {
        await LoadAsync();
        if (Sessions is null)
        {
            return Page();
        }

        Forgery = [.. Sessions.Forgery.Where(f => string.IsNullOrEmpty(State) || f.State == State).Take(MostRows)];
        if (Open?.Split('.', 2) is [var first, .. var rest] && int.TryParse(first, out var index) && index >= 0 && index < Sessions.Credentials.Count)
        {
            Opened = (index, rest is [var name] && SessionText.Events.Contains(name) ? name : null);
            var evidence = OpenCell?.Evidence ?? [.. OpenCredential!.Operations.SelectMany(o => o.Evidence.Take(1).Select(e => e with { Note = $"{o.Kind}: {e.Note}" }))];
            Places = new EvidencePlaces(ReviewId, await CodeOfAsync(evidence), OpenCell?.State == "stays" ? "There is no code to show: nothing was found that ends it." : "There is no code to show.");
        }

        var filter = new FindingFilter(Area: "sessions");
        (FoundCount, _) = await Findings.CountAsync(Result!.Id, filter, cancel: Gone);
        Found = FoundCount == 0 ? [] : await Findings.AfterAsync(Result.Id, filter, -1, ShownFindings, cancel: Gone);
        return Page();
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        await LoadAsync();
        return Sessions is null ? NotFound() : File(Encoding.UTF8.GetBytes(SessionReport.Csv(Sessions)), "text/csv", "sessions.csv");
    }

    public async Task<IActionResult> OnGetJsonAsync()
    {
        await LoadAsync();
        return Sessions is null ? NotFound() : File(Encoding.UTF8.GetBytes(SessionReport.Json(Sessions)), "application/json", "sessions.json");
    }

    private async Task LoadAsync() => Sessions = Result is null ? null : (await ApplicationAsync())?.Sessions;

    /// <summary>The first thing to know, in a sentence.</summary>
    public string Summary
    {
        get
        {
            if (Sessions is not { Credentials.Count: > 0 } known)
            {
                return "";
            }

            var outliving = known.Credentials.Count(c => c.Life.Any(l => l.State == "stays"));
            var count = known.Credentials.Count == 1 ? "One credential" : $"{known.Credentials.Count} credentials";
            return outliving == 0 ? $"{count}; none was seen to outlive what should end it." : $"{count}; {(outliving == known.Credentials.Count ? known.Credentials.Count == 1 ? "it outlives" : "all outlive" : outliving == 1 ? "one outlives" : $"{outliving} outlive")} something that should end {(outliving == 1 ? "it" : "them")}.";
        }
    }

    public string ForgerySummary => Sessions is not { Forgery: { Count: > 0 } all } ? "" : $"{all.Count(f => f.State is "open" or "exempt")} of {all.Count} {(all.Count == 1 ? "entry point" : "entry points")} that change something {(all.Count(f => f.State is "open" or "exempt") == 1 ? "is" : "are")} not protected.";

    public string Link(int credential, string? what) => Opened == (credential, what) ? $"/reviews/{ReviewId}/sessions" : $"/reviews/{ReviewId}/sessions?open={credential}{(what is null ? "" : "." + what)}#opened";

    public string FileLink(ReportedPlace place) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
