using System.Globalization;

namespace Bellator.Passwords;

/// <summary>How well a stored value protects the password.</summary>
public enum Strength
{
    /// <summary>The password can be read or guessed at no cost.</summary>
    Unfit,

    /// <summary>The right kind of function with too little work.</summary>
    BelowMinimum,

    /// <summary>Nothing that is published says.</summary>
    Unclear,

    MeetsMinimum,
}

/// <summary>A rating with its reason and the published document it rests on.</summary>
/// <param name="Source">The document, or "common practice".</param>
public sealed record HashRating(Strength Strength, string Reason, string Source)
{
    /// <summary>There is work enough; only the variant is not the one that is recommended.</summary>
    public bool IsOnlyVariant { get; private init; }

    /// <summary>The OWASP Password Storage Cheat Sheet; its numbers are as of 2025 and were written down from memory.</summary>
    public const string Owasp = "OWASP Password Storage Cheat Sheet (2025)";

    /// <summary>NIST SP 800-63B-4, section 3.1.1.2: salted, with a password hashing scheme that has a cost; from memory.</summary>
    public const string Nist = "NIST SP 800-63B-4, 3.1.1.2";

    public const string Practice = "common practice";

    /// <summary>Cost of bcrypt.</summary>
    public const int BcryptCost = 10;

    private static readonly (long MemoryKib, long Passes)[] Argon2Minimums = [(47104, 1), (19456, 2), (12288, 3), (9216, 4), (7168, 5)];

    private static readonly (int LogN, long P)[] ScryptMinimums = [(17, 1), (16, 2), (15, 3), (14, 5), (13, 10)];

    public static HashRating OfKind(HashKind kind) => kind switch
    {
        HashKind.Plain => new(Strength.Unfit, "The password is stored as it was typed.", Nist),
        HashKind.Encoded => new(Strength.Unfit, "The password is only spelled otherwise; anyone can undo that.", Nist),
        HashKind.Encrypted => new(Strength.Unfit, "Whoever gets the key gets every password; storage must not be reversible.", Nist),
        HashKind.FastHash => new(Strength.Unfit, "A fast function without a salt: all people at once can be guessed, billions of guesses a second.", Nist),
        HashKind.SaltedFastHash => new(Strength.Unfit, "A fast function: the salt makes each person a case of their own, but guesses still cost next to nothing.", Nist),
        HashKind.Unusable => new(Strength.Unclear, "Nobody can sign in with this value.", Practice),
        _ => new(Strength.Unclear, "There is no published minimum for this scheme.", Practice),
    };

    public static HashRating Bcrypt(long cost) => Against(cost >= BcryptCost, $"cost {cost}", $"cost {BcryptCost}", Owasp);

    /// <summary>Rounds of PBKDF2 with HMAC of the function; 0 where none are published.</summary>
    public static int Pbkdf2Rounds(string digest) => digest switch { "sha1" => 1_300_000, "sha512" => 210_000, "sha256" => 600_000, _ => 0 };

    /// <param name="iterations">Rounds of HMAC.</param>
    public static HashRating Pbkdf2(string digest, long iterations)
    {
        var minimum = Pbkdf2Rounds(digest);
        return minimum == 0
            ? new(Strength.Unclear, $"No minimum is published for PBKDF2 with {digest}.", Practice)
            : Against(iterations >= minimum, $"{Spell(iterations)} rounds", $"{Spell(minimum)} with HMAC-{digest.ToUpperInvariant()}", Owasp);
    }

    /// <param name="n">N itself.</param>
    public static HashRating Scrypt(long n, long r, long p) => Scrypt(System.Numerics.BitOperations.Log2((ulong)Math.Max(1, n)), r, p);

    /// <param name="logN">Binary logarithm of N.</param>
    public static HashRating Scrypt(int logN, long r, long p) => Against(
        ScryptMinimums.Any(m => logN >= m.LogN && r >= 8 && p >= m.P) || (logN > 17 && r >= 8),
        $"N 2^{logN}, r {r}, p {p}",
        "N 2^17, r 8, p 1 or an equivalent",
        Owasp);

    public static HashRating Argon2(string variant, long memoryKib, long passes, long lanes)
    {
        var given = $"{Spell(memoryKib)} KiB, {passes} {(passes == 1 ? "pass" : "passes")}, {lanes} {(lanes == 1 ? "lane" : "lanes")}";
        var meets = Argon2Minimums.Any(m => memoryKib >= m.MemoryKib && passes >= m.Passes);
        return variant != "argon2id"
            ? new(Strength.BelowMinimum, $"{given}; {variant} is not the variant that is recommended, which is Argon2id.", Owasp) { IsOnlyVariant = meets }
            : Against(meets, given, "19 456 KiB and 2 passes or an equivalent", Owasp);
    }

    /// <summary>A scheme of iterated SHA-2, held against the rounds that PBKDF2 needs with the same function.</summary>
    public static HashRating Sha2Crypt(string digest, long rounds)
    {
        var minimum = Pbkdf2Rounds(digest);
        return rounds >= minimum
            ? new(Strength.MeetsMinimum, $"{Spell(rounds)} rounds, as many as PBKDF2 with the same function needs.", Practice)
            : new(Strength.BelowMinimum, $"{Spell(rounds)} rounds; PBKDF2 with the same function needs {Spell(minimum)}.", Practice);
    }

    private static HashRating Against(bool meets, string given, string minimum, string source) =>
        new(meets ? Strength.MeetsMinimum : Strength.BelowMinimum, $"{given}; the minimum is {minimum}.", source);

    /// <summary>A number with its thousands apart.</summary>
    internal static string Spell(long number) => number.ToString("#,0", CultureInfo.InvariantCulture).Replace(',', ' ');
}
