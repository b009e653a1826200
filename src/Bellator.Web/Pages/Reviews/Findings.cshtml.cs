using System.Globalization;
using Bellator.Core.Auditing;
using Bellator.Core.Checks;
using Bellator.Storage;
using Bellator.Storage.Reviews;
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

    public IReadOnlyList<FindingRow> Rows { get; private set; } = [];

    /// <summary>Addresses of the application that the text is found in, and tables.</summary>
    public IReadOnlyList<ReportedEntry> Addresses { get; private set; } = [];

    public IReadOnlyList<ReportedTable> Tables { get; private set; } = [];

    public const int MostAddresses = 8;

    public override string Stage => Area is { Length: > 0 } area && CheckList.Areas.Contains(area) ? char.ToUpperInvariant(area[0]) + area[1..] : "Findings";

    public string Heading => Stage == "Findings" ? "Findings" : $"Findings about {Stage.ToLowerInvariant()}";

    public bool IsFiltered => !string.IsNullOrEmpty(Area + Score + Certainty + Verdict + Text);

    public string Summary
    {
        get
        {
            var judged = Rows.Count(r => r.Verdict != "to judge");
            return Result is null ? "" : Rows.Count == 0 ? "" : $"{Rows.Count} shown, {Rows.Count - judged} still to judge.";
        }
    }

    /// <summary>The choice as it stands, handed on so that a finding's neighbours are those of this list.</summary>
    public string Query => Request.QueryString.Value ?? "";

    public static string TitleOf(FindingRow row) => CheckList.Find(row.CheckId)?.Title ?? row.CheckId;

    public async Task OnGetAsync()
    {
        if (Result is not null)
        {
            Rows = await Findings.ListAsync(Result.Id, Filter(Area, Score, Certainty, Verdict, Text), HttpContext.RequestAborted);
            if (!string.IsNullOrWhiteSpace(Text) && (await new ApplicationTable(Scope).OfAsync(Result.Id, HttpContext.RequestAborted))?.Surface is { } surface)
            {
                var text = Text.Trim();
                Addresses = [.. surface.Entries.Where(e => SurfacePageModel.Speaks(e, text))];
                Tables = [.. surface.Tables.Where(t => t.Name.Contains(text, StringComparison.OrdinalIgnoreCase) || t.Columns.Any(c => c.Name.Contains(text, StringComparison.OrdinalIgnoreCase)))];
            }
        }
    }

    internal static FindingFilter Filter(string? area, string? score, string? certainty, string? verdict, string? text) => new(
        area,
        certainty,
        verdict,
        decimal.TryParse(score, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var minimum) ? minimum : null,
        text is { Length: > 200 } ? text[..200] : text);
}
