using System.Diagnostics;
using System.Globalization;
using System.Text.Json.Nodes;
using Bellator.Audit.Reports;
using Bellator.Passwords;

namespace Bellator.Core.Tests;

/// <summary>What the password column of a user table holds: schemes, equal values, shared salts, what common passwords open.</summary>
public sealed class PasswordTableTests
{
    private static readonly string[] Values =
    [
        "$2b$12$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG",
        "5f4dcc3b5aa765d61d8327deb882cf99", "5f4dcc3b5aa765d61d8327deb882cf99", "0192023a7bbd73250516f069df18b500",
        "honey-42",
        "sha1$abcd$" + Sha1("abcd" + "letmein"), "sha1$abcd$" + Sha1("abcd" + "unguessable-7351"),
    ];

    private static PasswordTable Table() => PasswordTable.Of([.. Values.Select((v, i) => new StoredPassword($"member{i}", v))]);

    private static string Sha1(string text) => Convert.ToHexStringLower(HashText.Digest("sha1", HashText.Bytes(text)));

    [Fact]
    public void Values_are_put_together_by_scheme_the_weakest_first()
    {
        var groups = Table().Groups;
        Assert.Equal(["Plain text", "MD5", "Salted fast hash, sha1", "bcrypt, cost 12"], groups.Select(g => g.Title));
        Assert.Equal(3, groups[1].Indices.Count);
        Assert.Equal(Strength.MeetsMinimum, groups[^1].Rating.Strength);
    }

    [Fact]
    public void Equal_values_and_shared_salts_are_found()
    {
        var table = Table();
        Assert.Equal([1, 2], Assert.Single(table.Equal).Indices);
        Assert.Equal([5, 6], Assert.Single(table.SameSalt).Indices);
        Assert.Equal(60, table.Longest);
    }

    [Fact]
    public void Common_passwords_are_found_and_others_are_not()
    {
        var table = Table();
        var result = PasswordSearch.Run([.. table.Readings.Select(r => r[0]).Skip(1)], CommonPasswords.All, TimeSpan.FromMinutes(1), 2);
        Assert.Equal([(0, "password"), (1, "password"), (2, "admin123"), (4, "letmein")], result.Found.Select(f => (f.Index, f.Password)));
        Assert.Null(result.Ended);
    }

    [Fact]
    public void A_search_ends_when_its_time_is_up_and_when_it_is_cancelled()
    {
        HashReading[] slow = [SchemeList.ReadBest(Values[0])];
        var watch = Stopwatch.StartNew();
        var result = PasswordSearch.Run(slow, CommonPasswords.All, TimeSpan.FromSeconds(3), 1);
        Assert.NotNull(result.Ended);
        Assert.InRange(result.Tried, 1, 100);
        Assert.True(watch.Elapsed < TimeSpan.FromSeconds(20));
        using var stop = new CancellationTokenSource();
        Assert.ThrowsAny<OperationCanceledException>(() => PasswordSearch.Run(slow, CommonPasswords.All, TimeSpan.FromMinutes(5), 1, _ => stop.Cancel(), stop.Token));
    }

    /// <summary>Also where the time ends within the last few guesses: what was not tried must not look safe.</summary>
    [Fact]
    public void A_search_says_so_when_it_left_guesses_out() =>
        Assert.NotNull(PasswordSearch.Run([SchemeList.ReadBest(Values[1])], ["password"], TimeSpan.Zero, 1).Ended);

    [Fact]
    public void The_list_begins_with_the_commonest() => Assert.Equal("123456", CommonPasswords.All[0]);

    [Theory]
    [InlineData("id,email,password_hash\n1,a@x,abc\n2,b@x,\"d,e\"\n")]
    [InlineData("id;email;password_hash\r\n1;a@x;abc\r\n2;b@x;d,e\r\n")]
    [InlineData("id\temail\tpassword_hash\n1\ta@x\tabc\n2\tb@x\td,e\n")]
    public void Tables_are_read(string text)
    {
        var columns = PasswordCsv.Columns(text);
        Assert.Equal(("password_hash", "email"), (PasswordCsv.Guess(columns), PasswordCsv.GuessOwner(columns)));
        Assert.Equal([new StoredPassword("a@x", "abc", "1"), new StoredPassword("b@x", "d,e", "2")], PasswordCsv.Read(text, "password_hash", "email", "id"));
    }

