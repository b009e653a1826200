using Bellator.Passwords.Schemes;

namespace Bellator.Passwords;

/// <summary>All schemes, and what a stored value may be.</summary>
public static class SchemeList
{
    /// <summary>Longer values are no passwords and no hashes.</summary>
    public const int LongestValue = 1024;

    private static readonly Plain Otherwise = new();

    /// <summary>Those that a value says itself first.</summary>
    public static readonly IReadOnlyList<HashScheme> All =
    [
        new Unusable(), new Bcrypt(), new Argon2(), new Scrypt(), new Pbkdf2(), new AspNetIdentity(), new DjangoWrapped(), new Sha512Crypt(), new Sha256Crypt(), new Yescrypt(),
        new Md5Crypt(), new Sha1Crypt(), new BsdiCrypt(), new Phpass(), new PostgresLogin(), new MySqlLogin(), new Braced(), new SaltedDigest(),
        .. RawDigest.All,
        new Encrypted(), new DesCrypt(), new Encoded(), Otherwise,
    ];

    public static HashScheme? Find(string id) => All.FirstOrDefault(s => s.Id == id);

    /// <summary>Everything that the value may be, the surest first; by its structure alone.</summary>
    /// <param name="value">As it stands in the column, without blanks around it.</param>
    public static IReadOnlyList<HashReading> Identify(string value)
    {
        if (value.Length > LongestValue)
        {
            return [new HashReading(Otherwise, Sureness.Possible, value[..LongestValue]) { Note = "longer than any password or hash" }];
        }

        var found = new List<HashReading>();
        foreach (var scheme in All)
        {
            if (scheme.Read(value) is { } reading)
            {
                if (reading.Sureness == Sureness.Certain)
                {
                    return [reading];
                }

                if (!ReferenceEquals(scheme, Otherwise) || found.All(f => f.Sureness == Sureness.Possible))
                {
                    found.Add(reading);
                }
            }
        }

        return [.. found.OrderByDescending(f => f.Sureness)];
    }

    public static HashReading ReadBest(string value) => Identify(value)[0];

    /// <summary>Checks a password against everything that the value may be.</summary>
    /// <returns>The reading that it fits, or the surest one, with the outcome.</returns>
    public static (HashReading Reading, VerificationResult Result) Verify(string value, string password)
    {
        var readings = Identify(value);
        var worst = new VerificationResult(Verification.No);
        foreach (var reading in readings)
        {
            var result = reading.Scheme.IsTooDear(reading) ? new VerificationResult(Verification.TooDear) : reading.Scheme.Verify(reading, password);
            if (result.Outcome == Verification.Yes)
            {
                return (reading, result);
            }

            if (result.Outcome != Verification.No && ReferenceEquals(reading, readings[0]))
            {
                worst = result;
            }
        }

        return (readings[0], worst);
    }
}
