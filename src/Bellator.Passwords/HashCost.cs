using System.Diagnostics;
using System.Globalization;

namespace Bellator.Passwords;

/// <summary>Guesses a second that an attacker makes with given hardware.</summary>
/// <param name="Source">Where the number comes from.</param>
public sealed record AttackerRate(string Scheme, double GuessesPerSecond, string Source);

/// <summary>What guessing costs: measured here, and stated for an attacker.</summary>
public static class HashCost
{
    private const string Memory = "from memory: published benchmarks of one consumer graphics card of 2022, rounded";

    /// <summary>One graphics card; the reviewer edits them. Slow schemes are at the settings named, and scale with them.</summary>
    public static readonly IReadOnlyList<AttackerRate> Rates =
    [
        new("md5", 160e9, Memory),
        new("ntlm", 280e9, Memory),
        new("sha1", 50e9, Memory),
        new("sha256", 22e9, Memory),
        new("sha512", 7.5e9, Memory),
        new("md5-crypt", 70e6, Memory),
        new("phpass", 8.5e6, Memory + ", at 8192 rounds"),
        new("sha512-crypt", 430e3, Memory + ", at 5000 rounds"),
        new("sha256-crypt", 770e3, Memory + ", at 5000 rounds"),
        new("pbkdf2-sha1", 20e6, Memory + ", at 1000 rounds"),
        new("pbkdf2-sha256", 8.9e6, Memory + ", at 1000 rounds"),
        new("pbkdf2-sha512", 3.3e6, Memory + ", at 1000 rounds"),
        new("bcrypt", 184e3, Memory + ", at cost 5"),
        new("scrypt", 7000, Memory + ", at N 16384, r 8, p 1"),
        new("argon2", 1000, "from memory: an estimate for 64 MiB and 3 passes, bound by the card's memory"),
    ];

    /// <summary>The row of the table that a value belongs to, or null.</summary>
    public static string? RateOf(HashReading reading) => reading.Scheme.Id switch
    {
        "pbkdf2" or "aspnet-identity" => "pbkdf2-" + reading.Digest,
        "postgres" => reading.Digest == "md5" ? "md5" : "pbkdf2-sha256",
        "bcrypt-sha256" => "bcrypt",
        "braced" or "salted-digest" => reading.Digest,
        "mysql" => reading.Digest == "sha256" ? "sha256-crypt" : "sha1",
        "md4" => "ntlm",
        var id => Rates.Any(r => r.Scheme == id) ? id : null,
    };

    /// <summary>Guesses a second at the value's own settings, from a rate at the settings of the table.</summary>
    public static double Scaled(HashReading reading, double rate) => reading.Scheme.Id switch
    {
        "bcrypt" or "bcrypt-sha256" => rate / Math.Pow(2, reading["cost"] - 5),
        "pbkdf2" or "aspnet-identity" => rate * 1000 / Math.Max(1, reading["rounds"]),
        "postgres" when reading.Digest == "sha256" => rate * 1000 / Math.Max(1, reading["rounds"]),
        "sha512-crypt" or "sha256-crypt" => rate * 5000 / Math.Max(1, reading["rounds"]),
        "mysql" when reading.Digest == "sha256" => rate * 5000 / Math.Max(1, reading["rounds"]),
        "phpass" => rate * 8192 / Math.Max(1, reading["rounds"]),
        "scrypt" => rate * (16384.0 * 8) / Math.Max(1, reading["N"] * reading["r"] * reading["p"]),
        "argon2" => rate * (65536.0 * 3) / Math.Max(1, reading["memory"] * reading["passes"]),
        _ => rate,
    };

    private const int Warm = 2000;

    /// <summary>Guesses a second that this machine makes on one core, measured for about the time given.</summary>
    /// <returns>Null where nothing here computes the scheme.</returns>
    public static double? Measure(HashReading reading, TimeSpan duration)
    {
        if (reading.Scheme.IsTooDear(reading) || reading.Scheme.Verify(reading, "measured").Outcome == Verification.CannotTell)
        {
            return null;
        }

        // The first guesses are the runtime's warming up.
        var warmUp = reading.Scheme.Guess(reading, "warm") ? 0 : 1;
        for (var cold = Stopwatch.StartNew(); warmUp < Warm && cold.Elapsed < duration / 4; warmUp++)
        {
            reading.Scheme.Guess(reading, "warm");
        }

        var watch = Stopwatch.StartNew();
        var count = 0L;
        do
        {
            reading.Scheme.Guess(reading, "measured" + count.ToString(CultureInfo.InvariantCulture));
            count++;
        }
        while (watch.Elapsed < duration);

        return count / watch.Elapsed.TotalSeconds;
    }

    /// <summary>Seconds until every password of a length over an alphabet was tried.</summary>
    public static double Exhaust(int alphabet, int length, double rate) => Math.Pow(alphabet, length) / rate;

    /// <summary>A time as people say it.</summary>
    public static string Say(double seconds)
    {
        (double Of, string One, string Many)[] units = [(1, "second", "seconds"), (60, "minute", "minutes"), (3600, "hour", "hours"), (86400, "day", "days"), (86400 * 365.25, "year", "years")];
        if (seconds < 1)
        {
            return "less than a second";
        }

        if (seconds >= 1e6 * 86400 * 365.25)
        {
            return "more than a million years";
        }

        var (of, one, many) = units.Last(u => seconds >= u.Of);
        var number = seconds / of;
        return number < 1.5 ? $"1 {one}" : string.Create(CultureInfo.InvariantCulture, $"{number:#,0} {many}").Replace(',', ' ');
    }
}
