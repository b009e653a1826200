using System.Globalization;

namespace Bellator.Passwords;

/// <summary>A stored value with whose it is.</summary>
/// <param name="Owner">A name or number from the table, for finding the row again; empty for a pasted list.</param>
/// <param name="Age">A date of the table, as it stands there, or null.</param>
public sealed record StoredPassword(string Owner, string Value, string? Age = null);

/// <summary>Values that are the same, or that share a salt.</summary>
public sealed record SharedValue(string What, IReadOnlyList<int> Indices);

/// <summary>All values of one scheme with the same settings.</summary>
/// <param name="Title">Scheme and settings: "bcrypt, cost 12".</param>
public sealed record SchemeGroup(string Title, HashReading Example, HashRating Rating, IReadOnlyList<int> Indices);

/// <summary>What the password column of a table holds.</summary>
public sealed class PasswordTable
{
    private PasswordTable(IReadOnlyList<StoredPassword> rows, IReadOnlyList<IReadOnlyList<HashReading>> readings)
    {
        Rows = rows;
        Readings = readings;
        Groups = [.. Enumerable.Range(0, rows.Count).GroupBy(i => TitleOf(readings[i][0]))
            .Select(g => new SchemeGroup(g.Key, readings[g.First()][0], readings[g.First()][0].Scheme.Rate(readings[g.First()][0]), [.. g]))
            .OrderBy(g => g.Rating.Strength).ThenBy(g => g.Example.Kind).ThenByDescending(g => g.Indices.Count)];
        Equal = Shared(i => rows[i].Value.Length > 0 && readings[i][0].Kind != HashKind.Unusable ? rows[i].Value : null, "the same value");
        SameSalt = Shared(i => readings[i][0].Salt is { Length: > 0 } salt ? readings[i][0].Scheme.Id + Convert.ToHexString(salt) : null, "the same salt");
    }

    public IReadOnlyList<StoredPassword> Rows { get; }

    /// <summary>For each row all that it may be, the surest first.</summary>
    public IReadOnlyList<IReadOnlyList<HashReading>> Readings { get; }

    /// <summary>The weakest first.</summary>
    public IReadOnlyList<SchemeGroup> Groups { get; }

    /// <summary>People with the same stored value: they have the same password, and there is no salt.</summary>
    public IReadOnlyList<SharedValue> Equal { get; }

    /// <summary>Different values with the same salt.</summary>
    public IReadOnlyList<SharedValue> SameSalt { get; }

    /// <summary>The longest value, for the width of the column.</summary>
    public int Longest => Rows.Count == 0 ? 0 : Rows.Max(r => r.Value.Length);

    public static PasswordTable Of(IReadOnlyList<StoredPassword> rows) => new(rows, [.. rows.Select(r => SchemeList.Identify(r.Value.Trim()))]);

    /// <summary>Scheme and settings in words.</summary>
    public static string TitleOf(HashReading reading)
    {
        var variant = reading.Scheme.Id == "argon2" ? reading.Digest!["argon2".Length..] : "";
        var parts = new List<string> { reading.Scheme.Title + variant };
        if (reading.Digest is { } digest && reading.Scheme.Id is "pbkdf2" or "aspnet-identity" or "salted-digest" or "braced")
        {
            parts.Add(digest);
        }

        parts.AddRange(reading.Parameters.Where(p => p.Name != "version").Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Name} {p.Value}{(p.Unit.Length > 0 ? " " + p.Unit : "")}")));
        if (reading.Scheme.Id is "encoded" or "encrypted" && reading.Note is { } note)
        {
            parts.Add(note);
        }

        return string.Join(", ", parts);
    }

    /// <summary>A value of which only the ends are shown, unless it is so short that these would be all of it.</summary>
    public static string Masked(string value) => value.Length <= 8 ? new string('•', value.Length) : value.Length <= 24 ? value[..2] + new string('•', Math.Min(8, value.Length - 4)) + value[^2..] : value[..10] + "••••••" + value[^4..];

    private List<SharedValue> Shared(Func<int, string?> key, string what) =>
        [.. Enumerable.Range(0, Rows.Count).Where(i => key(i) is not null).GroupBy(i => key(i)!, StringComparer.Ordinal)
            .Where(g => g.Select(i => Rows[i].Value).Distinct(StringComparer.Ordinal).Count() is var values && (what == "the same value" ? g.Count() > 1 : values > 1))
            .OrderByDescending(g => g.Count()).Select(g => new SharedValue(what, [.. g]))];
}
