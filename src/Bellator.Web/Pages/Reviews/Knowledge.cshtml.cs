using System.Text.Json;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Knowledge;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Accounts;
using Bellator.Web.Presentation;
using Bellator.Web.Runs;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>A proposal and what its trial came to.</summary>
/// <param name="Trial">Null where it was not tried yet.</param>
/// <param name="Gone">Findings that it answers; the first of <paramref name="GoneCount"/>.</param>
/// <param name="New">Findings that it brings.</param>
public sealed record ProposalView(FactRow Fact, RunRow? Trial, int GoneCount, IReadOnlyList<GoneRow> Gone, int NewCount, IReadOnlyList<FindingRow> New, IReadOnlyList<AuditNote> Notes);

/// <summary>What reviewers state of the audited code: proposed over a finding, tried in an audit of its own, kept, switched off.</summary>
public sealed class KnowledgeModel(Database database, RunDispatch dispatch, AccountTable accounts, BenchQueue bench) : ReviewPage(database)
{
    public const int MostShown = 100;
    private const int LongestFacts = 16_000;
    private const int LongestTitle = 200;
    private const int LongestReason = 2000;
    private static readonly TimeSpan SubjectTime = TimeSpan.FromSeconds(10);

    public override string Stage => "Findings";

    /// <summary>The finding over which something is to be stated.</summary>
    [BindProperty(SupportsGet = true, Name = "finding")]
    public long? FindingId { get; set; }

    public (FindingRow Row, ReportedFinding Finding)? About { get; private set; }

    /// <summary>Functions of which something may be stated; null if they could not be found out.</summary>
    public IReadOnlyList<StatementSubject>? Subjects { get; private set; } = [];

    public IReadOnlyList<ProposalView> Proposals { get; private set; } = [];

    public IReadOnlyList<FactRow> Kept { get; private set; } = [];

    public IReadOnlyList<FactRow> Off { get; private set; } = [];

    public string? Message { get; private set; }

    /// <summary>What was typed, where it was not accepted.</summary>
    public string? Facts { get; private set; }

    public string? Title { get; private set; }

    public string? Reason { get; private set; }

    /// <summary>Positions of the finding's sink, in the words of facts; empty where only “everywhere” makes sense.</summary>
    public IReadOnlyList<string> Positions => About is { } about ? SinkPositions.Of(about.Row.CheckId) : [];

    public static string Say(StatementKind kind) => kind switch
    {
        StatementKind.ResultHarmless => "its result is harmless, whatever goes in",
        StatementKind.MakesHarmless => "its result is its argument, made harmless",
        StatementKind.TrueVouches => "it is true only for a harmless argument",
        StatementKind.FalseVouches => "it is false only for a harmless argument",
        _ => "it comes back only for a harmless argument",
    };

    public async Task<IActionResult> OnGetAsync()
    {
        await LoadAsync();
        await ReadSubjectsAsync();
        return Page();
    }

    /// <summary>States something of one function, over a finding.</summary>
    public async Task<IActionResult> OnPostStateAsync(string? function, string? named, StatementKind kind, int argument, string? where, string? reason)
    {
        await LoadAsync();
        var name = (string.IsNullOrWhiteSpace(named) ? function : named)?.Trim();
        Reason = reason;
        if (About is not { } about)
        {
            return NotFound();
        }

        if (string.IsNullOrEmpty(name) || name.Length > Statement.LongestName || !Enum.IsDefined(kind) || argument is < 1 or > Statement.MostArguments)
        {
            return await SayAsync("Choose a function, and which argument it is about.");
        }

        var family = Languages.Family(Languages.Detect(about.Finding.Path, []));
        var statement = new Statement(family, name, kind, argument - 1, where == "here" ? Positions : []);
        return await ProposeAsync(statement.Sentence, statement.Facts(), reason, about.Row.Fingerprint);
    }

    /// <summary>Proposes a facts file as it was typed.</summary>
    public async Task<IActionResult> OnPostWriteAsync(string? title, string? facts, string? reason)
    {
        await LoadAsync();
        (Title, Facts, Reason) = (title, facts, reason);
        return await ProposeAsync(title, facts, reason, About?.Row.Fingerprint);
    }

    public async Task<IActionResult> OnPostDecideAsync(long fact, string? decision)
    {
        if (decision is not ("keep" or "off" or "try") || await new FactTable(Scope).FindAsync(ReviewId, fact, Gone) is not { } known)
        {
            return NotFound();
        }

        if (!await new FactTable(Scope).DecideAsync(fact, decision, Gone))
        {
            await LoadAsync();
            return await SayAsync(decision == "keep" ? "It is kept when its trial is over." : "That was decided meanwhile.");
        }

        // What holds now shows in the findings: what is kept and what is switched off is audited anew, what is tried beside it.
        var run = Result is null || (decision == "off" && known.State == "proposed") ? (Guid?)null
            : await new RunTable(Scope).QueueAsync(ReviewId, Result.Snapshot, Gone, decision == "try" ? fact : null);
        await Scope.CommitAsync(Gone);
        await accounts.LogAsync(User.AccountId(), $"fact {decision}", $"{ReviewId} {fact}", "");
        if (run is { } queued)
        {
            await dispatch.SendAsync(queued, Gone);
        }

        return Redirect(decision == "try" || run is null ? $"/reviews/{ReviewId}/knowledge" : $"/reviews/{ReviewId}");
    }

