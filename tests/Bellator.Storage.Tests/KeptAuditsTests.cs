using Bellator.Storage.Runs;
using Bellator.Text;

namespace Bellator.Storage.Tests;

/// <summary>What is kept between audits goes to the same review again, and does not grow without end.</summary>
public sealed class KeptAuditsTests
{
    private readonly Clock _clock = new();

    [Fact]
    public void A_review_gets_its_own_back_and_no_other_does()
    {
        using var kept = new KeptAudits(_clock);
        var (review, other) = (Guid.NewGuid(), Guid.NewGuid());
        var memory = kept.Take(review);
        kept.Put(review, memory, Tree(10));
        Assert.NotSame(memory, kept.Take(other));
        Assert.Same(memory, kept.Take(review));
        Assert.NotSame(memory, kept.Take(review));
    }

    [Fact]
    public void The_oldest_goes_where_it_is_too_much()
    {
        using var kept = new KeptAudits(_clock);
        var (large, small) = (Guid.NewGuid(), Guid.NewGuid());
        var (first, second) = (kept.Take(large), kept.Take(small));
        kept.Put(large, first, Tree(KeptAudits.MaxBytes - 5));
        kept.Put(small, second, Tree(10));
        Assert.NotSame(first, kept.Take(large));
        Assert.Same(second, kept.Take(small));
    }

    [Fact]
    public void What_nobody_asks_for_is_forgotten()
    {
        using var kept = new KeptAudits(_clock);
        var review = Guid.NewGuid();
        var memory = kept.Take(review);
        kept.Put(review, memory, Tree(10));
        _clock.Now += TimeSpan.FromHours(1);
        Assert.NotSame(memory, kept.Take(review));
    }

    private static SourceTree Tree(long bytes) => new("t", [new SourceFile("a.php", new byte[bytes], Language.Php)], []);

    private sealed class Clock : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = DateTimeOffset.UnixEpoch;

        public override DateTimeOffset GetUtcNow() => Now;
    }
}
