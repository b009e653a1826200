using System.Buffers.Text;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.Json;
using Org.BouncyCastle.Crypto.Parameters;
using Org.BouncyCastle.Crypto.Signers;

namespace Bellator.Tokens.Jwt;

/// <param name="IsValid">Null where the key does not fit the algorithm, or the algorithm is not known here.</param>
/// <param name="How">With what it was verified, or why not, in a sentence.</param>
public sealed record JwtVerification(bool? IsValid, string How)
{
    /// <summary>The public key, as text, is accepted as the shared secret.</summary>
    public bool IsKeyConfusion { get; init; }
}

/// <summary>Verifies the signature of a token with whatever key the reviewer has: a secret, a PEM, a JWK or a set of them.</summary>
public static class JwtVerifier
{
    /// <exception cref="TokenFormatException">The key cannot be read.</exception>
    public static JwtVerification Verify(JwtReading token, string key)
    {
        if (token.IsEncrypted)
        {
            return new(null, "The token is encrypted: there is no signature to verify.");
        }

        var text = key.Trim();
        if (text.StartsWith('{'))
        {
            return WithJwks(token, text);
        }

        var isPem = text.StartsWith("-----BEGIN", StringComparison.Ordinal);
        if (token.Algorithm.StartsWith("HS", StringComparison.Ordinal))
        {
            return WithSecret(token, key, isPem);
        }

        if (!isPem)
        {
            return new(null, $"{token.Algorithm} needs a public key: paste a PEM, a certificate or a JWK.");
        }

        try
        {
            return WithPem(token, text) is { } valid
                ? new JwtVerification(valid, valid ? "The signature belongs to this key." : "The signature was not made with this key.")
                : new JwtVerification(null, $"The key does not fit {token.Algorithm}.");
        }
        catch (Exception e) when (e is CryptographicException or ArgumentException)
        {
            throw new TokenFormatException("The PEM cannot be read as a key: " + e.Message);
        }
    }

    /// <summary>Whether a keyed digest of the token is its signature.</summary>
    public static bool IsSignedWith(JwtReading token, ReadOnlySpan<byte> secret)
    {
        Span<byte> made = stackalloc byte[HMACSHA512.HashSizeInBytes];
        var length = token.Algorithm switch
        {
            "HS256" => HMACSHA256.HashData(secret, token.SigningInput, made),
            "HS384" => HMACSHA384.HashData(secret, token.SigningInput, made),
            "HS512" => HMACSHA512.HashData(secret, token.SigningInput, made),
            _ => 0,
        };
        return length > 0 && CryptographicOperations.FixedTimeEquals(made[..length], token.Signature);
    }

    private static JwtVerification WithSecret(JwtReading token, string key, bool isPem)
    {
        // Key files often end with a line break that belongs to the secret for some readers and not for others.
        foreach (var (spelling, how) in new[] { (key, "as it stands"), (key.Trim(), "without spaces around it"), (key.Trim() + "\n", "with a line break") }.DistinctBy(s => s.Item1))
        {
            if (IsSignedWith(token, Encoding.UTF8.GetBytes(spelling)))
            {
                return new(true, isPem ? "The public key, taken for a shared secret, verifies it: whoever knows the public key can make tokens." : $"The signature belongs to this secret, {how}.") { IsKeyConfusion = isPem };
            }
        }

        foreach (var (bytes, how) in Decoded(key.Trim()))
        {
            if (IsSignedWith(token, bytes))
            {
                return new(true, $"The signature belongs to this secret, decoded from {how}.");
            }
        }

        return new(false, "The signature was not made with this secret.");
    }

    /// <summary>What a secret may stand for when it is an encoding of bytes.</summary>
    private static IEnumerable<(byte[] Bytes, string How)> Decoded(string text)
    {
        if (text.Length > 0 && text.Length % 2 == 0 && text.All(char.IsAsciiHexDigit))
        {
            yield return (Convert.FromHexString(text), "hexadecimal");
        }

        var padded = new byte[text.Length];
        if (Convert.TryFromBase64String(text, padded, out var count) && count > 0)
        {
            yield return (padded[..count], "base64");
        }

        if (Base64Url.IsValid(text, out var length) && length > 0)
        {
            yield return (Base64Url.DecodeFromChars(text), "base64url");
        }
    }

    private static bool? WithPem(JwtReading token, string pem)
    {
        using var certificate = pem.Contains("BEGIN CERTIFICATE", StringComparison.Ordinal) ? X509Certificate2.CreateFromPem(pem) : null;
        if (RsaOf(token.Algorithm) is not null)
        {
            using var rsa = certificate?.GetRSAPublicKey() ?? RSA.Create();
            Import(certificate, rsa, pem);
            return Rsa(token, rsa);
        }

        if (HashOf(token.Algorithm) is not null && token.Algorithm.StartsWith("ES", StringComparison.Ordinal))
        {
            using var ecdsa = certificate?.GetECDsaPublicKey() ?? ECDsa.Create();
            Import(certificate, ecdsa, pem);
            return Ecdsa(token, ecdsa);
        }

        if (token.Algorithm is "EdDSA" or "Ed25519")
        {
            using var reader = new StringReader(pem);
            return new Org.BouncyCastle.OpenSsl.PemReader(reader).ReadObject() is Ed25519PublicKeyParameters edwards ? Edwards(token, edwards) : null;
        }

        return null;
    }

