using System.Text;

namespace Bellator.Fuzz;

/// <summary>An input that broke something.</summary>
public sealed record FuzzFault(string Kind, byte[] Content, string What);

/// <summary>Makes inputs and gives them to their targets, several at once; one that breaks something is searched for among them and made small.</summary>
public sealed class Fuzzer(Corpus corpus, int seed)
{
    /// <summary>Inputs of one audit: they share what an audit costs besides its files.</summary>
    public const int Batch = 12;

    private static readonly TimeSpan Shrinking = TimeSpan.FromSeconds(60);

    /// <summary>The next batch, of one kind.</summary>
    public IReadOnlyList<FuzzInput> Make(int number)
    {
        var kinds = corpus.Kinds;
        var kind = kinds[number % kinds.Count];
        if (kind is "zip" or "tar" or "tar.gz")
        {
            var mutator = new Mutator(HashCode(number), [""]);
            var sample = Targets.SampleArchive(kind);
            return [.. Enumerable.Range(0, Batch).Select(_ => new FuzzInput(kind, mutator.MakeBytes(sample)))];
        }

        var texts = new Mutator(HashCode(number), corpus.Of(kind));
        return [.. Enumerable.Range(0, kind == "facts" ? 1 : Batch).Select(_ => new FuzzInput(kind, Encoding.UTF8.GetBytes(texts.Make())))];
    }

    /// <returns>Null, or the smallest input found that breaks something.</returns>
    public static FuzzFault? Try(IReadOnlyList<FuzzInput> inputs)
    {
        if (Targets.Run(inputs) is not { } what)
        {
            return null;
        }

        // Alone it may not do it: then all of them together are reported.
        foreach (var input in inputs)
        {
            if (Targets.Run([input]) is { } alone)
            {
                return Shrunk(input, alone);
            }
        }

        return new FuzzFault(inputs[0].Kind, [.. inputs.SelectMany(i => i.Content.Append((byte)'\n'))], what + " (several files together)");
    }

    /// <summary>Leaves out ever smaller parts as long as the same kind of thing goes wrong.</summary>
    private static FuzzFault Shrunk(FuzzInput input, string what)
    {
        var until = DateTime.UtcNow + Shrinking;
        var sort = Sort(what);
        for (var part = input.Content.Length / 2; part > 0; part /= 2)
        {
            for (var at = 0; at < input.Content.Length && DateTime.UtcNow < until;)
            {
                byte[] less = [.. input.Content.AsSpan(0, at), .. input.Content.AsSpan(Math.Min(input.Content.Length, at + part))];
                if (Targets.Run([input with { Content = less }]) is { } still && Sort(still) == sort)
                {
                    (input, what) = (input with { Content = less }, still);
                }
                else
                {
                    at += part;
                }
            }
        }

        return new FuzzFault(input.Kind, input.Content, what);
    }

    private static string Sort(string what) => what.Split(':', '“', '(')[0];

    private int HashCode(int number) => unchecked((seed * 1_000_003) + number);
}
