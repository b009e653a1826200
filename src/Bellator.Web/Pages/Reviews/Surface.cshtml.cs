using System.Text;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Audit.Tables;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The surface stage: every address with what guards it and what it uses, every table with what its columns hold.</summary>
public sealed class SurfacePageModel(Database database) : ReviewPage(database)
{
    /// <summary>More addresses than this are drawn by the path they lie below.</summary>
    private const int MostLines = 48;

    private const int MostTables = 26;

    private IReadOnlyDictionary<(string Table, string Column), string> _meanings = new Dictionary<(string, string), string>();

    public override string Stage => "Surface";

    [BindProperty(SupportsGet = true, Name = "text")]
    public string? Text { get; set; }

    [BindProperty(SupportsGet = true, Name = "signin")]
    public string? Reach { get; set; }

    [BindProperty(SupportsGet = true, Name = "action")]
    public string? Action { get; set; }

    [BindProperty(SupportsGet = true, Name = "under")]
    public string? Under { get; set; }

    [BindProperty(SupportsGet = true, Name = "view")]
    public string? View { get; set; }

    [BindProperty(SupportsGet = true, Name = "entry")]
    public string? EntryKey { get; set; }

    [BindProperty(SupportsGet = true, Name = "table")]
    public string? TableName { get; set; }

    public ReportedApplication? Application { get; private set; }

    public ReportedSurface Surface => Application?.Surface ?? ReportedSurface.Empty;

    public IReadOnlyList<ReportedEntry> Entries { get; private set; } = [];

    public ReportedEntry? Entry { get; private set; }

    public ReportedTable? Table { get; private set; }

    public async Task<IActionResult> OnGetAsync()
    {
        await LoadAsync();
        return Page();
    }

    public async Task<IActionResult> OnGetOpenApiAsync()
    {
        await LoadAsync();
        return Application is null ? NotFound() : File(Encoding.UTF8.GetBytes(OpenApiReport.Write(Surface, ReviewName, VersionText)), "application/json", "openapi.json");
    }

    public async Task<IActionResult> OnGetCsvAsync()
    {
        await LoadAsync();
        return Application is null ? NotFound() : File(Encoding.UTF8.GetBytes(SurfaceReport.Csv(Surface with { Entries = Entries })), "text/csv", "surface.csv");
    }

    /// <summary>The reviewer says what a column holds; an empty meaning is one as well, and “as recognised” takes it back.</summary>
    public async Task<IActionResult> OnPostMeaningAsync(string table, string column, string meaning)
    {
        await LoadAsync();
        var known = Surface.Tables.FirstOrDefault(t => t.Name == table)?.Columns.FirstOrDefault(c => c.Name == column);
        if (known is null || (meaning is not (null or "" or "recognised") && !ColumnMeanings.All.Contains(meaning)))
        {
            return BadRequest();
        }

        await new ApplicationTable(Scope).SetMeaningAsync(ReviewId, table, column, meaning == "recognised" ? null : meaning ?? "", HttpContext.RequestAborted);
        await Scope.CommitAsync(HttpContext.RequestAborted);
        return Redirect(Here(("table", table)));
    }

    private static string VersionText => typeof(SurfacePageModel).Assembly.GetName().Version?.ToString(3) ?? "0.0.0";

    private async Task LoadAsync()
    {
        if (Result is null)
        {
            return;
        }

        var stored = new ApplicationTable(Scope);
        Application = await ApplicationAsync();
        _meanings = await stored.MeaningsAsync(ReviewId, HttpContext.RequestAborted);
        Entries = [.. Surface.Entries.Where(Fits)];
        Entry = Surface.Entries.FirstOrDefault(e => KeyOf(e) == EntryKey);
        Table = Surface.Tables.FirstOrDefault(t => t.Name == TableName) ?? (TableName is null ? null : Tables().FirstOrDefault(t => t.Name.Equals(TableName, StringComparison.OrdinalIgnoreCase)));
    }

    private bool Fits(ReportedEntry entry) =>
        (string.IsNullOrWhiteSpace(Text) || Speaks(entry, Text.Trim()))
        && (string.IsNullOrEmpty(Reach) || entry.SignIn == Reach)
        && (string.IsNullOrEmpty(Action) || entry.Accesses.Any(a => a.Action == Action))
        && (string.IsNullOrEmpty(Under) || entry.Path == Under || entry.Path.StartsWith(Under.TrimEnd('/') + "/", StringComparison.Ordinal));

    internal static bool Speaks(ReportedEntry entry, string text) =>
        entry.Path.Contains(text, StringComparison.OrdinalIgnoreCase) || entry.Handler.Contains(text, StringComparison.OrdinalIgnoreCase) || entry.Declared.Path.Contains(text, StringComparison.OrdinalIgnoreCase)
        || entry.Accesses.Any(a => a.Table.Contains(text, StringComparison.OrdinalIgnoreCase));

