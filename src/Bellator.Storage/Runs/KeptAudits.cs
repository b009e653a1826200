using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Text;

namespace Bellator.Storage.Runs;

/// <summary>
/// What the last audits of a few reviews found out, so that the next snapshot of one costs only what changed in it. It lives in the
/// memory of this process: elsewhere, or after a while, an audit is whole again, with the same results.
/// </summary>
public sealed class KeptAudits : IDisposable
{
    /// <summary>Code that is kept for, in bytes of source. Measured, an audit keeps about thirty times that.</summary>
    public const long MaxBytes = 24_000_000;

    private const int MaxReviews = 4;
    private static readonly TimeSpan MaxIdle = TimeSpan.FromMinutes(30);
    private static readonly TimeSpan Interval = TimeSpan.FromMinutes(5);
    private readonly TimeProvider _time;
    private readonly ITimer _timer;
    private readonly Lock _gate = new();
    private readonly LinkedList<Entry> _entries = [];
    private readonly LinkedList<(IReadOnlyList<ModelReader> Texts, LibraryModels Facts)> _facts = [];

    public KeptAudits(TimeProvider time)
    {
        _time = time;
        _timer = time.CreateTimer(_ => Forget(), null, Interval, Interval);
    }

    public void Dispose() => _timer.Dispose();

    private sealed record Entry(Guid Review, AuditCache Memory, long Bytes, DateTimeOffset At);

    /// <summary>The facts that ship with what was stated of a review beside them: the same object for the same texts, for what is kept holds only under the same facts.</summary>
    internal LibraryModels FactsOf(StatedKnowledge knowledge)
    {
        if (knowledge.Texts.Count == 0)
        {
            return LibraryModels.Shipped;
        }

        lock (_gate)
        {
            if (_facts.FirstOrDefault(f => f.Texts.SequenceEqual(knowledge.Texts)) is { Facts: { } known })
            {
                return known;
            }

            var facts = LibraryModels.Load(null, knowledge.Texts);
            _facts.AddFirst((knowledge.Texts, facts));
            while (_facts.Count > MaxReviews)
            {
                _facts.RemoveLast();
            }

            return facts;
        }
    }

    /// <summary>What is kept of a review, or something to keep it in; nobody else gets it until it is put back.</summary>
    public AuditCache Take(Guid review)
    {
        lock (_gate)
        {
            Forget();
            if (_entries.FirstOrDefault(e => e.Review == review) is { } entry)
            {
                _entries.Remove(entry);
                return entry.Memory;
            }

            return new AuditCache();
        }
    }

    /// <summary>Keeps what an audit found out, and forgets the oldest where it is too much.</summary>
    public void Put(Guid review, AuditCache memory, SourceTree tree)
    {
        lock (_gate)
        {
            _entries.AddFirst(new Entry(review, memory, tree.Files.Sum(f => (long)f.Content.Length), _time.GetUtcNow()));
            Forget();
        }
    }

    /// <summary>Forgets what nobody asked for in a while, and the oldest where it is too much.</summary>
    private void Forget()
    {
        lock (_gate)
        {
            while (_entries.Last is { } last && (_entries.Count > MaxReviews || _entries.Sum(e => e.Bytes) > MaxBytes || _time.GetUtcNow() - last.Value.At > MaxIdle))
            {
                _entries.RemoveLast();
            }
        }
    }
}
