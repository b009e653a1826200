using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Accounts;
using Bellator.Web.Presentation;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace Bellator.Web.Pages;

/// <summary>
/// A page of one review. It opens the review as the signed-in account before anything else; what that account may not see is not found.
/// The transaction is over before the page is rendered, and before anything is computed that takes long.
/// </summary>
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

    protected CancellationToken Gone => HttpContext.RequestAborted;

    public override async Task OnPageHandlerExecutionAsync(PageHandlerExecutingContext context, PageHandlerExecutionDelegate next)
    {
        (_scope, var head) = await ReviewHead.OpenAsync(database, User.AccountId(), ReviewId, Gone);
        if (head is null)
        {
            context.Result = NotFound();
            await CloseAsync();
            return;
        }

        (ReviewName, LatestRun, Result, Snapshots, ToJudge) = head;
        await next();
        await CloseAsync();
    }

    /// <summary>Opens the review's rows again after <see cref="CloseAsync"/>.</summary>
    protected async Task OpenAsync() => _scope ??= await database.OpenAsAsync(User.AccountId(), Gone);

    /// <summary>Ends the transaction; to be called before anything that takes long.</summary>
    protected async Task CloseAsync()
    {
        if (_scope is { } scope)
        {
            _scope = null;
            await scope.DisposeAsync();
        }
    }

    /// <summary>What the latest audit found the application to be; null if there is none.</summary>
    protected async Task<ReportedApplication?> ApplicationAsync() => Result is null
        ? null
        : await HttpContext.RequestServices.GetRequiredService<ApplicationCache>().OfAsync(new ApplicationTable(Scope), Result.Id, Gone);

    /// <summary>A file of a snapshot, ready to be shown.</summary>
    protected async Task<SourceFile?> OpenFileAsync(Guid snapshot, string path) =>
        await SnapshotRows.ContentAsync(snapshot, path, Gone) is { } content
            ? new SourceFile(path, content, Languages.Detect(path, content))
            : null;

    private const int LinesAround = 3;
    private const int MostLines = 14;

    /// <summary>The lines around each place, as the audited snapshot has them.</summary>
    protected async Task<IReadOnlyList<(ReportedEvidence Evidence, IReadOnlyList<CodeLine> Lines)>> CodeOfAsync(IEnumerable<ReportedEvidence> places)
    {
        var shown = new List<(ReportedEvidence, IReadOnlyList<CodeLine>)>();
        foreach (var evidence in places)
        {
            IReadOnlyList<CodeLine> lines = [];
            if (await OpenFileAsync(Result!.Snapshot, evidence.At.Path) is { } file)
            {
                var start = Math.Max(1, evidence.At.Region.StartLine - LinesAround);
                var end = Math.Min(evidence.At.Region.EndLine + LinesAround, start + MostLines);
                lines = new CodeView(file).Lines(start, end, [new Mark(evidence.At.Region, false)]);
            }

            shown.Add((evidence, lines));
        }

        return shown;
    }

    private static readonly JsonSerializerOptions Line = new(JsonSerializerDefaults.Web);

    /// <summary>Tells the page how far long work is: a line of JSON, sent at once.</summary>
    protected async Task TellAsync(object line)
    {
        await Response.WriteAsync(JsonSerializer.Serialize(line, Line) + "\n", Gone);
        await Response.Body.FlushAsync(Gone);
    }

    public async ValueTask DisposeAsync()
    {
        await CloseAsync();
        GC.SuppressFinalize(this);
    }
}
