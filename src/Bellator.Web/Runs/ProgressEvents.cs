using System.Text.Json;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;

namespace Bellator.Web.Runs;

/// <summary>Progress of a run or of an intake as server-sent events. A stream ends with the session that it was opened in.</summary>
public static class ProgressEvents
{
    /// <summary>Events come no closer together than this, however often the row is written.</summary>
    private static readonly TimeSpan Least = TimeSpan.FromMilliseconds(300);

    /// <summary>So often it is asked whether the session still holds.</summary>
    private static readonly TimeSpan Look = TimeSpan.FromSeconds(2);

    private static readonly TimeSpan Longest = TimeSpan.FromMinutes(30);

    public static void MapProgressEvents(this IEndpointRouteBuilder routes)
    {
        routes.MapGet("/reviews/{review:guid}/runs/{run:guid}/events", (Guid review, Guid run, HttpContext context, Services services) => services.SendAsync(context, run, async scope =>
            await new RunTable(scope).FindAsync(review, run, context.RequestAborted) is { } row
                ? new { row.State, row.Stage, row.Share, row.FilesDone, row.FilesTotal, row.Findings, Over = row.IsOver } : null));
        routes.MapGet("/reviews/{review:guid}/intakes/{intake:guid}/events", (Guid review, Guid intake, HttpContext context, Services services) => services.SendAsync(context, intake, async scope =>
            await new IntakeTable(scope).FindAsync(review, intake, context.RequestAborted) is { } row
                ? new { row.State, row.FilesDone, row.BytesDone, Over = row.IsOver } : null));
        routes.MapGet("/reviews/{review:guid}/verdicts/events", (Guid review, HttpContext context, Services services) => services.SendAsync(context, review, async scope =>
            await new ReviewTable(scope).NameOfAsync(review, context.RequestAborted) is not null
                ? new { Newest = await new VerdictTable(scope).NewestAsync(review, context.RequestAborted) } : null));
    }

    /// <summary>What a stream needs.</summary>
    public sealed class Services(Database database, SessionTable sessions, ChangeListener listener)
    {
        public async Task SendAsync<T>(HttpContext context, Guid id, Func<AccountScope, Task<T?>> find)
            where T : class
        {
            var cancel = context.RequestAborted;
            var account = context.User.AccountId();
            using var watch = listener.On(id);
            if (await FindAsync(account, find, cancel) is not { } first)
            {
                context.Response.StatusCode = StatusCodes.Status404NotFound;
                return;
            }

            context.Response.ContentType = "text/event-stream";
            string? last = null;
            var until = DateTimeOffset.UtcNow + Longest;
            try
            {
                for (var row = first; row is not null && DateTimeOffset.UtcNow < until; row = await FindAsync(account, find, cancel))
                {
                    var text = JsonSerializer.Serialize(row, JsonSerializerOptions.Web);
                    if (text != last)
                    {
                        await context.Response.WriteAsync($"data: {text}\n\n", cancel);
                        await context.Response.Body.FlushAsync(cancel);
                        last = text;
                    }

                    if (text.Contains("\"over\":true", StringComparison.Ordinal))
                    {
                        return;
                    }

                    await Task.Delay(Least, cancel);
                    await watch.WaitAsync(Look, cancel);
                    if (!await sessions.HoldsAsync(context.User.SessionKey(), cancel))
                    {
                        return;
                    }
                }
            }
            catch (OperationCanceledException)
            {
                // The visitor left the page.
            }
        }

        private async Task<T?> FindAsync<T>(Guid account, Func<AccountScope, Task<T?>> find, CancellationToken cancel)
            where T : class
        {
            await using var scope = await database.OpenAsAsync(account, cancel);
            return await find(scope);
        }
    }
}
