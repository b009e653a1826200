using Bellator.Fuzz;

namespace Bellator.Core.Tests;

/// <summary>Three thousand mutated programs, statements, hashes, facts and archives, the same ones each time. <c>./bellator fuzz</c> goes on without end.</summary>
public sealed class FuzzTests
{
    private const int Batches = 270;
    private const int Seed = 20261129;

    [Fact]
    public void Whatever_is_handed_in_is_read_to_its_end()
    {
        var fuzzer = new Fuzzer(new Corpus(Folders.Home), Seed);
        var made = 0;
        var faults = new System.Collections.Concurrent.ConcurrentBag<string>();
        Parallel.For(0, Batches, number =>
        {
            var inputs = fuzzer.Make(number);
            Interlocked.Add(ref made, inputs.Count);
            if (Targets.Run(inputs) is { } what)
            {
                faults.Add($"batch {number} ({inputs[0].Kind}): {what}");
            }
        });
        Assert.Empty(faults);
        Assert.True(made >= 3000, made.ToString(System.Globalization.CultureInfo.InvariantCulture));
    }

    [Fact]
    public void The_same_seed_makes_the_same_inputs()
    {
        var corpus = new Corpus(Folders.Home);
        Assert.Equal(new Fuzzer(corpus, 1).Make(3).Select(i => i.Text), new Fuzzer(corpus, 1).Make(3).Select(i => i.Text));
        Assert.NotEqual(new Fuzzer(corpus, 1).Make(3).Select(i => i.Text), new Fuzzer(corpus, 2).Make(3).Select(i => i.Text));
    }
}
