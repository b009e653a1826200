using System.Text.RegularExpressions;

namespace Bellator.Passwords.Schemes;

/// <summary>
/// A fast function with a salt beside it: <c>function$salt$hex</c> (Django, Werkzeug), <c>hex:salt</c> or <c>salt:hex</c>. How the two
/// were put together stands in the code; verification tries the usual ways.
/// </summary>
public sealed partial class SaltedDigest : HashScheme
{
    private static readonly Dictionary<int, string[]> ByLength = new() { [16] = ["md5"], [20] = ["sha1"], [28] = ["sha224"], [32] = ["sha256"], [48] = ["sha384"], [64] = ["sha512"] };

    public override string Id => "salted-digest";

    public override string Title => "Salted fast hash";

    public override string Source => "Django and Werkzeug documentation; common practice";

    public override HashKind Kind => HashKind.SaltedFastHash;

    public override HashReading? Read(string value)
    {
        if (Named().Match(value) is { Success: true } named && HashText.Hex(named.Groups["hash"].Value) is { } digest
            && ByLength.GetValueOrDefault(digest.Length)?.Contains(named.Groups["digest"].Value) == true)
        {
            var salt = named.Groups["salt"].Value;
            return new HashReading(this, Sureness.Certain, value)
            {
                Digest = named.Groups["digest"].Value,
                Salt = salt.Length == 0 ? null : HashText.Bytes(salt),
                Hash = digest,
                Kind = salt.Length == 0 ? HashKind.FastHash : HashKind.SaltedFastHash,
                Note = salt.Length == 0 ? "The salt is empty." : null,
            };
        }

        var at = value.IndexOfAny([':', '$', '.', '|']);
        if (at < 1 || at != value.LastIndexOfAny([':', '$', '.', '|']))
        {
            return null;
        }

        var (left, right) = (value[..at], value[(at + 1)..]);
        var (leftHash, rightHash) = (HashText.Hex(left), HashText.Hex(right));
        var leftIs = leftHash is not null && ByLength.ContainsKey(leftHash.Length);
        var rightIs = rightHash is not null && ByLength.ContainsKey(rightHash.Length);
        if (!leftIs && !rightIs)
        {
            return null;
        }

        // Of two, the longer is the hash.
        var hashLeft = leftIs && (!rightIs || leftHash!.Length > rightHash!.Length);
        var (hash, saltText) = hashLeft ? (leftHash!, right) : (rightHash!, left);
        if (saltText.Length is < 1 or > 128 || saltText.Any(c => c is < '!' or > '~'))
        {
            return null;
        }

        return new HashReading(this, Sureness.Likely, value)
        {
            Digest = ByLength[hash.Length][0],
            Salt = HashText.Bytes(saltText),
            Hash = hash,
            Note = hash.Length >= 32 ? "It can also be the result of PBKDF2 or scrypt with the salt beside it: the settings then stand in the code." : null,
        };
    }

    public override bool Guess(HashReading reading, string password) => HashText.Same(HashText.Digest(reading.Digest!, reading.Salt ?? [], HashText.Bytes(password)), reading.Hash);

    public override VerificationResult Verify(HashReading reading, string password)
    {
        var digest = reading.Digest!;
        var text = HashText.Bytes(password);
        var salts = new List<byte[]> { reading.Salt ?? [] };
        if (reading.Salt is not null && HashText.Hex(System.Text.Encoding.UTF8.GetString(reading.Salt)) is { } raw)
        {
            salts.Add(raw);
        }

        foreach (var salt in salts)
        {
            var name = digest.ToUpperInvariant();
            if (HashText.Same(HashText.Digest(digest, salt, text), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"{name} of salt and password");
            }

            if (HashText.Same(HashText.Digest(digest, text, salt), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"{name} of password and salt");
            }

            if (HashText.Same(HashText.Hmac(digest, salt, text), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"HMAC-{name} with the salt as key");
            }

            var inner = HashText.Bytes(Convert.ToHexStringLower(HashText.Digest(digest, text)));
            if (HashText.Same(HashText.Digest(digest, inner, salt), reading.Hash) || HashText.Same(HashText.Digest(digest, salt, inner), reading.Hash))
            {
                return new VerificationResult(Verification.Yes, $"{name} of {name} and salt");
            }
        }

        return VerificationResult.Of(false);
    }

    [GeneratedRegex(@"^(?<digest>md5|sha1|sha224|sha256|sha384|sha512)\$(?<salt>[^$]*)\$(?<hash>[0-9a-f]{32,128})$")]
    private static partial Regex Named();
}
