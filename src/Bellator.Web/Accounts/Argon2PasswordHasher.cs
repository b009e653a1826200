using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Bellator.Storage.Accounts;
using Bellator.Web.Supervision;
using Konscious.Security.Cryptography;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web.Accounts;

/// <summary>
/// Argon2id (RFC 9106) in the usual text form. 19 MiB, 2 passes, 1 lane: the minimum of the OWASP Password Storage Cheat Sheet, and
/// cheap enough that sign-in itself cannot exhaust the machine.
/// </summary>
public sealed class Argon2PasswordHasher : IPasswordHasher<Account>
{
    private const int MemoryKib = 19456;
    private const int Passes = 2;
    private const int Lanes = 1;
    private const int SaltBytes = 16;
    private const int HashBytes = 32;

    /// <summary>So many passwords are looked at at once, and so many may wait: each costs memory and time, and anybody may send some.</summary>
    private static readonly int AtOnce = Math.Max(2, Environment.ProcessorCount);

    private const int MostWaiting = 64;

    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(20);
    private readonly SemaphoreSlim _turn = new(AtOnce);
    private readonly Lazy<string> _nobodysHash;
    private int _waiting;

    public Argon2PasswordHasher() => _nobodysHash = new(() => HashPassword(new Account(), Convert.ToHexString(RandomNumberGenerator.GetBytes(16))));

    /// <summary>A hash that no password fits, for addresses that nobody has: looking at it takes as long as at any other.</summary>
    public string NobodysHash => _nobodysHash.Value;

    /// <summary>Looks at a password when it is its turn.</summary>
    /// <exception cref="Supervision.BusyException">Too many wait already.</exception>
    public async Task<PasswordVerificationResult> VerifyAsync(Account user, string hashedPassword, string providedPassword, CancellationToken cancel)
    {
        try
        {
            if (Interlocked.Increment(ref _waiting) > MostWaiting || !await _turn.WaitAsync(LongestWait, cancel))
            {
                throw new BusyException();
            }
        }
        finally
        {
            Interlocked.Decrement(ref _waiting);
        }

        try
        {
            return await Task.Run(() => VerifyHashedPassword(user, hashedPassword, providedPassword), CancellationToken.None);
        }
        finally
        {
            _turn.Release();
        }
    }

    public string HashPassword(Account user, string password)
    {
        var salt = RandomNumberGenerator.GetBytes(SaltBytes);
        var hash = Compute(password, salt, MemoryKib, Passes, Lanes, HashBytes);
        return $"$argon2id$v=19$m={MemoryKib},t={Passes},p={Lanes}${Encode(salt)}${Encode(hash)}";
    }

    public PasswordVerificationResult VerifyHashedPassword(Account user, string hashedPassword, string providedPassword)
    {
        var parts = hashedPassword.Split('$');
        if (parts is not ["", "argon2id", "v=19", var settings, var salt, var hash])
        {
            return PasswordVerificationResult.Failed;
        }

        var numbers = settings.Split(',').Select(s => int.Parse(s[2..], CultureInfo.InvariantCulture)).ToArray();
        var expected = Decode(hash);
        var actual = Compute(providedPassword, Decode(salt), numbers[0], numbers[1], numbers[2], expected.Length);
        if (!CryptographicOperations.FixedTimeEquals(expected, actual))
        {
            return PasswordVerificationResult.Failed;
        }

        return numbers[0] < MemoryKib || numbers[1] < Passes ? PasswordVerificationResult.SuccessRehashNeeded : PasswordVerificationResult.Success;
    }

    private static byte[] Compute(string password, byte[] salt, int memory, int passes, int lanes, int length)
    {
        using var argon = new Argon2id(Encoding.UTF8.GetBytes(password.Normalize(NormalizationForm.FormKC)))
        {
            Salt = salt,
            MemorySize = memory,
            Iterations = passes,
            DegreeOfParallelism = lanes,
        };
        return argon.GetBytes(length);
    }

    private static string Encode(byte[] bytes) => Convert.ToBase64String(bytes).TrimEnd('=');

    private static byte[] Decode(string text) => Convert.FromBase64String(text.PadRight((text.Length + 3) / 4 * 4, '='));
}
