using System.Diagnostics;
using Bellator.Text;

namespace Bellator.Passwords;

/// <summary>How far a search is.</summary>
/// <param name="Tried">Guesses made, each against one value.</param>
/// <param name="Found">What was found so far.</param>
public sealed record SearchProgress(long Tried, long Total, IReadOnlyList<FoundPassword> Found);

/// <summary>A password that was found.</summary>
/// <param name="Index">Position of the value in the list.</param>
public sealed record FoundPassword(int Index, string Password, string? How);

/// <summary>What a search found, and how far it came.</summary>
/// <param name="Ended">Why it ended before the end, or null.</param>
public sealed record SearchResult(IReadOnlyList<FoundPassword> Found, long Tried, TimeSpan Time, string? Ended);

/// <summary>
/// Tries common passwords against stored values: enough to show that the weak ones among them can be found, within a bound that the
/// reviewer sets. Word after word over all values, so that the commonest are tried everywhere first.
/// </summary>
public static class PasswordSearch
{
    /// <param name="values">The stored values; those that cannot be verified are passed over.</param>
    /// <param name="words">In the order in which they are tried.</param>
    /// <param name="limit">How long it may take.</param>
    /// <param name="progress">Told a few times a second.</param>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public static SearchResult Run(IReadOnlyList<HashReading> values, IReadOnlyList<string> words, TimeSpan limit, int threads, Action<SearchProgress>? progress = null, CancellationToken cancel = default)
    {
        var watch = Stopwatch.StartNew();
        var open = Enumerable.Range(0, values.Count).Where(i => CanBeTried(values[i])).ToList();
        var total = (long)open.Count * words.Count;
        var found = new System.Collections.Concurrent.ConcurrentDictionary<int, FoundPassword>();
        var tried = 0L;
        var isCut = false;

        progress?.Invoke(new SearchProgress(0, total, []));

        // What is quick comes first: a few slow values must not keep the many from their turn.
        threads = open.Any(i => values[i].Scheme.MemoryBytes(values[i]) > MuchMemory) ? 1 : threads;
        var slow = open.GroupBy(i => PasswordTable.TitleOf(values[i])).Where(g => IsSlow(values[g.First()])).SelectMany(g => g).ToHashSet();
        foreach (var group in open.GroupBy(slow.Contains).OrderBy(g => g.Key))
        {
            foreach (var batch in Batches(group.ToList(), words, group.Key ? 1 : 256))
            {
                if (isCut)
                {
                    break;
                }

                Parallel.ForEach(batch, new ParallelOptions { MaxDegreeOfParallelism = threads, CancellationToken = cancel }, guess =>
                {
                    if (found.ContainsKey(guess.Index))
                    {
                        return;
                    }

                    // A guess left out counts, also in the last batch: what was not tried is not called safe.
                    if (watch.Elapsed > limit)
                    {
                        isCut = true;
                        return;
                    }

                    Interlocked.Increment(ref tried);
                    if (values[guess.Index].Scheme.Verify(values[guess.Index], guess.Word) is { Outcome: Verification.Yes } result)
                    {
                        found[guess.Index] = new FoundPassword(guess.Index, guess.Word, result.How);
                    }
                });
                progress?.Invoke(new SearchProgress(tried, total, [.. found.Values.OrderBy(f => f.Index)]));
            }
        }

        return new SearchResult([.. found.Values.OrderBy(f => f.Index)], tried, watch.Elapsed, isCut ? "the time was up" : null);
    }

    /// <summary>What was made to be slow is; some fast functions are by their rounds, and one guess tells.</summary>
    private static bool IsSlow(HashReading value)
    {
        if (value.Kind == HashKind.Slow)
        {
            return true;
        }

        // What it takes of the processor: a machine that is busy with something else makes nothing slow.
        var begun = ThreadTime.Now;
        value.Scheme.Verify(value, "first");
        if (ThreadTime.Now - begun > Surely)
        {
            return true;
        }

        // The first guess of a scheme also pays for the compiler.
        begun = ThreadTime.Now;
        value.Scheme.Verify(value, "second");
        return ThreadTime.Now - begun > Quick;
    }

    /// <summary>Values that need more are looked at one at a time.</summary>
    private const long MuchMemory = HashScheme.DearestMemory / 4;

    private static readonly TimeSpan Surely = TimeSpan.FromMilliseconds(50);
    private static readonly TimeSpan Quick = TimeSpan.FromMilliseconds(2);

    private static bool CanBeTried(HashReading value) => value.Kind is not (HashKind.Encrypted or HashKind.Unusable or HashKind.Plain or HashKind.Encoded) && !value.Scheme.IsTooDear(value);

    private static IEnumerable<IReadOnlyList<(int Index, string Word)>> Batches(List<int> indices, IReadOnlyList<string> words, int count)
    {
        for (var at = 0; at < words.Count; at += count)
        {
            var batch = new List<(int, string)>(indices.Count * count);
            for (var word = at; word < Math.Min(at + count, words.Count); word++)
            {
                batch.AddRange(indices.Select(i => (i, words[word])));
            }

            yield return batch;
        }
    }
}
