using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Storage;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The records stage: who reaches whose records, as the code does it.</summary>
public sealed class RecordsModel(Database database) : ReviewPage(database)
{
    /// <summary>Record types drawn at once; a filter finds the others.</summary>
    private const int MostTables = 150;

    /// <summary>Uses listed at once beside the grid.</summary>
    private const int MostUses = 60;

    public override string Stage => "Records";

    [BindProperty(SupportsGet = true, Name = "text")]
    public string? Text { get; set; }

    /// <summary>Only record types whose entry points are not alike.</summary>
    [BindProperty(SupportsGet = true, Name = "unlike")]
    public bool OnlyUnlike { get; set; }

    [BindProperty(SupportsGet = true, Name = "table")]
    public string? Table { get; set; }

    [BindProperty(SupportsGet = true, Name = "person")]
    public string? Person { get; set; }

    [BindProperty(SupportsGet = true, Name = "action")]
    public string? Action { get; set; }

    public ReportedRecords? Records { get; private set; }

    public RecordGrid Grid { get; private set; } = new(ReportedRecords.Empty);

    public IReadOnlyList<string> Tables { get; private set; } = [];

    public int LeftOut { get; private set; }

    public async Task<IActionResult> OnGetAsync()
    {
        await LoadAsync();
        return Page();
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        await LoadAsync();
        return Records is null ? NotFound() : File(Encoding.UTF8.GetBytes(AccessReport.Csv(Records)), "text/csv", "access.csv");
    }

    public async Task<IActionResult> OnGetJsonAsync()
    {
        await LoadAsync();
        return Records is null ? NotFound() : File(Encoding.UTF8.GetBytes(AccessReport.Json(Records)), "application/json", "access.json");
    }

    private async Task LoadAsync()
    {
        Records = Result is null ? null : (await ApplicationAsync())?.Records;
        if (Records is null)
        {
            return;
        }

        Grid = new RecordGrid(Records);
        var fitting = Grid.Tables.Where(t => Fits(t)).ToList();
        Tables = [.. fitting.Take(MostTables)];
        LeftOut = fitting.Count - Tables.Count;
        var shown = (Table is null ? Tables.SelectMany(Grid.Unlike)
            : Action is not null && Person is not null ? Grid.Uses(Table, Person, Action)
            : Records.Uses.Where(u => u.Table.Equals(Table, StringComparison.OrdinalIgnoreCase))).ToList();
        Shown = [.. shown.Take(MostUses)];
        NotShown = shown.Count - Shown.Count;
    }

    private bool Fits(string table) =>
        (string.IsNullOrWhiteSpace(Text) || table.Contains(Text.Trim(), StringComparison.OrdinalIgnoreCase) || Records!.Uses.Any(u => u.Table.Equals(table, StringComparison.OrdinalIgnoreCase) && (u.Path.Contains(Text.Trim(), StringComparison.OrdinalIgnoreCase) || u.At.Path.Contains(Text.Trim(), StringComparison.OrdinalIgnoreCase))))
        && (!OnlyUnlike || Grid.Unlike(table).Count > 0);

    /// <summary>What is shown beside the grid: a cell, a record type, or what is not alike.</summary>
    public IReadOnlyList<ReportedRecordUse> Shown { get; private set; } = [];

    /// <summary>How many more there are.</summary>
    public int NotShown { get; private set; }

    public string ShownTitle => Table is null ? "Inconsistent entry points"
        : Action is not null && Person is not null ? $"{Table}: {Action}, {RecordGrid.Words(Person)}" : Table;

    public ReportedOwnership? OwnershipOf(string table) => Records?.Owned.FirstOrDefault(o => o.Table.Equals(table, StringComparison.OrdinalIgnoreCase));

    public bool IsUnlike(string table, string person, string action) => Grid.Unlike(table).Any(u => u.Action == action && RecordGrid.PersonOf(u) == person);

    public string Here(string? table = null, string? person = null, string? action = null, string? handler = null)
    {
        (string Name, string? Value)[] query = [("text", Text), ("unlike", OnlyUnlike ? "true" : null), ("table", table), ("person", person), ("action", action), ("handler", handler)];
        return $"/reviews/{ReviewId}/records?{string.Join('&', query.Where(p => !string.IsNullOrEmpty(p.Value)).Select(p => $"{p.Name}={Uri.EscapeDataString(p.Value!)}"))}".TrimEnd('?');
    }

    public string FileLink(ReportedPlace place) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
