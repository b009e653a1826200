using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Passwords;

namespace Bellator.Audit.Accounts;

/// <summary>A call that hashes, in the terms of the scheme it uses.</summary>
/// <param name="Cost">The work factor, if it is known.</param>
public sealed record HashUse(AnalysisEvent Event, string Scheme, string? Digest, double? Cost)
{
    public bool IsFast => HashSchemeNames.IsFast(Scheme);

    /// <summary>Something stands beside what is hashed, or is given as a salt.</summary>
    public bool IsSalted => Event.Roles.ContainsKey("salt") || (Event.Role("input").Text is { } text && text.Alternatives.Any(a => a.Count > 1));

    /// <summary>The call alone does not say which scheme: settings of a framework do.</summary>
    public bool IsConfigured => Scheme is "configured" or "";

    /// <summary>The settings held against published minimums, as for a stored value; null where the code does not say enough.</summary>
    public HashRating? Rating => Scheme switch
    {
        "bcrypt" => Cost is { } cost ? HashRating.Bcrypt((long)cost) : null,
        "pbkdf2" => Cost is { } rounds ? HashRating.Pbkdf2(Digest?.ToLowerInvariant() switch { "sha1" or null => "sha1", "sha512" or "" => "sha512", _ => "sha256" }, (long)rounds) : null,
        "scrypt" => Cost is { } n ? HashRating.Scrypt((long)n, Option("r", "blockSize") ?? 8, Option("p", "parallelization") ?? 1) : null,
        "argon2id" or "argon2i" or "argon2d" => Cost is { } memory && (Option("timeCost", "time_cost") ?? Default("time")) is { } passes
            ? HashRating.Argon2(Scheme, (long)memory, passes, Option("parallelism", "threads") ?? 1) : null,
        _ => null,
    };

    public static HashUse Of(AnalysisEvent hash)
    {
        var fact = hash.Fact?.Hash;
        var scheme = hash.Role("scheme").Constant ?? fact?.Scheme ?? "";
        var cost = hash.Role("cost");
        var given = cost.Constant ?? (fact is null ? null : FieldFor(scheme, fact.CostFields, cost));
        var digest = hash.Role("digest").Constant ?? (fact is { SchemeAt: not null, Scheme: not null } ? "" : null);
        var use = new HashUse(hash, scheme, digest, given is not null && double.TryParse(given, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && number > 0 ? number : null);

        // Options that leave the memory out have the library's own; options that nobody sees through may have anything.
        return use.Cost is null && scheme.StartsWith("argon", StringComparison.Ordinal) && cost is { Fields.Count: > 0, IsTainted: false } && use.Default("memory") is { } usual ? use with { Cost = usual } : use;
    }

    private static string? FieldFor(string scheme, List<string> fields, AbstractValue cost)
    {
        // Argon2 and bcrypt share one options object in some libraries; each has its own field.
        foreach (var field in fields)
        {
            if (cost.Field(field)?.Constant is { } given && (scheme.StartsWith("argon", StringComparison.Ordinal) ? field.StartsWith("memory", StringComparison.Ordinal) : !field.StartsWith("memory", StringComparison.Ordinal)))
            {
                return given;
            }
        }

        return null;
    }

    /// <summary>A number among the options.</summary>
    private long? Option(params ReadOnlySpan<string> names)
    {
        foreach (var name in names)
        {
            if (Event.Role("cost").Field(name)?.Constant is { } given && long.TryParse(given, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
            {
                return number;
            }
        }

        return null;
    }

    /// <summary>What the library takes for an option that is left out.</summary>
    private long? Default(string beginning) => Event.Fact?.Hash?.CostDefaults is { } defaults && Event.Role("cost") is { IsTainted: false }
        ? defaults.Where(d => d.Key.StartsWith(beginning, StringComparison.Ordinal)).Select(d => (long?)d.Value).FirstOrDefault() : null;

    public string Title => Scheme switch
    {
        "bcrypt" => "bcrypt",
        "scrypt" => "scrypt",
        "pbkdf2" => "PBKDF2",
        "aspnet-identity" => "PBKDF2 as ASP.NET Identity has it",
        "argon2id" or "argon2i" or "argon2d" => "Argon2",
        "configured" => "the framework's hasher",
        "" => "a hash",
        _ => Scheme,
    };
}
