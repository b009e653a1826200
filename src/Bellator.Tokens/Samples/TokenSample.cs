using System.Globalization;

namespace Bellator.Tokens.Samples;

/// <summary>A column of the sample: the signs at one place of all ids.</summary>
/// <param name="Distinct">How many different signs there are.</param>
/// <param name="Entropy">Shannon’s, of the signs that were seen, in bits; few ids show less than there is.</param>
/// <param name="Commonest">The share of the sign that is seen most.</param>
public sealed record SamplePosition(int Index, int Distinct, double Entropy, double Commonest, char Example);

/// <summary>Ids of one kind, in the order in which they were issued.</summary>
public sealed class TokenSample
{
    public const int MostIds = 50_000;
    private const int LongestId = 4096;

    private TokenSample(IReadOnlyList<string> ids)
    {
        Ids = ids;
        Length = ids.Max(i => i.Length);
        Positions = [.. Enumerable.Range(0, Length).Select(PositionAt)];
        Alphabet = SampleAlphabet.Of(Positions.Where(p => p.Distinct > 1).SelectMany(p => ids.Where(i => i.Length > p.Index).Select(i => i[p.Index])));
        Duplicates = ids.Count - ids.Distinct(StringComparer.Ordinal).Count();
        (Bits, BitsPerId) = ReadBits();
    }

    public IReadOnlyList<string> Ids { get; }

    public int Length { get; }

    public IReadOnlyList<SamplePosition> Positions { get; }

    /// <summary>Of the places that change; null where they are not of one usual alphabet.</summary>
    public SampleAlphabet? Alphabet { get; }

    /// <summary>Ids that were there before.</summary>
    public int Duplicates { get; }

    /// <summary>The bits of the places that change, one byte each, id after id.</summary>
    public byte[] Bits { get; }

    /// <summary>0 where they are not the same number for all ids.</summary>
    public int BitsPerId { get; }

    public bool HasOneLength => Ids.All(i => i.Length == Length);

    /// <param name="text">One id a line; of a line of Set-Cookie the value is taken.</param>
    /// <exception cref="TokenFormatException">There is nothing in it, or too much.</exception>
    public static TokenSample Read(string text)
    {
        var ids = new List<string>();
        foreach (var line in text.AsSpan().EnumerateLines())
        {
            var id = Id(line.Trim());
            if (id.Length > LongestId)
            {
                throw new TokenFormatException($"Line {ids.Count + 1} has {id.Length} characters; an id of more than {LongestId} is not read.");
            }

            if (id.Length > 0)
            {
                ids.Add(id);
            }

            if (ids.Count > MostIds)
            {
                throw new TokenFormatException($"There are more than {MostIds} ids; a sample of as many says no less.");
            }
        }

        return ids.Count == 0 ? throw new TokenFormatException("There is no id in it: give one a line.") : new TokenSample(ids);
    }

    private static string Id(ReadOnlySpan<char> line)
    {
        if (!line.StartsWith("Set-Cookie:", StringComparison.OrdinalIgnoreCase))
        {
            return line.Trim('"').ToString();
        }

        return Cookies.SetCookie.Read(line.ToString()).Value;
    }

    private SamplePosition PositionAt(int index)
    {
        var counts = new Dictionary<char, int>();
        foreach (var id in Ids)
        {
            if (index < id.Length)
            {
                counts[id[index]] = counts.GetValueOrDefault(id[index]) + 1;
            }
        }

        double total = counts.Values.Sum();
        return new(index, counts.Count, -counts.Values.Sum(c => c / total * Math.Log2(c / total)) + 0.0, counts.Values.Max() / total, counts.MaxBy(c => c.Value).Key);
    }

    /// <summary>
    /// Signs that change, as bits. Of an alphabet whose size is no power of two, only the signs below the largest power are taken: were all
    /// signs equally likely, these bits would be, too.
    /// </summary>
    private (byte[] Bits, int PerId) ReadBits()
    {
        if (Alphabet is null)
        {
            return ([], 0);
        }

        var perSign = (int)Math.Floor(Alphabet.Bits);
        var limit = 1 << perSign;
        var places = Positions.Where(p => p.Distinct > 1).Select(p => p.Index).ToList();
        var bits = new List<byte>(Ids.Count * places.Count * perSign);
        foreach (var id in Ids)
        {
            foreach (var place in places)
            {
                var rank = place < id.Length ? Alphabet.Signs.IndexOf(id[place], StringComparison.Ordinal) : -1;
                for (var bit = perSign - 1; rank >= 0 && rank < limit && bit >= 0; bit--)
                {
                    bits.Add((byte)((rank >> bit) & 1));
                }
            }
        }

        return ([.. bits], limit == Alphabet.Signs.Length && HasOneLength ? places.Count * perSign : 0);
    }

    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Ids.Count} ids of {Length} characters");
}
