using System.Security.Cryptography;
using System.Text;
using Org.BouncyCastle.Crypto;
using Org.BouncyCastle.Crypto.Digests;

namespace Bellator.Passwords;

/// <summary>Spellings of bytes in stored values, and the hash functions that schemes are made of.</summary>
internal static class HashText
{
    /// <summary>The 64 signs of crypt(3), phpass and yescrypt, in the order of their values.</summary>
    public const string CryptSigns = "./0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz";

    public static byte[] Bytes(string text) => Encoding.UTF8.GetBytes(text);

    public static byte[]? Hex(string text)
    {
        if (text.Length == 0 || text.Length % 2 != 0 || !text.All(char.IsAsciiHexDigit))
        {
            return null;
        }

        return Convert.FromHexString(text);
    }

    /// <summary>Base64 with or without its padding, in the usual, the address and passlib's alphabet.</summary>
    public static byte[]? Base64(string text)
    {
        var plain = text.TrimEnd('=').Replace('-', '+').Replace('_', '/').Replace('.', '+');
        var bytes = new byte[(plain.Length * 3 / 4) + 3];
        return plain.Length % 4 != 1 && Convert.TryFromBase64String(plain.PadRight((plain.Length + 3) / 4 * 4, '='), bytes, out var count) ? bytes[..count] : null;
    }

    /// <summary>A value in crypt's signs, the lowest six bits first.</summary>
    public static int CryptNumber(ReadOnlySpan<char> signs)
    {
        var number = 0;
        for (var i = signs.Length - 1; i >= 0; i--)
        {
            number = (number << 6) | CryptSigns.IndexOf(signs[i], StringComparison.Ordinal);
        }

        return number;
    }

    public static byte[] Digest(string name, params ReadOnlySpan<byte[]> parts)
    {
        var all = new byte[parts.ToArray().Sum(p => p.Length)];
        var at = 0;
        foreach (var part in parts)
        {
            part.CopyTo(all, at);
            at += part.Length;
        }

        return name switch
        {
            "md5" => MD5.HashData(all),
            "sha1" => SHA1.HashData(all),
            "sha256" => SHA256.HashData(all),
            "sha384" => SHA384.HashData(all),
            "sha512" => SHA512.HashData(all),
            "sha224" => Compute(new Sha224Digest(), all),
            "md4" => Compute(new MD4Digest(), all),
            "ripemd160" => Compute(new RipeMD160Digest(), all),
            "sha3-256" => Compute(new Sha3Digest(256), all),
            "sha3-512" => Compute(new Sha3Digest(512), all),
            "blake2b" => Compute(new Blake2bDigest(512), all),
            _ => throw new ArgumentOutOfRangeException(nameof(name), name, "no such function"),
        };
    }

    public static byte[] Hmac(string name, byte[] key, byte[] text) => name switch
    {
        "md5" => HMACMD5.HashData(key, text),
        "sha1" => HMACSHA1.HashData(key, text),
        "sha256" => HMACSHA256.HashData(key, text),
        "sha384" => HMACSHA384.HashData(key, text),
        _ => HMACSHA512.HashData(key, text),
    };

    public static byte[] Pbkdf2(string digest, byte[] password, byte[] salt, long iterations, int length) =>
        Rfc2898DeriveBytes.Pbkdf2(password, salt, (int)iterations, new HashAlgorithmName(digest.ToUpperInvariant()), length);

    public static bool Same(byte[] left, byte[] right) => CryptographicOperations.FixedTimeEquals(left, right);

    private static byte[] Compute(IDigest digest, byte[] input)
    {
        digest.BlockUpdate(input, 0, input.Length);
        var result = new byte[digest.GetDigestSize()];
        digest.DoFinal(result, 0);
        return result;
    }
}
