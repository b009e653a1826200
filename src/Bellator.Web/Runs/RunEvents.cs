using System.Text.Json;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;

namespace Bellator.Web.Runs;

/// <summary>Progress of a run as server-sent events.</summary>
public static class RunEvents
{
    private static readonly TimeSpan Interval = TimeSpan.FromMilliseconds(400);
    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(30);

    public static void MapRunEvents(this IEndpointRouteBuilder routes) =>
        routes.MapGet("/reviews/{review:guid}/runs/{run:guid}/events", SendAsync);

    private static async Task SendAsync(Guid review, Guid run, HttpContext context, Database database)
    {
        var cancel = context.RequestAborted;
        var account = context.User.AccountId();
        if (await FindAsync(database, account, review, run, cancel) is not { } row)
        {
            context.Response.StatusCode = StatusCodes.Status404NotFound;
            return;
        }

        context.Response.ContentType = "text/event-stream";
        string? last = null;
        var until = DateTimeOffset.UtcNow + Longest;
        try
        {
            while (DateTimeOffset.UtcNow < until)
            {
                var text = JsonSerializer.Serialize(new { row.State, row.Stage, row.Share, row.FilesDone, row.FilesTotal, row.Findings, Over = row.IsOver }, JsonSerializerOptions.Web);
                if (text != last)
                {
                    await context.Response.WriteAsync($"data: {text}\n\n", cancel);
                    await context.Response.Body.FlushAsync(cancel);
                    last = text;
                }

                if (row.IsOver)
                {
                    return;
                }

                await Task.Delay(Interval, cancel);
                if (await FindAsync(database, account, review, run, cancel) is not { } next)
                {
                    return;
                }

                row = next;
            }
        }
        catch (OperationCanceledException)
        {
            // The visitor left the page.
        }
    }

    private static async Task<RunRow?> FindAsync(Database database, Guid account, Guid review, Guid run, CancellationToken cancel)
    {
        await using var scope = await database.OpenAsAsync(account, cancel);
        return await new RunTable(scope).FindAsync(review, run, cancel);
    }
}
