using Bellator.Storage;
using Bellator.Storage.Cluster;
using Bellator.Storage.Runs;
using Hangfire;
using Hangfire.PostgreSql;

namespace Bellator.Web.Runs;

/// <summary>Audits as background jobs in PostgreSQL: any process with the database can carry them out.</summary>
public sealed class AuditJobs(RunWorker worker)
{
    [AutomaticRetry(Attempts = 0)]
    public Task RunAsync(Guid run, CancellationToken cancel) => worker.RunAsync(run, cancel);
}

public static class JobSetup
{
    /// <summary>A job whose process falls silent for this long is given to another.</summary>
    private static readonly TimeSpan Silence = TimeSpan.FromSeconds(20);

    /// <param name="works">True if this process also carries out jobs.</param>
    public static IServiceCollection AddAuditJobs(this IServiceCollection services, string connection, bool works)
    {
        services.AddSingleton(TimeProvider.System);
        services.AddSingleton<KeptAudits>();
        services.AddSingleton<RunWorker>();
        services.AddHangfire(options => options
            .UseSimpleAssemblyNameTypeSerializer()
            .UseRecommendedSerializerSettings()
            .UsePostgreSqlStorage(
                storage => storage.UseNpgsqlConnection(connection),
                new PostgreSqlStorageOptions
                {
                    PrepareSchemaIfNecessary = true,
                    SchemaName = "hangfire",
                    QueuePollInterval = TimeSpan.FromSeconds(1),
                    InvisibilityTimeout = Silence,
                    UseSlidingInvisibilityTimeout = true,
                }));
        if (works)
        {
            services.AddHangfireServer(server =>
            {
                server.WorkerCount = 1;
                server.ShutdownTimeout = TimeSpan.FromSeconds(10);
                server.CancellationCheckInterval = TimeSpan.FromSeconds(2);
            });
        }

        return services;
    }
}
