using System.Globalization;
using Bellator.Core.Auditing;
using Bellator.Core.Checks;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class FindingsModel(Database database) : ReviewPage(database)
{
    public static readonly (string Value, string Name)[] Severities = [("4", "4.0 medium"), ("7", "7.0 high"), ("9", "9.0 critical")];

    [BindProperty(SupportsGet = true)]
    public string? Area { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Score { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Certainty { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Verdict { get; set; }

    [BindProperty(SupportsGet = true)]
    public string? Text { get; set; }

    /// <summary>The place after which this page of the list begins.</summary>
    [BindProperty(SupportsGet = true)]
    public int? After { get; set; }

    /// <summary>The place before which it ends.</summary>
    [BindProperty(SupportsGet = true)]
    public int? Before { get; set; }

    public IReadOnlyList<FindingRow> Rows { get; private set; } = [];

    public int Total { get; private set; }

    public int Open { get; private set; }

    public bool HasMore { get; private set; }

    public bool HasEarlier { get; private set; }

    /// <summary>Addresses of the application that the text is found in, and tables.</summary>
    public IReadOnlyList<ReportedEntry> Addresses { get; private set; } = [];

    public IReadOnlyList<ReportedTable> Tables { get; private set; } = [];

    public const int MostAddresses = 8;

    public override string Stage => Area is { Length: > 0 } area && CheckList.Areas.Contains(area) ? char.ToUpperInvariant(area[0]) + area[1..] : "Findings";

    public string Heading => Stage == "Findings" ? "Findings" : $"Findings about {Stage.ToLowerInvariant()}";

    public bool IsFiltered => !string.IsNullOrEmpty(Area + Score + Certainty + Verdict + Text);

    public string Summary => Result is null || Total == 0 ? "" : $"{Numbers.Say(Total, "finding")}, {Open.ToString("N0", CultureInfo.InvariantCulture)} still to judge."
        + (Rows.Count < Total ? $" {Rows.Count} on this page." : "");

    /// <summary>The choice as it stands, handed on so that a finding's neighbours are those of this list.</summary>
    public string Query => Choice();

    /// <summary>The choice as a query, with a place in the list.</summary>
    public string Choice(string? place = null, int position = 0) => QueryString.Create(
        new (string Name, string? Value)[] { ("area", Area), ("score", Score), ("certainty", Certainty), ("verdict", Verdict), ("text", Text), (place ?? "", place is null ? null : position.ToString(CultureInfo.InvariantCulture)) }
            .Where(p => !string.IsNullOrEmpty(p.Value)).Select(p => KeyValuePair.Create(p.Name, p.Value))).Value ?? "";

    public static string TitleOf(FindingRow row) => CheckList.Find(row.CheckId)?.Title ?? row.CheckId;

    public async Task OnGetAsync()
    {
        if (Result is not null)
        {
            var filter = Filter(Area, Score, Certainty, Verdict, Text);
            (Total, Open) = await Findings.CountAsync(Result.Id, filter, cancel: Gone);
            await LoadPageAsync(filter);
            if (!string.IsNullOrWhiteSpace(Text) && (await ApplicationAsync())?.Surface is { } surface)
            {
                var text = Text.Trim();
                Addresses = [.. surface.Entries.Where(e => SurfacePageModel.Speaks(e, text))];
                Tables = [.. surface.Tables.Where(t => t.Name.Contains(text, StringComparison.OrdinalIgnoreCase) || t.Columns.Any(c => c.Name.Contains(text, StringComparison.OrdinalIgnoreCase)))];
            }
        }
    }

    private async Task LoadPageAsync(FindingFilter filter)
    {
        const int Size = FindingTable.PageSize;
        if (Before is { } before)
        {
            var rows = await Findings.BeforeAsync(Result!.Id, filter, before, Size + 1, cancel: Gone);
            (Rows, HasEarlier, HasMore) = ([.. rows.TakeLast(Size)], rows.Count > Size, true);
        }
        else
        {
            var rows = await Findings.AfterAsync(Result!.Id, filter, After ?? -1, Size + 1, cancel: Gone);
            (Rows, HasEarlier, HasMore) = ([.. rows.Take(Size)], After is not null, rows.Count > Size);
        }
    }

    internal static FindingFilter Filter(string? area, string? score, string? certainty, string? verdict, string? text) => new(
        area,
        certainty,
        verdict,
        decimal.TryParse(score, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var minimum) ? minimum : null,
        text is { Length: > 200 } ? text[..200] : text);
}
