namespace Bellator.Tokens.Samples;

/// <summary>The signs of which ids are made.</summary>
/// <param name="Name">As it stands in a sentence: “hexadecimal”.</param>
/// <param name="Signs">In the order in which they count.</param>
public sealed record SampleAlphabet(string Name, string Signs)
{
    private const string Lower = "abcdefghijklmnopqrstuvwxyz";
    private const string Upper = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";
    private const string Digits = "0123456789";

    /// <summary>The narrowest first, so that the first that holds all characters is the guess.</summary>
    private static readonly SampleAlphabet[] Known =
    [
        new("decimal digits", Digits),
        new("hexadecimal", "0123456789abcdef"),
        new("hexadecimal capitals", "0123456789ABCDEF"),
        new("base32", Upper + "234567"),
        new("Crockford base32", "0123456789ABCDEFGHJKMNPQRSTVWXYZ"),
        new("small letters", Lower),
        new("small letters and digits", Digits + Lower),
        new("capitals and digits", Digits + Upper),
        new("letters", Upper + Lower),
        new("letters and digits", Upper + Lower + Digits),
        new("base64url", Upper + Lower + Digits + "-_"),
        new("base64", Upper + Lower + Digits + "+/"),
        new("letters, digits, comma and hyphen", Digits + Lower + Upper + "-,"),
    ];

    /// <summary>Bits that one sign holds at most.</summary>
    public double Bits => Math.Log2(Signs.Length);

    /// <summary>The narrowest usual alphabet that has all the signs; null where none has.</summary>
    public static SampleAlphabet? Of(IEnumerable<char> text)
    {
        var used = text.Where(c => c is not '=').ToHashSet();
        return used.Count == 0 ? null : Known.FirstOrDefault(a => used.All(c => a.Signs.Contains(c, StringComparison.Ordinal)));
    }
}
