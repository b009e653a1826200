using Bellator.Audit.Auditing;
using Bellator.Audit.Checks;
using Bellator.Audit.Comparison;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Accounts;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

public sealed class FindingModel(Database database) : ReviewPage(database)
{
    private const int LongestReason = 2000;
    private const int LongestNote = 8000;

    [BindProperty(SupportsGet = true)]
    public long Id { get; set; }

    public override string Stage => Row is null ? "Findings" : char.ToUpperInvariant(Row.Area[0]) + Row.Area[1..];

    public FindingRow Row { get; private set; } = null!;

    public ReportedFinding Finding { get; private set; } = null!;

    public Check Check => Finding.Check;

    public IReadOnlyList<TraceStop> Stops { get; private set; } = [];

    public IReadOnlyList<VerdictRow> History { get; private set; } = [];

    /// <summary>Other findings under headings: those of the same weakness, then the rest of the list that the reviewer came from.</summary>
    public IReadOnlyList<(string Title, IReadOnlyList<FindingRow> Rows)> Neighbours { get; private set; } = [];

    public string? Message { get; private set; }

    public string? Choice { get; private set; }

    public string? Reason { get; private set; }

    /// <summary>The choice of the list that the reviewer came from.</summary>
    public string Query => FindingChoice.Of(Request.Query).Query();

    public IReadOnlyList<NoteRow> Notes { get; private set; } = [];

    public IReadOnlyList<MemberRow> Members { get; private set; } = [];

    public IReadOnlyList<string> Reasons { get; private set; } = [];

    public string? AssignedTo { get; private set; }

    public long Seen { get; private set; }

    /// <summary>How many findings have the same cause; a verdict may be given on all of them.</summary>
    public int SameCause { get; private set; }

    private readonly Dictionary<string, SourceFile> _files = new(StringComparer.Ordinal);

    public async Task<IActionResult> OnGetAsync() => await LoadAsync() ? await ShowAsync() : NotFound();

