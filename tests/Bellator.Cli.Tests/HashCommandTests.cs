using System.Text.Json.Nodes;

namespace Bellator.Cli.Tests;

/// <summary><c>bellator hash</c> as a person or a script calls it.</summary>
public sealed class HashCommandTests : IDisposable
{
    private const string Md5 = "5f4dcc3b5aa765d61d8327deb882cf99";

    private readonly string _folder = Directory.CreateTempSubdirectory("bellator-hash").FullName;

    public void Dispose() => Directory.Delete(_folder, recursive: true);

    [Fact]
    public async Task A_value_is_identified_with_its_rating_and_what_else_it_may_be()
    {
        var (code, output, _) = await CommandRun.RunAsync(_folder, null, "hash", "identify", Md5);
        Assert.Equal(0, code);
        Assert.Contains("MD5  (likely)", output, StringComparison.Ordinal);
        Assert.Contains("unfit for passwords", output, StringComparison.Ordinal);
        Assert.Contains("or NT hash", output, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("password", 0)]
    [InlineData("Password1", 1)]
    public async Task A_password_is_verified_and_the_exit_code_tells(string password, int expected) =>
        Assert.Equal(expected, (await CommandRun.RunAsync(_folder, password + "\n", "hash", "verify", Md5)).Code);

    [Fact]
    public async Task A_table_is_rated_and_searched_and_reported_masked()
    {
        await File.WriteAllTextAsync(Path.Combine(_folder, "members.csv"), $"email,password_hash\na@fernhollow.example,{Md5}\nb@fernhollow.example,{Md5}\nc@fernhollow.example,$2b$12$C6UzMDM.H6dfI/f/IKxGhuKn0WZfPEYqv4v3lMVBgPbwzzYDzVKxG\n");
        // The slow hash of the table takes most of the time there is; on a busy machine the fast ones need some of it too.
        var (code, output, errors) = await CommandRun.RunAsync(_folder, null, "hash", "rate", "members.csv", "--search", "12", "--json", "out.json", "--csv", "out.csv");
        Assert.Equal((0, ""), (code, errors));
        Assert.Contains("2  MD5: unfit for passwords", output, StringComparison.Ordinal);
        Assert.Contains("1  bcrypt, cost 12: meets the minimum", output, StringComparison.Ordinal);
        Assert.Contains("have the same stored value: a@fernhollow.example, b@fernhollow.example", output, StringComparison.Ordinal);
        Assert.Contains("2 found among the common passwords", output, StringComparison.Ordinal);
        Assert.DoesNotContain(": password", output, StringComparison.Ordinal);
        Assert.Equal(3, JsonNode.Parse(await File.ReadAllTextAsync(Path.Combine(_folder, "out.json")))!["values"]!.GetValue<int>());
        Assert.Equal(4, (await File.ReadAllLinesAsync(Path.Combine(_folder, "out.csv"))).Length);
    }

    [Theory]
    [InlineData("cannot be read", "hash", "rate", "nowhere.csv")]
    [InlineData("Try: bellator hash --help", "hash", "rate")]
    [InlineData("there is nothing on standard input", "hash", "identify", "-")]
    [InlineData("there is none", "hash", "verify", "x")]
    public async Task Wrong_use_is_two_and_one_clear_sentence(string sentence, params string[] arguments)
    {
        var (code, _, errors) = await CommandRun.RunAsync(_folder, "", arguments);
        Assert.Equal(2, code);
        Assert.Contains(sentence, errors, StringComparison.Ordinal);
        Assert.DoesNotContain("   at ", errors, StringComparison.Ordinal);
    }
}
