using Bellator.Audit.Auditing;
using Bellator.Storage.Reviews;
using Microsoft.Extensions.Caching.Memory;

namespace Bellator.Web;

/// <summary>What audits found applications to be, for a while: it is large, does not change once a run is over, and several pages need it. Whoever asks has found the run first, as the account that asks.</summary>
public sealed class ApplicationCache : IDisposable
{
    private const long MostBytes = 48 * 1024 * 1024;
    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(10);
    private readonly MemoryCache _cache = new(new MemoryCacheOptions { SizeLimit = MostBytes });

    public async Task<ReportedApplication?> OfAsync(ApplicationTable table, Guid run, CancellationToken cancel)
    {
        if (_cache.TryGetValue(run, out ReportedApplication? known))
        {
            return known;
        }

        var (application, length) = await table.OfAsync(run, cancel);
        return _cache.Set(run, application, new MemoryCacheEntryOptions { Size = Math.Max(1, length), SlidingExpiration = Kept });
    }

    public void Dispose() => _cache.Dispose();
}
