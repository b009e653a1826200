using Bellator.Audit.Auditing;
using Bellator.Storage;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The accounts stage: the journeys that people take through the table of accounts, and which passwords they may choose.</summary>
public sealed class AccountsModel(Database database) : ReviewPage(database)
{
    public override string Stage => "Accounts";

    /// <summary>The journey and step that are open: <c>2.4</c>.</summary>
    [BindProperty(SupportsGet = true, Name = "open")]
    public string? Open { get; set; }

    public ReportedAccounts? Accounts { get; private set; }

    public (int Journey, int Step) Opened { get; private set; } = (-1, -1);

    /// <summary>The code that shows the open step.</summary>
    public EvidencePlaces? Places { get; private set; }

    public async Task<IActionResult> OnGetAsync()
    {
        if (Result is null)
        {
            return Page();
        }

        Accounts = (await ApplicationAsync())?.Accounts;
        if (Accounts is not null && Open?.Split('.') is [var first, var second] && int.TryParse(first, out var journey) && int.TryParse(second, out var step)
            && journey >= 0 && journey < Accounts.Journeys.Count && step >= 0 && step < Accounts.Journeys[journey].Steps.Count)
        {
            Opened = (journey, step);
            Places = new EvidencePlaces(ReviewId, await CodeOfAsync(Accounts.Journeys[journey].Steps[step].Evidence), "There is no code to show: what is missing stands nowhere.");
        }

        return Page();
    }

    public string Heading => Accounts is { Tables.Count: > 0 } known ? known.Tables.Count == 1 ? $"Journeys through the {known.Tables[0]} table" : $"Journeys through {string.Join(", ", known.Tables.Take(3))}{(known.Tables.Count > 3 ? $" and {known.Tables.Count - 3} more" : "")}" : "Journeys";

    /// <summary>What ways of one kind have that do not agree.</summary>
    public string Summary
    {
        get
        {
            if (Accounts is null)
            {
                return "";
            }

            var several = Accounts.Journeys.GroupBy(j => j.Kind).Where(g => g.Count() > 1).Select(g =>
            {
                var differing = g.SelectMany(j => j.Steps).Where(s => s.State != "notNeeded").GroupBy(s => s.Name).Where(s => s.Select(x => x.State).Distinct().Count() > 1).Select(s => s.Key).Take(3).ToList();
                return $"{Count(g.Count())} ways to {JourneyText.Title(g.Key).ToLowerInvariant()}{(differing.Count > 0 ? $", not alike in: {string.Join(", ", differing)}" : "")}";
            }).ToList();
            return string.Join(". ", several) + (several.Count > 0 ? "." : "");
        }
    }

    /// <summary>Of the journeys of a kind the one that lacks most is drawn at once; the others are a line that opens.</summary>
    public bool IsShownFirst(int journey)
    {
        var all = Accounts!.Journeys;
        var worst = Enumerable.Range(0, all.Count).Where(i => all[i].Kind == all[journey].Kind).MaxBy(i => all[i].Steps.Count(s => s.State == "absent"));
        return worst == journey;
    }

    private static string Count(int number) => number switch { 2 => "Two", 3 => "Three", 4 => "Four", 5 => "Five", 6 => "Six", 7 => "Seven", 8 => "Eight", 9 => "Nine", 10 => "Ten", 11 => "Eleven", 12 => "Twelve", _ => number.ToString(System.Globalization.CultureInfo.InvariantCulture) };

    public string StepLink(int journey, int step) => Opened == (journey, step) ? $"/reviews/{ReviewId}/accounts#j{journey}" : $"/reviews/{ReviewId}/accounts?open={journey}.{step}#j{journey}";

    public string FileLink(ReportedPlace place) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