    [Theory]
    [InlineData("", "names the columns")]
    [InlineData("a,b\n1,2\n", "no column “hash”")]
    public void What_is_no_such_table_is_refused(string text, string reason) =>
        Assert.Contains(reason, Assert.Throws<PasswordCsvException>(() => PasswordCsv.Read(text, "hash")).Message, StringComparison.Ordinal);

    [Fact]
    public void Reports_do_not_give_passwords_away_unless_asked()
    {
        var table = Table();
        var search = new SearchResult([new FoundPassword(1, "password", "MD5")], 10, TimeSpan.FromSeconds(1), null);
        foreach (var text in (string[])[PasswordReport.Json(table, search, "1", false), PasswordReport.Csv(table, search, false)])
        {
            Assert.DoesNotContain("honey-42", text, StringComparison.Ordinal);
            Assert.DoesNotContain("5f4dcc3b5aa765d61d8327deb882cf99", text, StringComparison.Ordinal);
        }

        Assert.Equal("password", JsonNode.Parse(PasswordReport.Json(table, search, "1", true))!["search"]!["found"]![0]!["password"]!.GetValue<string>());
        Assert.Equal(Values.Length + 1, PasswordReport.Csv(table, search, true).Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
    }

    /// <summary>A spreadsheet must not take a name out of the table for a formula.</summary>
    [Fact]
    public void A_name_that_looks_like_a_formula_stays_text() =>
        Assert.DoesNotContain("\n=cmd", PasswordReport.Csv(PasswordTable.Of([new StoredPassword("=cmd()", "x")]), null, false), StringComparison.Ordinal);

    [Theory]
    [InlineData(0.5, "less than a second")]
    [InlineData(90, "2 minutes")]
    [InlineData(86400 * 3, "3 days")]
    [InlineData(86400 * 365.25 * 1500, "1 500 years")]
    [InlineData(1e20, "more than a million years")]
    public void Times_are_said_as_people_say_them(double seconds, string expected) => Assert.Equal(expected, HashCost.Say(seconds));

    /// <summary>Each step of bcrypt's cost doubles the time; twice the rounds of PBKDF2 take twice as long. Facts of the schemes.</summary>
    [Fact]
    public void Rates_follow_the_settings()
    {
        var cheap = SchemeList.ReadBest("$2b$10$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG");
        Assert.Equal(4, HashCost.Scaled(cheap, 1000) / HashCost.Scaled(SchemeList.ReadBest(Values[0]), 1000));
        var pbkdf2 = SchemeList.ReadBest("pbkdf2_sha256$600000$1c9jU4WUH3sq$BUzWGVxuvdK9m9EpLiTjYIvlqugYZzgLKeG+UODIhhw=");
        Assert.Equal(1.0 / 600, HashCost.Scaled(pbkdf2, 1), 9);
        Assert.Equal("pbkdf2-sha256", HashCost.RateOf(pbkdf2));
        Assert.Equal(Math.Pow(26, 8) / 1e9, HashCost.Exhaust(26, 8, 1e9));
        Assert.InRange(HashCost.Measure(cheap, TimeSpan.FromMilliseconds(200))!.Value, 0.1, 1000);
    }

    [Theory]
    [InlineData("short", "•••••")]
    [InlineData("5f4dcc3b5aa765d61d8327deb882cf99", "5f4dcc3b5a••••••cf99")]
    public void Values_are_masked(string value, string expected) => Assert.Equal(expected, PasswordTable.Masked(value));

    /// <summary>The aim is ten thousand a second; a build machine may be busy, so that the test asks for a third of it.</summary>
    [Fact]
    public void Identification_is_fast()
    {
        var values = Enumerable.Range(0, 3000).Select(i => Values[i % Values.Length] + (i % 3 == 0 ? i.ToString(CultureInfo.InvariantCulture) : "")).ToList();
        var watch = Stopwatch.StartNew();
        values.ForEach(v => SchemeList.Identify(v));
        Assert.True(watch.Elapsed.TotalSeconds < 1, watch.Elapsed.ToString());
    }
}
