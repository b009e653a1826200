using Bellator.Storage;
using Bellator.Storage.Runs;
using Bellator.Web.Supervision;
using Hangfire;
using Hangfire.PostgreSql;
using Hangfire.States;

namespace Bellator.Web.Runs;

/// <summary>Audits as background jobs in PostgreSQL: any process with the database can carry them out.</summary>
public sealed class AuditJobs(AuditLanes lanes)
{
    [AutomaticRetry(Attempts = 0)]
    public Task RunAsync(Guid run, CancellationToken cancel) => lanes.RunAsync(run, cancel);
}

/// <summary>One lane for small runs and one for large ones: nobody waits for minutes behind somebody else's large application.</summary>
public sealed class AuditLanes(RunQueue queue, SupervisorSettings settings, string workerConnection, string? scratchConnection) : IAsyncDisposable
{
    public const string SmallQueue = "small";
    public const string LargeQueue = "large";

    public AuditLane Small { get; } = new(queue, workerConnection, scratchConnection, settings, isLarge: false);

    public AuditLane Large { get; } = new(queue, workerConnection, scratchConnection, settings, isLarge: true);

    public string QueueFor(long bytes) => bytes > settings.SmallRunBytes ? LargeQueue : SmallQueue;

    public async Task RunAsync(Guid run, CancellationToken cancel) =>
        await (QueueFor(await queue.BytesOfAsync(run, cancel)) == SmallQueue ? Small : Large).RunAsync(run, cancel);

    public async ValueTask DisposeAsync()
    {
        await Small.DisposeAsync();
        await Large.DisposeAsync();
    }
}

/// <summary>Hands queued runs to the workers.</summary>
public sealed class RunDispatch(RunQueue queue, AuditLanes lanes, IBackgroundJobClient jobs)
{
    /// <summary>Should it fail, the keeper does it a little later.</summary>
    public async Task SendAsync(Guid run, CancellationToken cancel = default)
    {
        Send(new WaitingRun(run, await queue.BytesOfAsync(run, cancel)));
        await queue.ToldAsync(run, cancel);
    }

    internal void Send(WaitingRun run) =>
        jobs.Create<AuditJobs>(job => job.RunAsync(run.Run, CancellationToken.None), new EnqueuedState(lanes.QueueFor(run.Bytes)));
}

/// <summary>Looks after runs and intakes that others left, a few times a minute.</summary>
public sealed class RunKeeper(RunQueue queue, RunDispatch dispatch, ILogger<RunKeeper> log) : BackgroundService
{
    private static readonly TimeSpan Interval = TimeSpan.FromSeconds(3);

    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                foreach (var run in await queue.KeepAsync(stoppingToken))
                {
                    dispatch.Send(run);
                }
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                // The database may be away; it is looked for again soon.
                log.LogDebug(e, "runs were not looked after this time");
            }

            await Task.Delay(Interval, stoppingToken).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
        }
    }
}

public static class JobSetup
{
    /// <summary>What queues runs, carries them out, and looks after them.</summary>
    public static IServiceCollection AddAuditJobs(this IServiceCollection services, WebSettings settings)
    {
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton(settings.Supervision);
        services.AddSingleton(s => new RunQueue(s.GetRequiredService<Database>().Worker, settings.Supervision.Silence));
        services.AddSingleton(s => new AuditLanes(s.GetRequiredService<RunQueue>(), settings.Supervision, settings.WorkerConnection, settings.ScratchConnection));
        services.AddSingleton<RunDispatch>();
        services.AddHostedService<RunKeeper>();
        services.AddHangfire(options => options
            .UseSimpleAssemblyNameTypeSerializer()
            .UseRecommendedSerializerSettings()
            .UsePostgreSqlStorage(
                storage => storage.UseNpgsqlConnection(settings.JobConnection),
                new PostgreSqlStorageOptions
                {
                    PrepareSchemaIfNecessary = true,
                    SchemaName = "hangfire",
                    QueuePollInterval = TimeSpan.FromSeconds(1),
                    InvisibilityTimeout = settings.Supervision.Silence,
                    UseSlidingInvisibilityTimeout = true,

                    // A process that is killed while it changes a job's state leaves the job's lock behind: it must not stand for minutes
                    // in the way of the only worker. Locks are held for moments.
                    DistributedLockTimeout = settings.Supervision.Silence,
                }));
        foreach (var queue in settings.Works ? new[] { AuditLanes.SmallQueue, AuditLanes.LargeQueue } : [])
        {
            services.AddHangfireServer(server =>
            {
                server.Queues = [queue];
                server.WorkerCount = 1;
                server.ShutdownTimeout = TimeSpan.FromSeconds(10);
                server.CancellationCheckInterval = TimeSpan.FromSeconds(2);
            });
        }

        return services;
    }
}