    private async Task<IActionResult> ProposeAsync(string? title, string? facts, string? reason, string? fingerprint)
    {
        if (string.IsNullOrWhiteSpace(title) || title.Length > LongestTitle)
        {
            return await SayAsync("Say in a line of at most 200 characters what is stated.");
        }

        if (string.IsNullOrWhiteSpace(reason) || reason.Length > LongestReason)
        {
            return await SayAsync("Say how you know, in at most 2000 characters: whoever reads the report will ask.");
        }

        if (string.IsNullOrWhiteSpace(facts) || facts.Length > LongestFacts)
        {
            return await SayAsync("A facts file has from 1 to 16000 characters.");
        }

        if (ModelReader.ProblemOf(new ModelReader("these facts", facts)) is { } problem)
        {
            return await SayAsync($"That is not understood: {problem}.");
        }

        if (Result is null)
        {
            return await SayAsync("Nothing was audited yet: there is nothing to try it on.");
        }

        var table = new FactTable(Scope);
        var id = await table.ProposeAsync(ReviewId, title.Trim(), facts.ReplaceLineEndings("\n"), reason.Trim(), fingerprint, Gone);
        var run = await new RunTable(Scope).QueueAsync(ReviewId, Result.Snapshot, Gone, id);
        await Scope.CommitAsync(Gone);
        await accounts.LogAsync(User.AccountId(), "fact proposed", $"{ReviewId} {id}", "");
        await dispatch.SendAsync(run, Gone);
        return Redirect($"/reviews/{ReviewId}/knowledge#fact-{id}");
    }

    private async Task<IActionResult> SayAsync(string message)
    {
        Message = message;
        await ReadSubjectsAsync();
        return Page();
    }

    private async Task LoadAsync()
    {
        var all = await new FactTable(Scope).ListAsync(ReviewId, Gone);
        (Kept, Off) = ([.. all.Where(f => f.State == "kept")], [.. all.Where(f => f.State == "off")]);
        var proposals = new List<ProposalView>();
        foreach (var fact in all.Where(f => f.State == "proposed"))
        {
            proposals.Add(await ShowAsync(fact));
        }

        Proposals = proposals;
        if (FindingId is { } id && await Findings.FindAsync(ReviewId, id, Gone) is { } row && await Findings.DetailAsync(ReviewId, id, Gone) is { } detail)
        {
            About = (row, detail.Finding);
            _snapshot = detail.Snapshot;
        }
    }

    private Guid _snapshot;

    private async Task<ProposalView> ShowAsync(FactRow fact)
    {
        var runs = new RunTable(Scope);
        if (fact.Trial is not { } trial || await runs.FindAsync(ReviewId, trial, Gone) is not { } run)
        {
            return new ProposalView(fact, null, 0, [], 0, [], []);
        }

        if (run.State != "done")
        {
            return new ProposalView(fact, run, 0, [], 0, [], []);
        }

        var changes = new ChangeTable(Scope);
        var counts = await changes.CountAsync(trial, Gone);
        var fresh = await changes.InStateAsync(trial, "new", -1, MostShown, Gone);
        var notes = (await runs.NotesAsync(trial, Gone)).Where(n => n.Path.Length == 0 && n.Text.Contains("fact", StringComparison.Ordinal)).ToList();
        return new ProposalView(fact, run, counts["gone"], await changes.GoneAsync(trial, "", MostShown, Gone), counts.GetValueOrDefault("new"), [.. fresh.Select(f => f.Finding)], notes);
    }

    /// <summary>The code is taken apart where audits are, for it may be hostile.</summary>
    private async Task ReadSubjectsAsync()
    {
        if (About is not { } about)
        {
            await CloseAsync();
            return;
        }

        var files = new List<BenchFile>();
        foreach (var path in TraceView.PathsOf(about.Finding))
        {
            if (await SnapshotRows.ContentAsync(_snapshot, path, Gone) is { } content)
            {
                files.Add(new BenchFile(path, content));
            }
        }

        await CloseAsync();
        try
        {
            var answer = await bench.DoAsync(new BenchTask("subjects", []) { Finding = JsonSerializer.Serialize(about.Finding), Files = files }, SubjectTime, null, Gone);
            Subjects = answer.Subjects;
        }
        catch (BusyException)
        {
            Subjects = null;
        }
    }
}