    public static string KeyOf(ReportedEntry entry) => $"{entry.Method} {entry.Path} {entry.Declared.Path}:{entry.Declared.Region.StartLine}";

    /// <summary>What a column holds: as a reviewer says, or as it was recognised.</summary>
    public (string Meaning, string Why, bool IsSaid) MeaningOf(ReportedTable table, ReportedColumn column) =>
        _meanings.TryGetValue((table.Name, column.Name), out var said) ? (said, "a reviewer says so", true) : (column.Meaning, column.Why, false);

    /// <summary>Tables that the shown addresses use or, if nothing is filtered, all; those that nothing declares come without columns.</summary>
    public IReadOnlyList<ReportedTable> Tables()
    {
        var used = Entries.SelectMany(e => e.Accesses).Select(a => a.Table).Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        var isAll = string.IsNullOrWhiteSpace(Text) && string.IsNullOrEmpty(Reach) && string.IsNullOrEmpty(Action) && string.IsNullOrEmpty(Under);
        var declared = Surface.Tables.Where(t => isAll || used.Contains(t.Name, StringComparer.OrdinalIgnoreCase));
        return [.. declared.Concat(used.Where(u => !Surface.Tables.Any(t => t.Name.Equals(u, StringComparison.OrdinalIgnoreCase))).Select(u => new ReportedTable(u, [], [], false, [])))
            .OrderByDescending(t => Entries.Count(e => e.Accesses.Any(a => a.Table.Equals(t.Name, StringComparison.OrdinalIgnoreCase))))];
    }

    /// <summary>The tables that are used most, each about as high as the addresses that use it: so that fewer lines cross.</summary>
    public IReadOnlyList<MapTable> MapTables() =>
        [.. Tables().Take(MostTables)
            .OrderBy(t => Entries.Select((e, i) => (e, i)).Where(p => p.e.Accesses.Any(a => a.Table.Equals(t.Name, StringComparison.OrdinalIgnoreCase))).Select(p => (double)p.i).DefaultIfEmpty(int.MaxValue).Average())
            .Select(t => new MapTable(t.Name, [.. t.Columns.Select(c => (c.Name, MeaningOf(t, c).Meaning)).Where(c => c.Meaning.Length > 0)], Here(("table", t.Name)), t == Table))];

    public int TablesLeftOut => Math.Max(0, Tables().Count - MostTables);

    public bool IsGrouped => Entries.Count > MostLines;

    public IReadOnlyList<MapLine> MapLines()
    {
        if (!IsGrouped)
        {
            return [.. Entries.Select(e => new MapLine(KeyOf(e), e.Method, e.Path, e.SignIn, 1, Uses([e]), Here(("entry", KeyOf(e))), e == Entry))];
        }

        var depth = (Under ?? "").Split('/', StringSplitOptions.RemoveEmptyEntries).Length + 1;
        return [.. Entries.GroupBy(e => "/" + string.Join('/', e.Path.Split('/', StringSplitOptions.RemoveEmptyEntries).Take(depth)), StringComparer.Ordinal)
            .Select(g => g.Count() == 1
                ? new MapLine(KeyOf(g.First()), g.First().Method, g.First().Path, g.First().SignIn, 1, Uses(g), Here(("entry", KeyOf(g.First()))), g.First() == Entry)
                : new MapLine(g.Key, "", g.Key, g.Select(e => e.SignIn).Distinct().Count() == 1 ? g.First().SignIn : "mixed", g.Count(), Uses(g), Here(("under", g.Key)), false))
            .OrderByDescending(l => l.Count).Take(MostLines).OrderBy(l => l.Text, StringComparer.Ordinal)];
    }

    private static List<(string, string, bool)> Uses(IEnumerable<ReportedEntry> entries) => [.. entries.SelectMany(e => e.Accesses).Select(a => (a.Table, a.Action, a.IsGuess)).Distinct()];

    /// <summary>This page with what is filtered, and something else.</summary>
    public string Here(params (string Name, string? Value)[] changes)
    {
        var query = new Dictionary<string, string?>(StringComparer.Ordinal) { ["text"] = Text, ["signin"] = Reach, ["action"] = Action, ["under"] = Under, ["view"] = View };
        foreach (var (name, value) in changes)
        {
            query[name] = value;
        }

        var parts = query.Where(p => !string.IsNullOrEmpty(p.Value)).Select(p => $"{p.Key}={Uri.EscapeDataString(p.Value!)}");
        return $"/reviews/{ReviewId}/surface?{string.Join('&', parts)}".TrimEnd('?');
    }

    public string FileLink(ReportedPlace place) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