    public async Task<IActionResult> OnPostAsync(string? verdict, string? reason, DateOnly? until, long? seen, bool whole)
    {
        if (!await LoadAsync())
        {
            return NotFound();
        }

        Choice = verdict;
        Reason = reason;
        if (verdict is null || !Verdicts.All.Contains(verdict))
        {
            Message = "Choose a verdict.";
            return await ShowAsync();
        }

        if (string.IsNullOrWhiteSpace(reason) || reason.Length > LongestReason)
        {
            Message = "Say why, in at most 2000 characters: the verdict goes into the report.";
            return await ShowAsync();
        }

        if (until is { } day && verdict == Verdicts.RiskAccepted && day <= DateOnly.FromDateTime(DateTime.UtcNow))
        {
            Message = "The day until which the risk is accepted lies in the past.";
            return await ShowAsync();
        }

        var table = new VerdictTable(Scope);
        var prints = whole && Row.Cause is { } cause && Result is not null ? await table.OfCauseAsync(Result.Id, cause) : [Row.Fingerprint];
        var (_, left) = await table.JudgeAsync(ReviewId, new Judgement(prints, verdict, reason.Trim(), verdict == Verdicts.RiskAccepted ? until : null, seen));
        if (left.Contains(Row.Fingerprint))
        {
            Message = "A colleague judged it meanwhile: see the history. Record your verdict again if it is to replace theirs.";
            History = await table.HistoryAsync(ReviewId, Row.Fingerprint);
            Seen = await table.NewestAsync(ReviewId);
            return await ShowAsync();
        }

        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostUndoAsync(Guid batch)
    {
        await new VerdictTable(Scope).UndoAsync(ReviewId, batch);
        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostNoteAsync(string? note)
    {
        if (!await LoadAsync())
        {
            return NotFound();
        }

        if (string.IsNullOrWhiteSpace(note) || note.Length > LongestNote)
        {
            Message = "A note has from 1 to 8000 characters.";
            return await ShowAsync();
        }

        await new TeamworkTable(Scope).NoteAsync(ReviewId, Row.Fingerprint, note.Trim());
        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostAssignAsync(string? member)
    {
        if (!await LoadAsync())
        {
            return NotFound();
        }

        var account = Members.FirstOrDefault(m => m.Account.ToString() == member)?.Account;
        await new TeamworkTable(Scope).AssignAsync(ReviewId, [Row.Fingerprint], account);
        await Scope.CommitAsync();
        return Back();
    }

    private RedirectResult Back() => Redirect($"/reviews/{ReviewId}/findings/{Id}{Query}");

    private async Task<bool> LoadAsync()
    {
        using (var first = Scope.Together())
        {
            var (found, read) = (Findings.FindAsync(ReviewId, Id, Gone), Findings.DetailAsync(ReviewId, Id, Gone));
            await first.AskAsync(Gone);
            if (await found is not { } known || await read is not { } details)
            {
                return false;
            }

            (Row, Finding, var snapshot) = (known, details.Finding, details.Snapshot);
            await LoadMoreAsync(known, snapshot);
        }

        return true;
    }

    /// <summary>All that the page shows beside the finding, in one round trip.</summary>
    private async Task LoadMoreAsync(FindingRow row, Guid snapshot)
    {
        using var together = Scope.Together();
        var verdicts = new VerdictTable(Scope);
        var teamwork = new TeamworkTable(Scope);
        var history = verdicts.HistoryAsync(ReviewId, row.Fingerprint, Gone);
        var reasons = verdicts.ReasonsAsync(ReviewId, Gone);
        var seen = verdicts.NewestAsync(ReviewId, Gone);
        var notes = teamwork.NotesAsync(ReviewId, row.Fingerprint, Gone);
        var members = new ReviewTable(Scope).MembersAsync(ReviewId, Gone);
        var assigned = teamwork.AssignedAsync(ReviewId, [row.Fingerprint], Gone);
        var files = TraceView.PathsOf(Finding).Select(path => OpenFileAsync(snapshot, path)).ToList();
        var choice = FindingChoice.Of(Request.Query);
        var same = Result is not null && row.Cause is { } cause ? Findings.CountAsync(Result.Id, new FindingFilter { Cause = cause }, cancel: Gone) : null;
        var neighbours = Result is null ? Task.CompletedTask : LoadNeighboursAsync(row, choice.Filter(User.AccountId(), null));
        await together.AskAsync(Gone);
        (History, Reasons, Seen, Notes, Members) = (await history, await reasons, await seen, await notes, await members);
        AssignedTo = (await assigned).Select(a => a.Name).FirstOrDefault();
        SameCause = same is null ? 1 : (await same).Total;
        foreach (var file in await Task.WhenAll(files))
        {
            if (file is not null)
            {
                _files[file.Path] = file;
            }
        }

        await neighbours;
    }

    private async Task<IActionResult> ShowAsync()
    {
        await CloseAsync();
        Stops = TraceView.Build(Finding, _files);
        return Page();
    }

    /// <summary>Those around this one: a list of thousands would cost more than the finding itself.</summary>
    private async Task LoadNeighboursAsync(FindingRow row, FindingFilter filter)
    {
        var run = Result!.Id;
        var sameCount = Findings.CountAsync(run, filter, row.CheckId, Gone);
        var allCount = Findings.CountAsync(run, filter, cancel: Gone);
        var sameBefore = Findings.BeforeAsync(run, filter, row.Position, Around, row.CheckId, cancel: Gone);
        var sameAfter = Findings.AfterAsync(run, filter, row.Position - 1, Around, row.CheckId, cancel: Gone);
        var ((count, _), (all, _)) = (await sameCount, await allCount);
        IReadOnlyList<FindingRow> same = [.. await sameBefore, .. await sameAfter];

        // Where there are none, looking for them would go through the whole run.
        IReadOnlyList<FindingRow> others = [];
        if (all != count)
        {
            using var together = Scope.Together();
            var before = Findings.BeforeAsync(run, filter, row.Position, Around / 2, row.CheckId, isOther: true, cancel: Gone);
            var after = Findings.AfterAsync(run, filter, row.Position, Around, row.CheckId, isOther: true, cancel: Gone);
            await together.AskAsync(Gone);
            others = [.. await before, .. await after];
        }

        Neighbours = [.. new[] { ($"{Count(count)} of this kind{(count > same.Count ? $", {same.Count} nearby" : "")}", same), ("Others", others) }.Where(g => g.Item2.Count > 0)];
    }

    private const int Around = 30;

    private static string Count(int count) => count == 1 ? "One" : count.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