    private static void Import(X509Certificate2? certificate, AsymmetricAlgorithm key, string pem)
    {
        if (certificate is null)
        {
            key.ImportFromPem(pem);
        }
    }

    private static JwtVerification WithJwks(JwtReading token, string json)
    {
        JsonElement root;
        try
        {
            root = JsonElement.Parse(json);
        }
        catch (JsonException e)
        {
            throw new TokenFormatException("The key begins like JSON, and is none: " + e.Message);
        }

        var keys = root.TryGetProperty("keys", out var list) && list.ValueKind == JsonValueKind.Array ? [.. list.EnumerateArray()] : new List<JsonElement> { root };
        var kid = JwtReading.TextOf(token.Header, "kid");
        var tried = 0;
        foreach (var key in keys.Where(k => k.ValueKind == JsonValueKind.Object).OrderByDescending(k => kid is not null && JwtReading.TextOf(k, "kid") == kid))
        {
            if (WithJwk(token, key) is { } valid)
            {
                tried++;
                if (valid)
                {
                    return new(true, JwtReading.TextOf(key, "kid") is { } name ? $"The signature belongs to the key “{name}”." : "The signature belongs to this key.");
                }
            }
        }

        return tried == 0 ? new(null, $"None of the keys fits {token.Algorithm}.") : new(false, tried == 1 ? "The signature was not made with this key." : $"The signature was made with none of the {tried} keys that fit.");
    }

    private static bool? WithJwk(JwtReading token, JsonElement key)
    {
        byte[] Bytes(string name) => JwtReading.TextOf(key, name) is { } text && Base64Url.IsValid(text) ? Base64Url.DecodeFromChars(text) : [];
        try
        {
            switch (JwtReading.TextOf(key, "kty"))
            {
                case "oct" when token.Algorithm.StartsWith("HS", StringComparison.Ordinal):
                    return IsSignedWith(token, Bytes("k"));
                case "RSA" when RsaOf(token.Algorithm) is not null:
                    using (var rsa = RSA.Create(new RSAParameters { Modulus = Bytes("n"), Exponent = Bytes("e") }))
                    {
                        return Rsa(token, rsa);
                    }

                case "EC" when token.Algorithm.StartsWith("ES", StringComparison.Ordinal):
                    var curve = JwtReading.TextOf(key, "crv") switch { "P-384" => ECCurve.NamedCurves.nistP384, "P-521" => ECCurve.NamedCurves.nistP521, _ => ECCurve.NamedCurves.nistP256 };
                    using (var ecdsa = ECDsa.Create(new ECParameters { Curve = curve, Q = new ECPoint { X = Bytes("x"), Y = Bytes("y") } }))
                    {
                        return Ecdsa(token, ecdsa);
                    }

                case "OKP" when token.Algorithm is "EdDSA" or "Ed25519":
                    return Edwards(token, new Ed25519PublicKeyParameters(Bytes("x")));
                default:
                    return null;
            }
        }
        catch (Exception e) when (e is CryptographicException or ArgumentException)
        {
            return null;
        }
    }

    private static bool Rsa(JwtReading token, RSA key) => key.VerifyData(token.SigningInput, token.Signature, HashOf(token.Algorithm)!.Value, RsaOf(token.Algorithm)!);

    private static bool Ecdsa(JwtReading token, ECDsa key) => key.VerifyData(token.SigningInput, token.Signature, HashOf(token.Algorithm)!.Value, DSASignatureFormat.IeeeP1363FixedFieldConcatenation);

    private static bool Edwards(JwtReading token, Ed25519PublicKeyParameters key)
    {
        var verifier = new Ed25519Signer();
        verifier.Init(false, key);
        verifier.BlockUpdate(token.SigningInput, 0, token.SigningInput.Length);
        return verifier.VerifySignature(token.Signature);
    }

    private static RSASignaturePadding? RsaOf(string algorithm) => HashOf(algorithm) is null ? null : algorithm[..2] switch { "RS" => RSASignaturePadding.Pkcs1, "PS" => RSASignaturePadding.Pss, _ => null };

    private static HashAlgorithmName? HashOf(string algorithm) => algorithm.Length != 5 ? null : algorithm[2..] switch
    {
        "256" => HashAlgorithmName.SHA256,
        "384" => HashAlgorithmName.SHA384,
        "512" => HashAlgorithmName.SHA512,
        _ => null,
    };
}
