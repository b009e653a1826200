using Bellator.Core.Sources;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Bellator.Web.Runs;
using Hangfire;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

[RequestSizeLimit(WebApp.MaxUploadBytes)]
public sealed class IntakeModel(Database database, IBackgroundJobClient jobs, UserManager<Account> users, AccountTable accounts) : ReviewPage(database)
{
    private const int MaxUploadedFiles = 2000;

    public override string Stage => "Intake";

    public string? Message { get; private set; }

    public IReadOnlyList<SnapshotFileRow> Files { get; private set; } = [];

    public IReadOnlyList<MemberRow> Members { get; private set; } = [];

    public IReadOnlyList<SnapshotFileRow> Taken => [.. Files.Where(f => f.SkipReason is null)];

    public IReadOnlyList<SnapshotFileRow> Left => [.. Files.Where(f => f.SkipReason is not null)];

    public bool IsOwner => Members.Any(m => m.IsOwner && m.Account == User.AccountId());

    public async Task OnGetAsync() => await ShowAsync();

    public async Task<IActionResult> OnPostUploadAsync(List<IFormFile> files)
    {
        if (files.Count == 0 || files.Count > MaxUploadedFiles)
        {
            return await SayAsync("Choose an archive, or up to 2000 files.");
        }

        SourceTree tree;
        try
        {
            tree = await Task.Run(() => Read(files, HttpContext.RequestAborted));
        }
        catch (SourceException e)
        {
            return await SayAsync("The upload was refused: " + e.Message + ".");
        }

        if (tree.Files.Count == 0)
        {
            return await SayAsync($"There was nothing to audit in the upload: {tree.Skipped.Count} files were left out"
                + (tree.Skipped.Count > 0 ? ", the first because: " + Core.Reports.SkipText.Of(tree.Skipped[0]) : "") + ".");
        }

        var snapshot = await SnapshotRows.AddAsync(ReviewId, tree);
        return await QueueAsync(snapshot);
    }

    public async Task<IActionResult> OnPostAuditAsync() => Snapshots.Count == 0 ? NotFound() : await QueueAsync(Snapshots[0].Id);

    public async Task<IActionResult> OnPostCancelAsync(Guid run)
    {
        await new RunTable(Scope).CancelAsync(ReviewId, run);
        await Scope.CommitAsync();
        return Back();
    }

    public async Task<IActionResult> OnPostAddMemberAsync(string? email)
    {
        var account = string.IsNullOrWhiteSpace(email) ? null : await users.FindByEmailAsync(email.Trim());
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
        "failed" => run.Error ?? "The reason is in the log.",
        "interrupted" => "Its process ended several times before it was done. The material is safe; audit again.",
        _ => $"{run.FilesDone} of {run.FilesTotal} files, {run.Findings} findings",
    };

    private static SourceTree Read(List<IFormFile> files, CancellationToken cancel)
    {
        var collector = new SourceCollector(SourceLimits.Default);
        foreach (var file in files)
        {
            // Browsers send the bare name; anything else in it is the visitor's doing.
            var name = Path.GetFileName(file.FileName.Replace('\\', '/'));
            using var stream = file.OpenReadStream();
            if (ArchiveReader.IsArchive(name))
            {
                ArchiveReader.Read(name, stream, collector, cancel);
            }
            else if (collector.Wants(name, file.Length))
            {
                using var memory = new MemoryStream();
                stream.CopyTo(memory);
                collector.Add(name, memory.ToArray());
            }
        }

        var title = files.Count == 1 ? Path.GetFileName(files[0].FileName) : $"{files.Count} files";
        return collector.Build(new string([.. title.Where(c => !char.IsControl(c)).Take(100)]));
    }

    private async Task<IActionResult> QueueAsync(Guid snapshot)
    {
        var run = await new RunTable(Scope).QueueAsync(ReviewId, snapshot);
        await Scope.CommitAsync();
        jobs.Enqueue<AuditJobs>(job => job.RunAsync(run, CancellationToken.None));
        return Back();
    }

    private async Task<IActionResult> SayAsync(string message)
    {
        Message = message;
        await ShowAsync();
        return Page();
    }

    private async Task ShowAsync()
    {
        Files = Snapshots.Count > 0 ? await SnapshotRows.FilesAsync(Snapshots[0].Id) : [];
        Members = await new ReviewTable(Scope).MembersAsync(ReviewId);
    }

    private RedirectResult Back() => Redirect($"/reviews/{ReviewId}");
}
