using System.Diagnostics;
using System.Globalization;
using Bellator.Passwords;
using Bellator.Passwords.Schemes;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;
using Org.BouncyCastle.Crypto.Generators;

namespace Bellator.Core.Tests;

/// <summary>
/// Stored values made by programs that are not ours are recognised, read and verified: openssl, htpasswd, mkpasswd, PHP's
/// password_hash, Django's and Werkzeug's hashers, passlib and ASP.NET Core Identity. Key derivation is held against the vectors of
/// RFC 6070, RFC 7914 and RFC 9106.
/// </summary>
public sealed class StoredPasswordTests(StoredPasswordTests.Samples samples) : IClassFixture<StoredPasswordTests.Samples>
{
    private const string Password = "Heather-Honey 42";

    /// <summary>Runs the outside programs once.</summary>
    public sealed class Samples
    {
        public Samples()
        {
            var script = Path.Combine(Folders.Home, "tests", "Bellator.Core.Tests", "Outside", "make-hashes.sh");
            using var process = Process.Start(new ProcessStartInfo("bash", [script, Password]) { RedirectStandardOutput = true, RedirectStandardError = true })!;
            var errors = process.StandardError.ReadToEndAsync();
            var text = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            Assert.True(process.ExitCode == 0, errors.Result);
            All = [.. text.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(l => l.Split('\t')).Select(l => (l[0], l[1], l[2]))];
        }

        public IReadOnlyList<(string Scheme, string Maker, string Value)> All { get; }
    }

    [Fact]
    public void There_are_enough_of_them()
    {
        Assert.True(samples.All.Count >= 60, $"{samples.All.Count} values");
        Assert.True(samples.All.Select(s => s.Scheme).Distinct().Count() >= 20);
    }

    [Fact]
    public void Every_value_is_recognised()
    {
        var wrong = samples.All.Where(s => !SchemeList.Identify(s.Value).Any(r => r.Scheme.Id == s.Scheme));
        Assert.Empty(wrong);
    }

    /// <summary>Results of one length look alike; of all others the first answer is the right one.</summary>
    [Fact]
    public void The_first_answer_is_right_where_the_value_can_tell()
    {
        string[] alike = ["ripemd160", "md4", "ntlm", "sha3-256", "sha3-512"];
        Assert.Empty(samples.All.Where(s => !alike.Contains(s.Scheme) && s.Value.Length != 16).Where(s => SchemeList.ReadBest(s.Value).Scheme.Id != s.Scheme).Select(s => s + " " + SchemeList.ReadBest(s.Value).Scheme.Id));
    }

    [Fact]
    public void The_right_password_is_verified_and_no_other_is()
    {
        foreach (var (scheme, maker, value) in samples.All.Where(s => s.Scheme != "unusable"))
        {
            var password = scheme == "des-crypt" ? Password[..8] : Password;
            var (reading, result) = SchemeList.Verify(value, password);
            Assert.True(result.Outcome == Verification.Yes, $"{scheme} by {maker}: {result.Outcome}, {value}");
            Assert.Equal(scheme, reading.Scheme.Id);
            Assert.Equal(Verification.No, SchemeList.Verify(value, "Heather-Honey 43"[..password.Length].Replace('H', 'h')).Result.Outcome);
        }
    }

    [Fact]
    public void How_a_nested_hash_was_made_is_said()
    {
        Assert.Contains(samples.All, s => SchemeList.Verify(s.Value, Password).Result.How == "MD5 of the hex of MD5");
        Assert.Contains(samples.All, s => SchemeList.Verify(s.Value, Password).Result.How == "SHA-1 of the hex of MD5");
        Assert.Contains(samples.All, s => SchemeList.Verify(s.Value, Password).Result.How == "HMAC-SHA1 with the salt as key");
    }

