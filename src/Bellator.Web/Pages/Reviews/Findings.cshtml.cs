using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>The findings of the latest audit: by cause, or as a flat list; judged one by one, by cause, or as a selection.</summary>
public sealed class FindingsModel(Database database) : ReviewPage(database)
{
    public const int MostAddresses = 8;
    public const int ShownFlows = 12;
    private const int LongestReason = 2000;
    private const int LongestFilterName = 60;

    /// <summary>The choice of this page, all of it in the address.</summary>
    public FindingChoice Choice { get; private set; } = new();

    public IReadOnlyList<CauseRow> Causes { get; private set; } = [];

    public IReadOnlyList<FindingRow> Rows { get; private set; } = [];

    public int CauseCount { get; private set; }

    public int Total { get; private set; }

    public int Open { get; private set; }

    public bool HasMore { get; private set; }

    public bool HasEarlier { get; private set; }

    /// <summary>Addresses of the application that the text is found in, and tables.</summary>
    public IReadOnlyList<ReportedEntry> Addresses { get; private set; } = [];

    public IReadOnlyList<ReportedTable> Tables { get; private set; } = [];

    public IReadOnlyList<MemberRow> Members { get; private set; } = [];

    public IReadOnlyList<SavedFilterRow> Saved { get; private set; } = [];

    public IReadOnlyList<string> Reasons { get; private set; } = [];

    public IReadOnlyDictionary<string, string> Assigned { get; private set; } = new Dictionary<string, string>();

    public (string CheckId, string Path, int Line)? Worst { get; private set; }

    /// <summary>The newest verdict that this page shows: what comes later is not overwritten unseen.</summary>
    public long Seen { get; private set; }

    public string? Message { get; private set; }

    /// <summary>The judgement that was just given, to be taken back.</summary>
    [BindProperty(SupportsGet = true)]
    public Guid? Judged { get; set; }

    [BindProperty(SupportsGet = true)]
    public int Left { get; set; }

    public override string Stage => Choice.Area is { Length: > 0 } area && CheckList.Areas.Contains(area) ? char.ToUpperInvariant(area[0]) + area[1..] : "Findings";

    public string Heading => Stage == "Findings" ? "Findings" : $"Findings about {Stage.ToLowerInvariant()}";

    public string Summary => Result is null || Total == 0 ? "" : Open == 0 ? $"{Numbers.Say(Total, "finding")}, all judged."
        : $"{(Total - Open).ToString("N0", CultureInfo.InvariantCulture)} of {Total.ToString("N0", CultureInfo.InvariantCulture)} judged{(Worst is { } worst ? $"; worst open: {CheckList.Find(worst.CheckId)?.Title ?? worst.CheckId}, {worst.Path}:{worst.Line}" : "")}.";

    public static string TitleOf(FindingRow row) => TitleOf(row.CheckId);

    public static string TitleOf(string check) => CheckList.Find(check)?.Title ?? check;

    public async Task OnGetAsync()
    {
        Choice = FindingChoice.Of(Request.Query);
        await LoadAsync();
    }

    public async Task<IActionResult> OnPostJudgeAsync(string? verdict, string? reason, DateOnly? until, long? seen)
    {
        Choice = FindingChoice.Of(Request.Query);
        if (verdict is null || !Verdicts.All.Contains(verdict))
        {
            return await SayAsync("Choose a verdict.");
        }

        if (string.IsNullOrWhiteSpace(reason) || reason.Length > LongestReason)
        {
            return await SayAsync("Say why, in at most 2000 characters: the verdict goes into the report.");
        }

        if (until is { } day && (verdict != Verdicts.RiskAccepted || day <= DateOnly.FromDateTime(DateTime.UtcNow)))
        {
            return await SayAsync(verdict == Verdicts.RiskAccepted ? "The day until which the risk is accepted lies in the past." : "Only a risk is accepted until a day.");
        }

        var chosen = await SelectedAsync();
        if (chosen.Count == 0)
        {
            return await SayAsync("Select findings or causes first.");
        }

        var (batch, left) = await new VerdictTable(Scope).JudgeAsync(ReviewId, new Judgement(chosen, verdict, reason.Trim(), until, seen), Gone);
        await Scope.CommitAsync(Gone);
        return Redirect(Choice.Address(ReviewId, ("judged", batch.ToString()), ("left", left.Count > 0 ? left.Count.ToString(CultureInfo.InvariantCulture) : null)));
    }

    public async Task<IActionResult> OnPostUndoAsync(Guid batch)
    {
        Choice = FindingChoice.Of(Request.Query);
        await new VerdictTable(Scope).UndoAsync(ReviewId, batch, Gone);
        await Scope.CommitAsync(Gone);
        return Redirect(Choice.Address(ReviewId));
    }

    public async Task<IActionResult> OnPostAssignAsync(string? member)
    {
        Choice = FindingChoice.Of(Request.Query);
        var chosen = await SelectedAsync();
        if (chosen.Count == 0)
        {
            return await SayAsync("Select findings or causes first.");
        }

        var account = Guid.TryParse(member, out var id) ? id : (Guid?)null;
        if (account is not null && (await new ReviewTable(Scope).MembersAsync(ReviewId, Gone)).All(m => m.Account != account))
        {
            return await SayAsync("Findings are assigned to members of the review.");
        }

        await new TeamworkTable(Scope).AssignAsync(ReviewId, chosen, account, Gone);
        await Scope.CommitAsync(Gone);
        return Redirect(Choice.Address(ReviewId));
    }

