using System.Globalization;
using Bellator.Core.Facts;
using Bellator.Core.Flow;

namespace Bellator.Core.Application.Accounts;

/// <summary>A call that hashes, in the terms of the scheme it uses.</summary>
/// <param name="Cost">The work factor, if it is known.</param>
public sealed record HashUse(FlowEvent Event, string Scheme, string? Digest, double? Cost)
{
    public bool IsFast => HashSchemes.IsFast(Scheme);

    /// <summary>Something stands beside what is hashed, or is given as a salt.</summary>
    public bool IsSalted => Event.Roles.ContainsKey("salt") || (Event.Role("input").Text is { } text && text.Alternatives.Any(a => a.Count > 1));

    /// <summary>The call alone does not say which scheme: settings of a framework do.</summary>
    public bool IsConfigured => Scheme is "configured" or "";

    public static HashUse Of(FlowEvent hash)
    {
        var fact = hash.Fact?.Hash;
        var scheme = hash.Role("scheme").Constant ?? fact?.Scheme ?? "";
        var cost = hash.Role("cost");
        var given = cost.Constant ?? (fact is null ? null : FieldFor(scheme, fact.CostFields, cost));
        var digest = hash.Role("digest").Constant ?? (fact is { SchemeAt: not null, Scheme: not null } ? "" : null);
        return new HashUse(hash, scheme, digest, given is not null && double.TryParse(given, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) && number > 0 ? number : null);
    }

    private static string? FieldFor(string scheme, List<string> fields, Value cost)
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
