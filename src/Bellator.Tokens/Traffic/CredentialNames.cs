using Bellator.Analysis.Libraries;

namespace Bellator.Tokens.Traffic;

/// <summary>Which names in a request or an answer tell of a credential.</summary>
public static class CredentialNames
{
    /// <summary>Shorter values are flags and counts.</summary>
    public const int ShortestValue = 8;

    public static bool Tells(IdentifierClassifier words, string name) =>
        !words.TellsOfForgery(name) && !words.IsPassword(name)
        && (words.IsCredential(name) || words.IsSecretToken(name) || words.NamesSessionCookie(WithoutPrefix(name)));

    /// <summary>A cookie’s name without the prefixes of RFC 6265bis, section 4.1.3.</summary>
    public static string WithoutPrefix(string name) =>
        name.StartsWith("__Host-", StringComparison.OrdinalIgnoreCase) ? name["__Host-".Length..] : name.StartsWith("__Secure-", StringComparison.OrdinalIgnoreCase) ? name["__Secure-".Length..] : name;
}
