using System.Net.Sockets;
using Bellator.Web.Supervision;
using Npgsql;

namespace Bellator.Web.Security;

/// <summary>What is refused before a page sees it, and what happens when nothing can be done at present.</summary>
public static class RequestRules
{
    /// <summary>Where no file is taken, a form is far smaller.</summary>
    public const long MaxFormBytes = 64 * 1024;

    /// <summary>Requests that are worked on at once: more at once would only make each of them later. Others wait a little, and beyond that are told to come again.</summary>
    public static readonly int AtOnce = 8 + (4 * Environment.ProcessorCount);

    public const int MostWaiting = 512;

    /// <summary>Seconds after which a visitor who was told to come again may do so.</summary>
    private const string RetryAfter = "3";

    /// <summary>Why the database could not be asked who sent the request.</summary>
    internal const string AwayItem = "bellator.away";

    private static readonly HashSet<string> Methods = new(StringComparer.Ordinal) { "GET", "HEAD", "POST" };

    /// <summary>Only the methods that pages have, and no addresses that no database could look for.</summary>
    public static IApplicationBuilder UseRequestRules(this IApplicationBuilder app) => app.Use(async (context, next) =>
    {
        if (!Methods.Contains(context.Request.Method))
        {
            context.Response.Headers.Allow = "GET, HEAD, POST";
            context.Response.StatusCode = StatusCodes.Status405MethodNotAllowed;
            return;
        }

        if (context.Request.Path.Value?.Contains('\0', StringComparison.Ordinal) == true || context.Request.QueryString.Value?.Contains("%00", StringComparison.Ordinal) == true)
        {
            context.Response.StatusCode = StatusCodes.Status400BadRequest;
            return;
        }

        await next(context);
    });

    /// <summary>A database that is away, or work beyond what the machine can bear, is no fault of the page: the visitor is asked to come again.</summary>
    public static IApplicationBuilder UseBackInAMoment(this IApplicationBuilder app) => app.Use(async (context, next) =>
    {
        try
        {
            await next(context);
        }
        catch (OperationCanceledException) when (context.RequestAborted.IsCancellationRequested)
        {
            // Nobody waits for an answer.
            context.Response.StatusCode = StatusCodes.Status499ClientClosedRequest;
        }
        catch (Exception e) when (IsAway(e) && !context.Response.HasStarted)
        {
            context.Response.Clear();
            context.Response.Headers.RetryAfter = RetryAfter;
            context.Response.StatusCode = StatusCodes.Status503ServiceUnavailable;
        }
    });

    /// <summary>Stops a request of which it could not be found out who sent it.</summary>
    public static IApplicationBuilder UseKnownVisitor(this IApplicationBuilder app) => app.Use((context, next) =>
        context.Items[AwayItem] is Exception away && !context.Request.Path.StartsWithSegments("/problem") ? Task.FromException(away) : next(context));

    /// <summary>True for what passes by itself.</summary>
    internal static bool IsAway(Exception? e) => e switch
    {
        null => false,
        BusyException => true,
        PostgresException database => database.IsTransient || database.SqlState is PostgresErrorCodes.AdminShutdown or PostgresErrorCodes.CrashShutdown or PostgresErrorCodes.CannotConnectNow or PostgresErrorCodes.TooManyConnections,
        NpgsqlException => true,
        SocketException or TimeoutException => true,
        _ => IsAway(e.InnerException),
    };
}
