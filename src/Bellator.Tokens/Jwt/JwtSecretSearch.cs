using System.Diagnostics;
using System.Text;

namespace Bellator.Tokens.Jwt;

/// <param name="Secret">The secret by which the token is signed; null if it was not among those tried.</param>
/// <param name="IsComplete">All candidates were tried; false where the time was up.</param>
public sealed record SecretSearchResult(string? Secret, long Tried, bool IsComplete);

/// <summary>Looks whether a token is signed with a secret that one would guess.</summary>
public static class JwtSecretSearch
{
    private const int Often = 4096;

    /// <summary>Words that examples and templates put where a secret should stand (from memory, common practice).</summary>
    public static readonly IReadOnlyList<string> Usual =
    [
        "", "secret", "Secret", "SECRET", "secretkey", "secret_key", "secret-key", "SecretKey", "mysecret", "my_secret", "my-secret", "mysecretkey", "my-secret-key", "my_secret_key", "jwtsecret", "jwt_secret",
        "jwt-secret", "JWT_SECRET", "jwtSecret", "jwt", "jwt_key", "jwtkey", "key", "privatekey", "private_key", "privateKey", "token", "tokensecret", "token_secret", "token-secret", "topsecret", "top_secret",
        "top-secret", "supersecret", "super_secret", "super-secret", "supersecretkey", "super_secret_key", "super-secret-key", "shhhh", "shhhhh", "shhhhhh", "your_secret", "your-secret", "yoursecret", "your_secret_key",
        "your-secret-key", "your_jwt_secret", "your-jwt-secret", "your-256-bit-secret", "your-384-bit-secret", "your-512-bit-secret", "your_super_secret_key", "a-string-secret-at-least-256-bits-long", "changeme",
        "change_me", "change-me", "changeit", "change_this", "change-this", "change_this_secret", "replace_me", "replaceme", "default", "default_secret", "example", "example_key", "dev", "dev-secret", "dev_secret",
        "development", "test", "testing", "test_secret", "test-secret", "testsecret", "todo", "keyboard cat", "ThisIsASecret", "thisisasecret", "this_is_a_secret", "somesecret", "some_secret", "app_secret", "appsecret",
        "session_secret", "sessionsecret", "auth_secret", "access_token_secret", "refresh_token_secret", "accesssecret", "refreshsecret", "hmac_secret", "hs256", "none", "null", "undefined", "None",
    ];

    /// <param name="candidates">Further secrets, after the usual ones: common passwords, strings of the application’s own code.</param>
    /// <param name="progress">Told from time to time how many were tried.</param>
    /// <exception cref="TokenFormatException">The token is not signed with a shared secret.</exception>
    public static SecretSearchResult Run(JwtReading token, IEnumerable<string> candidates, TimeSpan time, Action<long>? progress, CancellationToken cancel)
    {
        if (!token.Algorithm.StartsWith("HS", StringComparison.Ordinal) || token.Signature.Length == 0)
        {
            throw new TokenFormatException($"The token is not signed with a shared secret ({(token.Algorithm.Length == 0 ? "no algorithm" : token.Algorithm)}): there is none to find.");
        }

        var watch = Stopwatch.StartNew();
        var tried = 0L;
        foreach (var candidate in Usual.Concat(candidates).SelectMany(Spellings))
        {
            if (JwtVerifier.IsSignedWith(token, Encoding.UTF8.GetBytes(candidate)))
            {
                return new(candidate, tried + 1, true);
            }

            if (++tried % Often == 0)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Invoke(tried);
                if (watch.Elapsed > time)
                {
                    return new(null, tried, false);
                }
            }
        }

        return new(null, tried, true);
    }

    /// <summary>The ways in which people make a secret “stronger”.</summary>
    private static IEnumerable<string> Spellings(string candidate)
    {
        yield return candidate;
        if (candidate.Length > 0)
        {
            yield return candidate + "123";
            yield return candidate + "!";
            yield return candidate + "1";
            yield return candidate + "\n";
        }
    }
}
