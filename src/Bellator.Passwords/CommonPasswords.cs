namespace Bellator.Passwords;

/// <summary>
/// The most common passwords, the commonest first: the list that the zxcvbn library ships (npm and NuGet <c>zxcvbn-core</c>), made
/// from published leaks by its authors.
/// </summary>
public static class CommonPasswords
{
    private static readonly Lazy<IReadOnlyList<string>> List = new(Read);

    public static IReadOnlyList<string> All => List.Value;

    private static IReadOnlyList<string> Read()
    {
        using var stream = typeof(Zxcvbn.Zxcvbn).Assembly.GetManifestResourceStream("zxcvbn-core.Dictionaries.passwords.lst")
            ?? throw new InvalidOperationException("the list of common passwords is missing");
        using var reader = new StreamReader(stream);
        var words = new List<string>();
        while (reader.ReadLine() is { } word)
        {
            if (word.Length > 0)
            {
                words.Add(word);
            }
        }

        return words;
    }
}
