using System.Security.Cryptography;
using Bellator.Syntax;
using Bellator.Text;
using Microsoft.Extensions.Caching.Memory;

namespace Bellator.Web.Presentation;

/// <summary>
/// What the parser said of pieces of code that were shown lately: the pages of a review show the same few files again and again, and
/// parsing costs more than the rest of such a page. It is kept by the digest of the code, so that whoever asks holds the code already.
/// </summary>
internal static class TokenCache
{
    /// <summary>Tokens that are kept at most; each takes some 24 bytes.</summary>
    private const int MostTokens = 1_000_000;

    private static readonly TimeSpan Kept = TimeSpan.FromMinutes(10);
    private static readonly MemoryCache Cache = new(new MemoryCacheOptions { SizeLimit = MostTokens });

    public static IReadOnlyList<Token> Of(SourceFile file)
    {
        var key = (file.Language, Convert.ToHexStringLower(SHA256.HashData(file.Content)));
        if (Cache.TryGetValue(key, out IReadOnlyList<Token>? known) && known is not null)
        {
            return known;
        }

        var tokens = Highlighter.Tokens(file);
        return Cache.Set(key, tokens, new MemoryCacheEntryOptions { Size = tokens.Count + 1, SlidingExpiration = Kept });
    }
}