    public async Task<IActionResult> OnPostSaveAsync(string? name)
    {
        Choice = FindingChoice.Of(Request.Query);
        if (string.IsNullOrWhiteSpace(name) || name.Length > LongestFilterName)
        {
            return await SayAsync("Give the choice a name of at most 60 characters.");
        }

        await new TeamworkTable(Scope).SaveFilterAsync(ReviewId, name.Trim(), Choice.Query(), Gone);
        await Scope.CommitAsync(Gone);
        return Redirect(Choice.Address(ReviewId));
    }

    public async Task<IActionResult> OnPostForgetAsync(string name)
    {
        Choice = FindingChoice.Of(Request.Query);
        await new TeamworkTable(Scope).ForgetFilterAsync(ReviewId, name, Gone);
        await Scope.CommitAsync(Gone);
        return Redirect(Choice.Address(ReviewId));
    }

    /// <summary>The names of all findings that the form selects: single ones, those of causes, or all of the choice.</summary>
    private async Task<IReadOnlyList<string>> SelectedAsync()
    {
        if (Result is null)
        {
            return [];
        }

        if (Request.Form["all"] == "1")
        {
            return [.. (await Findings.AfterAsync(Result.Id, await FilterAsync(), -1, VerdictTable.MostAtOnce, cancel: Gone)).Select(f => f.Fingerprint)];
        }

        var chosen = Request.Form["finding"].OfType<string>().Where(f => f.Length is > 0 and <= 64).ToHashSet(StringComparer.Ordinal);
        foreach (var cause in Request.Form["cause"])
        {
            if (int.TryParse(cause, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            {
                chosen.UnionWith(await new VerdictTable(Scope).OfCauseAsync(Result.Id, number, Gone));
            }
        }

        return [.. chosen];
    }

    private async Task<IActionResult> SayAsync(string message)
    {
        Message = message;
        await LoadAsync();
        return Page();
    }

    private async Task<FindingFilter> FilterAsync()
    {
        var since = Choice.Since ? await new TeamworkTable(Scope).VisitAsync(ReviewId, Gone) : null;
        return Choice.Filter(User.AccountId(), since);
    }

    private async Task LoadAsync()
    {
        if (Result is null)
        {
            return;
        }

        var filter = await FilterAsync();
        var teamwork = new TeamworkTable(Scope);
        using (var together = Scope.Together())
        {
            var counted = Findings.CountAsync(Result.Id, filter, cancel: Gone);
            var members = new ReviewTable(Scope).MembersAsync(ReviewId, Gone);
            var saved = teamwork.FiltersAsync(ReviewId, Gone);
            var seen = new VerdictTable(Scope).NewestAsync(ReviewId, Gone);
            var reasons = new VerdictTable(Scope).ReasonsAsync(ReviewId, Gone);
            var listed = Choice.IsFlat ? LoadRowsAsync(filter) : Task.CompletedTask;
            await together.AskAsync(Gone);
            ((Total, Open), Members, Saved, Seen, Reasons) = (await counted, await members, await saved, await seen, await reasons);
            await listed;
        }

        // Where nothing is open, looking for it would go through all causes.
        Worst = Open > 0 ? await new CauseTable(Scope).WorstOpenAsync(Result.Id, Gone) : null;

        if (!Choice.IsFlat)
        {
            await LoadCausesAsync(filter);
        }

        Assigned = (await teamwork.AssignedAsync(ReviewId, [.. Rows.Concat(Causes.SelectMany(c => c.Flows)).Select(f => f.Fingerprint).Distinct()], Gone)).ToDictionary(a => a.Fingerprint, a => a.Name);
        if (!string.IsNullOrWhiteSpace(Choice.Text) && (await ApplicationAsync())?.Surface is { } surface)
        {
            var text = Choice.Text.Trim();
            Addresses = [.. surface.Entries.Where(e => SurfacePageModel.Speaks(e, text))];
            Tables = [.. surface.Tables.Where(t => t.Name.Contains(text, StringComparison.OrdinalIgnoreCase) || t.Columns.Any(c => c.Name.Contains(text, StringComparison.OrdinalIgnoreCase)))];
        }
    }

    private async Task LoadCausesAsync(FindingFilter filter)
    {
        var table = new CauseTable(Scope);
        CauseCount = await table.CountAsync(Result!.Id, filter, Gone);
        var causes = await table.AfterAsync(Result.Id, filter, Choice.After ?? 0, CauseTable.PageSize + 1, ShownFlows, Gone);
        (Causes, HasEarlier, HasMore) = ([.. causes.Take(CauseTable.PageSize)], Choice.After is > 0, causes.Count > CauseTable.PageSize);
    }

    private async Task LoadRowsAsync(FindingFilter filter)
    {
        const int Size = FindingTable.PageSize;
        if (Choice.Before is { } before)
        {
            var rows = await Findings.BeforeAsync(Result!.Id, filter, before, Size + 1, cancel: Gone);
            (Rows, HasEarlier, HasMore) = ([.. rows.TakeLast(Size)], rows.Count > Size, true);
        }
        else
        {
            var rows = await Findings.AfterAsync(Result!.Id, filter, Choice.After ?? -1, Size + 1, cancel: Gone);
            (Rows, HasEarlier, HasMore) = ([.. rows.Take(Size)], Choice.After is not null, rows.Count > Size);
        }
    }
}