    [Theory]
    [InlineData(PasswordHasherCompatibilityMode.IdentityV2, "sha1", 1000, Strength.BelowMinimum)]
    [InlineData(PasswordHasherCompatibilityMode.IdentityV3, "sha512", 100_000, Strength.BelowMinimum)]
    public void Hashes_of_the_framework_s_own_identity(PasswordHasherCompatibilityMode mode, string digest, int rounds, Strength strength)
    {
        var hasher = new PasswordHasher<string>(Options.Create(new PasswordHasherOptions { CompatibilityMode = mode }));
        var (reading, result) = SchemeList.Verify(hasher.HashPassword("", Password), Password);
        Assert.Equal(("aspnet-identity", digest, (long)rounds, Verification.Yes), (reading.Scheme.Id, reading.Digest, reading["rounds"], result.Outcome));
        Assert.Equal(strength, reading.Scheme.Rate(reading).Strength);
        Assert.Equal(Verification.No, SchemeList.Verify(hasher.HashPassword("", Password), "other").Result.Outcome);
    }

    /// <summary>RFC 6070, section 2 (the vector of 16 million rounds is left out for its time).</summary>
    [Theory]
    [InlineData("password", "salt", 1, "0c60c80f961f0e71f3a9b524af6012062fe037a6")]
    [InlineData("password", "salt", 2, "ea6c014dc72d6f8ccd1ed92ace1d41f0d8de8957")]
    [InlineData("password", "salt", 4096, "4b007901b765489abead49d926f721d065a429c1")]
    [InlineData("passwordPASSWORDpassword", "saltSALTsaltSALTsaltSALTsaltSALTsalt", 4096, "3d2eec4fe41c849b80c8d83662c0e44a8b291a964cf2f07038")]
    [InlineData("pass\0word", "sa\0lt", 4096, "56fa6aa75548099dcc37d7f03425e0c3")]
    public void Rfc_6070(string password, string salt, int rounds, string expected) => Assert.Equal(
        expected,
        Convert.ToHexStringLower(HashText.Pbkdf2("sha1", HashText.Bytes(password), HashText.Bytes(salt), rounds, expected.Length / 2)));

    /// <summary>RFC 7914, section 12 (the vector with a gigabyte is left out).</summary>
    [Theory]
    [InlineData("", "", 16, 1, 1, "77d6576238657b203b19ca42c18a0497f16b4844e3074ae8dfdffa3fede21442fcd0069ded0948f8326a753a0fc81f17e8d3e0fb2e0d3628cf35e20c38d18906")]
    [InlineData("password", "NaCl", 1024, 8, 16, "fdbabe1c9d3472007856e7190d01e9fe7c6ad7cbc8237830e77376634b3731622eaf30d92e22a3886ff109279d9830dac727afb94a83ee6d8360cbdfa2cc0640")]
    [InlineData("pleaseletmein", "SodiumChloride", 16384, 8, 1, "7023bdcb3afd7348461c06cd81fd38ebfda8fbba904f8e3ea9b543f6545da1f2d5432955613f0fcf62d49705242a9af9e61e85dc0d651e40dfcf017b45575887")]
    public void Rfc_7914(string password, string salt, int n, int r, int p, string expected) =>
        Assert.Equal(expected, Convert.ToHexStringLower(SCrypt.Generate(HashText.Bytes(password), HashText.Bytes(salt), n, r, p, 64)));

    /// <summary>RFC 9106, section 5.</summary>
    [Theory]
    [InlineData("argon2d", "512b391b6f1162975371d30919734294f868e3be3984f3c1a13a4db9fabe4acb")]
    [InlineData("argon2i", "c814d9d1dc7f37aa13f0d77f2494bda1c8de6b016dd388d29952a4c4672b6ce8")]
    [InlineData("argon2id", "0d640df58d78766c08c037a34a8b53c9d01ef0452d75b65eb52520e96b01e659")]
    public void Rfc_9106(string variant, string expected)
    {
        static byte[] Of(byte value, int count) => [.. Enumerable.Repeat(value, count)];
        Assert.Equal(expected, Convert.ToHexStringLower(Argon2.Compute(variant, Of(1, 32), Of(2, 16), 32, 3, 4, 19, 32, Of(3, 8), Of(4, 12))));
    }

