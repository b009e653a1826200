using Bellator.Core.Sources;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

/// <summary>A page of one review. It opens the review as the signed-in account before anything else; what that account may not see is not found.</summary>
public abstract class ReviewPage(Database database) : PageModel, IAsyncDisposable
{
    private AccountScope? _scope;

    [BindProperty(SupportsGet = true, Name = "review")]
    public Guid ReviewId { get; set; }

    public string ReviewName { get; private set; } = "";

    public RunRow? LatestRun { get; private set; }

    public RunRow? Result { get; private set; }

    public IReadOnlyList<SnapshotRow> Snapshots { get; private set; } = [];

    public IReadOnlyDictionary<string, int> ToJudge { get; private set; } = new Dictionary<string, int>();

    /// <summary>The stage that the stage line marks.</summary>
    public abstract string Stage { get; }

    protected AccountScope Scope => _scope ?? throw new InvalidOperationException("the review is not open");

    protected FindingTable Findings => new(Scope);

    protected SnapshotTable SnapshotRows => new(Scope);

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        var cancel = HttpContext.RequestAborted;
        _scope = await database.OpenAsAsync(User.AccountId(), cancel);
        if (await new ReviewTable(Scope).NameOfAsync(ReviewId, cancel) is not { } name)
        {
            context.Result = NotFound();
            return;
        }

        ReviewName = name;
        var runs = new RunTable(Scope);
        LatestRun = await runs.LatestAsync(ReviewId, cancel);
        Result = await runs.LatestDoneAsync(ReviewId, cancel);
        Snapshots = await SnapshotRows.ListAsync(ReviewId, cancel);
        ToJudge = await Findings.ToJudgeAsync(ReviewId, cancel);
        await next();
    }

    /// <summary>A file of a snapshot, ready to be shown.</summary>
    protected async Task<SourceFile?> OpenFileAsync(Guid snapshot, string path) =>
        await SnapshotRows.ContentAsync(snapshot, path, HttpContext.RequestAborted) is { } content
            ? new SourceFile(path, content, Languages.Detect(path, content))
            : null;

    public async ValueTask DisposeAsync()
    {
        if (_scope is not null)
        {
            await _scope.DisposeAsync();
        }

        GC.SuppressFinalize(this);
    }
}
