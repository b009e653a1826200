using Bellator.Audit.Auditing;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Bellator.Web.Presentation;
using Bellator.Web.Runs;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

[RequestSizeLimit(WebApp.MaxUploadBytes)]
[RequestFormLimits(MultipartBodyLengthLimit = WebApp.MaxUploadBytes)]
public sealed class IntakeModel(Database database, IntakeDesk desk, RunDispatch dispatch, WebSettings settings, UserManager<Account> users, AccountTable accounts) : ReviewPage(database)
{
    private const int MaxUploadedFiles = 2000;
    private const int LongestTitle = 100;

    /// <summary>So many files of each list are shown at once.</summary>
    public const int Shown = 200;

    public override string Stage => "Intake";

    /// <summary>The path after which the list of files goes on.</summary>
    [BindProperty(SupportsGet = true)]
    public string? After { get; set; }

    /// <summary>How many of those left out come before the list.</summary>
    [BindProperty(SupportsGet = true)]
    public int Skipped { get; set; }

    public string? Message { get; private set; }

    public IntakeRow? Intake { get; private set; }

    public IReadOnlyList<SnapshotFileRow> Files { get; private set; } = [];

    public IReadOnlyList<LeftOutRow> Left { get; private set; } = [];

    /// <summary>What the latest audit could not do as it should.</summary>
    public IReadOnlyList<AuditNote> Notes { get; private set; } = [];

    public IReadOnlyList<MemberRow> Members { get; private set; } = [];

    public bool IsOwner => Members.Any(m => m.IsOwner && m.Account == User.AccountId());

    /// <summary>An intake is shown while it is under way and when it came to nothing; otherwise its snapshot speaks for it.</summary>
    public bool ShowsIntake => Intake is { } intake && (intake.State == "reading" || (intake.State != "done" && (LatestRun is null || LatestRun.CreatedAt < intake.CreatedAt)));

    public async Task OnGetAsync() => await ShowAsync();

    public async Task<IActionResult> OnPostUploadAsync(List<IFormFile> files)
    {
        await CloseAsync();
        if (files.Count == 0 || files.Count > MaxUploadedFiles)
        {
            return await SayAsync("Choose an archive, or up to 2000 files.");
        }

        var title = files.Count == 1 ? NameOf(files[0]) : $"{files.Count} files";
        await desk.BeginAsync(User.AccountId(), ReviewId, new string([.. title.Where(c => !char.IsControl(c)).Take(LongestTitle)]), await KeepAsync(files), Gone);
        return Back();
    }

    public async Task<IActionResult> OnPostAuditAsync()
    {
        if (Snapshots.Count == 0)
        {
            return NotFound();
        }

        var run = await new RunTable(Scope).QueueAsync(ReviewId, Snapshots[0].Id);
        await Scope.CommitAsync();
        await CloseAsync();
        await dispatch.SendAsync(run);
        return Back();
    }

    public async Task<IActionResult> OnPostCancelAsync(Guid run)
    {
        await new RunTable(Scope).CancelAsync(ReviewId, run);
        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostCancelIntakeAsync(Guid intake)
    {
        await new IntakeTable(Scope).CancelAsync(ReviewId, intake);
        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostAddMemberAsync(string? email)
    {
        var account = string.IsNullOrWhiteSpace(email) ? null : await users.FindByNameAsync(email.Trim());
        if (account is null)
        {
            return await SayAsync("There is no account with this address. Make it first on your account page.");
        }

        if (!await new ReviewTable(Scope).AddMemberAsync(ReviewId, account.Id))
        {
            return NotFound();
        }

        await Scope.CommitAsync();
        await accounts.LogAsync(User.AccountId(), "member added", $"{ReviewId} {account.Id}", "");
        return Back();
    }

    public async Task<IActionResult> OnPostRemoveMemberAsync(Guid account)
    {
        if (!await new ReviewTable(Scope).RemoveMemberAsync(ReviewId, account))
        {
            return NotFound();
        }

        await Scope.CommitAsync();
        await accounts.LogAsync(User.AccountId(), "member removed", $"{ReviewId} {account}", "");
        return Back();
    }

    public string RunTitle(RunRow run) => run.State switch
    {
        "queued" => "Audit waits for its turn",
        "running" => "Audit under way",
        "done" => "Audit done",
        "failed" => "Audit failed",
        "cancelled" => "Audit cancelled",
        _ => "Audit interrupted",
    };

    public string RunText(RunRow run) => run.State switch
    {
        "failed" => Sentence(run.Error ?? "The reason is in the log."),
        "interrupted" => "Its process ended several times before it was done. The material is safe; audit again.",
        _ => $"{run.FilesDone:N0} of {Numbers.Say(run.FilesTotal, "file")}, {Numbers.Say(run.Findings, "finding")}",
    };

    public string IntakeTitle(IntakeRow intake) => intake.State switch
    {
        "reading" => "Taking in",
        "refused" => "Refused",
        "cancelled" => "Taking in was cancelled",
        "done" => "Taken in",
        _ => "Taking in was interrupted",
    };

    public string IntakeText(IntakeRow intake) => intake.Message ?? (intake.State == "interrupted"
        ? "The program ended while it was taken in, and nothing of it was kept. Hand it in again."
        : $"{intake.Name}: {Numbers.Say(intake.FilesDone, "file")}, {intake.BytesDone / 1_000_000.0:0.0} MB");

    private static string Sentence(string text) => char.ToUpperInvariant(text[0]) + text[1..] + (text.EndsWith('.') ? "" : ".");

    /// <summary>Browsers send the bare name; anything else in it is the visitor's doing.</summary>
    private static string NameOf(IFormFile file) => Path.GetFileName(file.FileName.Replace('\\', '/'));

    /// <summary>Puts what was handed in where it stays after the request.</summary>
    private async Task<IReadOnlyList<HandedIn>> KeepAsync(List<IFormFile> files)
    {
        var kept = new List<HandedIn>(files.Count);
        try
        {
            foreach (var file in files)
            {
                var path = Path.Combine(settings.TemporaryFolder, "upload-" + Guid.NewGuid().ToString("n"));
                kept.Add(new HandedIn(NameOf(file), path));
                await using var stream = new FileStream(path, new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite, Options = FileOptions.Asynchronous });
                await file.CopyToAsync(stream, Gone);
            }

            return kept;
        }
        catch
        {
            kept.ForEach(k => System.IO.File.Delete(k.Path));
            throw;
        }
    }

    private async Task<IActionResult> SayAsync(string message)
    {
        Message = message;
        await OpenAsync();
        await ShowAsync();
        return Page();
    }

    private async Task ShowAsync()
    {
        Intake = await new IntakeTable(Scope).LatestAsync(ReviewId, Gone);
        Files = Snapshots.Count > 0 ? await SnapshotRows.FilesAsync(Snapshots[0].Id, After ?? "", Shown + 1, cancel: Gone) : [];
        Left = Snapshots.Count > 0 ? await SnapshotRows.LeftOutAsync(Snapshots[0].Id, Skipped, Shown + 1, Gone) : [];
        Notes = Result is null ? [] : await new RunTable(Scope).NotesAsync(Result.Id, Gone);
        Members = await new ReviewTable(Scope).MembersAsync(ReviewId, Gone);
    }

    private RedirectResult Back() => Redirect($"/reviews/{ReviewId}");
}