    /// <summary>RFC 7677, section 3: the exchange of user "user" with password "pencil", as PostgreSQL stores it; and a made-up value that differs.</summary>
    [Fact]
    public void Scram_of_postgresql()
    {
        var salted = HashText.Pbkdf2("sha256", HashText.Bytes("pencil"), Convert.FromBase64String("W22ZaJ0SNY7soEsUEjb6gQ=="), 4096, 32);
        var stored = HashText.Digest("sha256", HashText.Hmac("sha256", salted, HashText.Bytes("Client Key")));
        var server = HashText.Hmac("sha256", salted, HashText.Bytes("Server Key"));
        var value = $"SCRAM-SHA-256$4096:W22ZaJ0SNY7soEsUEjb6gQ==${Convert.ToBase64String(stored)}:{Convert.ToBase64String(server)}";
        Assert.Equal(Verification.Yes, SchemeList.Verify(value, "pencil").Result.Outcome);
        Assert.Equal(Verification.No, SchemeList.Verify(value, "pen").Result.Outcome);
    }

    [Theory]
    [InlineData("$2b$09$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG", Strength.BelowMinimum)]
    [InlineData("$2b$12$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG", Strength.MeetsMinimum)]
    [InlineData("$argon2id$v=19$m=19456,t=2,p=1$c2FsdHNhbHRzYWx0c2FsdA$GD59XuL4CULKGt0Muh2c8fhvF+Co/IxSFsvhIrFFQgQ", Strength.MeetsMinimum)]
    [InlineData("$argon2id$v=19$m=9216,t=4,p=1$c2FsdHNhbHRzYWx0c2FsdA$GD59XuL4CULKGt0Muh2c8fhvF+Co/IxSFsvhIrFFQgQ", Strength.MeetsMinimum)]
    [InlineData("$argon2id$v=19$m=19456,t=1,p=1$c2FsdHNhbHRzYWx0c2FsdA$GD59XuL4CULKGt0Muh2c8fhvF+Co/IxSFsvhIrFFQgQ", Strength.BelowMinimum)]
    [InlineData("$argon2i$v=19$m=19456,t=2,p=1$c2FsdHNhbHRzYWx0c2FsdA$GD59XuL4CULKGt0Muh2c8fhvF+Co/IxSFsvhIrFFQgQ", Strength.BelowMinimum)]
    [InlineData("pbkdf2_sha256$600000$1c9jU4WUH3sq$BUzWGVxuvdK9m9EpLiTjYIvlqugYZzgLKeG+UODIhhw=", Strength.MeetsMinimum)]
    [InlineData("pbkdf2_sha256$260000$1c9jU4WUH3sq$BUzWGVxuvdK9m9EpLiTjYIvlqugYZzgLKeG+UODIhhw=", Strength.BelowMinimum)]
    [InlineData("$scrypt$ln=17,r=8,p=1$onSu1VpL6d2bcw4hBCCkNA$22cC5vE0BQltlPwOLIqUHTjArrGuN0zjknmZzqUVnak", Strength.MeetsMinimum)]
    [InlineData("$scrypt$ln=15,r=8,p=3$onSu1VpL6d2bcw4hBCCkNA$22cC5vE0BQltlPwOLIqUHTjArrGuN0zjknmZzqUVnak", Strength.MeetsMinimum)]
    [InlineData("$scrypt$ln=14,r=8,p=1$onSu1VpL6d2bcw4hBCCkNA$22cC5vE0BQltlPwOLIqUHTjArrGuN0zjknmZzqUVnak", Strength.BelowMinimum)]
    [InlineData("f3a26fcf359dc4eec829a10f9542e6d6", Strength.Unfit)]
    [InlineData("honey-42", Strength.Unfit)]
    public void Settings_are_held_against_the_published_minimum(string value, Strength expected)
    {
        var reading = SchemeList.ReadBest(value);
        var rating = reading.Scheme.Rate(reading);
        Assert.Equal(expected, rating.Strength);
        Assert.NotEqual("", rating.Source);
    }

    [Theory]
    [InlineData("heather", "plain")]
    [InlineData("Tr0ub4dor&3", "plain")]
    [InlineData("correct horse battery staple", "plain")]
    [InlineData("12345678", "plain")]
    [InlineData("password", "plain")]
    [InlineData("", "unusable")]
    [InlineData("gAAAAABmF2u1cG9sbGVuIGlzIG5vdCBob25leSBidXQgaXQgaXMgYSBzdGFydCBvZiBpdCBhbGwgaW4gc3ByaW5n", "encrypted")]
    [InlineData("U2FsdGVkX1+vupppZksvRf5pq5g5XjFRlipRkwB0K1Y=", "encrypted")]
    [InlineData("{bcrypt}$2b$12$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG", "bcrypt")]
    [InlineData("{noop}honey", "braced")]
    [InlineData("plain$$honey", "plain")]
    [InlineData("$2b$99$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG", "plain")]
    public void What_else_stands_in_columns(string value, string scheme) => Assert.Equal(scheme, SchemeList.ReadBest(value).Scheme.Id);

    /// <summary>Values come from strangers: none may keep the machine busy or break it.</summary>
    [Theory]
    [InlineData("$2b$31$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG")]
    [InlineData("$6$rounds=999999999$saltsalt$hK/au3avXThS6JQ0iT/I4Y6bkkMASD1N1mLGJ60fkIGJqk0Dvu7DqiHIub1cFVj0jmKRhqolPmYRMPM6Uhyij/")]
    [InlineData("$argon2id$v=19$m=99999999,t=99999,p=1$c2FsdHNhbHRzYWx0c2FsdA$GD59XuL4CULKGt0Muh2c8fhvF+Co/IxSFsvhIrFFQgQ")]
    [InlineData("scrypt:268435456:8:1$salt$5dfd1b856da2b3abcbfdfad41a2b17d868c7d5eefb45f05b79541c77d2c48595cce380ce3eb7fcac7f9edf0cbd4c6d315dfd1b856da2b3abcbfdfad41a2b17d8")]
    [InlineData("$y$jST$xU.FeBMglx7BpmON8DZXf1$Gz6JT0aySnmEJUlVPg7UhZ.C1SHyReY6B5S6/jrcSsD")]
    [InlineData("pbkdf2_sha256$999999999$1c9jU4WUH3sq$BUzWGVxuvdK9m9EpLiTjYIvlqugYZzgLKeG+UODIhhw=")]
    public void A_value_that_asks_for_too_much_is_not_computed(string value)
    {
        var watch = Stopwatch.StartNew();
        Assert.Equal(Verification.TooDear, SchemeList.Verify(value, "x").Result.Outcome);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(5));
    }

    /// <summary>A digit of another script is a digit to a regular expression's class and none to a number's parser.</summary>
    [Theory]
    [InlineData('\u0660')]
    [InlineData('\u0AED')]
    [InlineData('\uFF15')]
    public void A_number_in_digits_of_another_script_is_no_number(char digit)
    {
        foreach (var (_, _, value) in samples.All)
        {
            for (var i = 0; i < value.Length; i++)
            {
                if (char.IsAsciiDigit(value[i]))
                {
                    Assert.NotEmpty(SchemeList.Identify(value[..i] + digit + value[(i + 1)..]));
                }
            }
        }
    }

    [FsCheck.Xunit.Property(MaxTest = 2000)]
    public bool Any_text_is_read_as_something(string? value) => SchemeList.Identify(value ?? "").Count > 0;

    [Fact]
    public void A_longest_value_fits_what_its_scheme_says()
    {
        foreach (var (scheme, _, value) in samples.All)
        {
            var longest = SchemeList.Find(scheme)!.LongestValue;
            Assert.True(longest == 0 || value.Length <= Math.Max(longest, 0) || value.StartsWith("argon2$", StringComparison.Ordinal) || value.StartsWith("bcrypt$", StringComparison.Ordinal), $"{scheme}: {value.Length.ToString(CultureInfo.InvariantCulture)} in {longest}");
        }
    }
}
