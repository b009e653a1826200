using Bellator.Storage.Accounts;
using Bellator.Testing;

namespace Bellator.Storage.Tests;

/// <summary>Accounts, sessions and tries when several things happen at once. Each race is run fifty times.</summary>
public sealed class AccountTests(TestCluster cluster) : IClassFixture<TestCluster>
{
    private const int Rounds = 50;
    private static readonly AttemptPolicy Policy = new(5, TimeSpan.FromMinutes(10), TimeSpan.FromMinutes(15));
    private readonly AccountTable _accounts = new(cluster.Database);
    private readonly SessionTable _sessions = new(cluster.Database);
    private readonly AttemptTable _attempts = new(cluster.Database);

    [Fact]
    public async Task A_change_of_password_is_never_undone_by_what_was_read_before_it()
    {
        for (var round = 0; round < Rounds; round++)
        {
            var account = await MakeAsync();
            var stale = (await _accounts.FindAsync(account.Id))!;
            var changed = (await _accounts.FindAsync(account.Id))!;
            (changed.PasswordHash, changed.SecurityStamp) = ("new", "new stamp");
            stale.Name = "Another";
            var written = await Task.WhenAll(_accounts.UpdateAsync(changed), _accounts.UpdateAsync(stale));
            Assert.Single(written, true);
            var now = (await _accounts.FindAsync(account.Id))!;
            Assert.Equal(written[0] ? ("new", "new stamp", "A") : ("x", "stamp", "Another"), (now.PasswordHash, now.SecurityStamp, now.Name));
        }
    }

    [Fact]
    public async Task Any_number_of_tries_at_once_count_as_many()
    {
        for (var round = 0; round < Rounds; round++)
        {
            var key = "account:" + Guid.NewGuid();
            var held = await Task.WhenAll(Enumerable.Range(0, 20).Select(_ => _attempts.BeginAsync(key, Policy)));

            // The free ones and the first that makes the next one wait.
            Assert.InRange(held.Count(h => h), 5, 6);
        }
    }

    [Fact]
    public async Task Waits_grow_and_are_forgotten_with_a_right_try()
    {
        var key = "account:" + Guid.NewGuid();
        for (var i = 0; i < 6; i++)
        {
            Assert.True(await _attempts.BeginAsync(key, Policy));
        }

        Assert.False(await _attempts.BeginAsync(key, Policy));
        await Task.Delay(TimeSpan.FromSeconds(2.3));
        Assert.True(await _attempts.BeginAsync(key, Policy));
        await Task.Delay(TimeSpan.FromSeconds(2.3));
        Assert.False(await _attempts.BeginAsync(key, Policy));
        await _attempts.ForgetAsync(key);
        Assert.True(await _attempts.BeginAsync(key, Policy));

        // Somebody else's tries count for themselves.
        Assert.True(await _attempts.BeginAsync("account:" + Guid.NewGuid(), Policy));
    }

    [Fact]
    public async Task A_session_of_the_old_password_neither_begins_nor_holds()
    {
        for (var round = 0; round < Rounds; round++)
        {
            var account = await MakeAsync();
            var before = (await _sessions.BeginAsync(account))!;
            var changed = (await _accounts.FindAsync(account.Id))!;
            changed.SecurityStamp = "new stamp";

            // A sign-in whose password was looked at before the change, and a request of the old session, at the same time as the change.
            var race = new[] { _sessions.BeginAsync(account), Task.Run(async () => { await _accounts.UpdateAsync(changed); return (string?)null; }), Task.Run(async () => { await _sessions.UseAsync(before); return (string?)null; }) };
            var begun = (await Task.WhenAll(race))[0];
            Assert.Null(await _sessions.UseAsync(before));
            Assert.False(await _sessions.HoldsAsync(before));
            Assert.True(begun is null || await _sessions.UseAsync(begun) is null);
            Assert.NotNull(await _sessions.UseAsync((await _sessions.BeginAsync(changed))!));
        }
    }

    [Fact]
    public async Task A_request_that_began_before_the_end_of_a_session_does_not_bring_it_back()
    {
        for (var round = 0; round < Rounds; round++)
        {
            var key = (await _sessions.BeginAsync(await MakeAsync()))!;
            await RunAsync("UPDATE session SET seen_at = now() - interval '30 minutes'");
            await Task.WhenAll(Task.Run(() => _sessions.UseAsync(key)), Task.Run(() => _sessions.EndAsync(key)), Task.Run(() => _sessions.UseAsync(key)));
            Assert.Null(await _sessions.UseAsync(key));
        }
    }

    [Theory]
    [InlineData("seen_at = now() - interval '59 minutes'", true)]
    [InlineData("seen_at = now() - interval '61 minutes'", false)]
    [InlineData("ends_at = now() + interval '1 minute'", true)]
    [InlineData("ends_at = now() - interval '1 second'", false)]
    public async Task A_session_ends_with_idleness_and_after_its_longest_time(string change, bool holds)
    {
        var account = await MakeAsync();
        var key = (await _sessions.BeginAsync(account))!;

        // The changes come from the list above.
        await RunAsync($"UPDATE session SET {change} WHERE account_id = '{account.Id}'");
        Assert.Equal(holds, await _sessions.HoldsAsync(key));
        Assert.Equal(holds ? account.Id : null, await _sessions.UseAsync(key));
    }

    [Fact]
    public async Task The_limits_are_those_of_the_standard()
    {
        // NIST SP 800-63B-4, section 2.2.3 (AAL2), from memory: inactivity of at most an hour, at most 24 hours in all.
        Assert.True(SessionTable.Idle <= TimeSpan.FromHours(1));
        Assert.True(SessionTable.Longest <= TimeSpan.FromHours(24));
        var account = await MakeAsync();
        await _sessions.BeginAsync(account);
        await using var connection = await cluster.Database.Web.OpenConnectionAsync();
        Assert.True(await Sql.Command(connection, "SELECT ends_at <= now() + $2 FROM session WHERE account_id = $1", account.Id, SessionTable.Longest).FirstAsync(r => r.GetBoolean(0)));
    }

    private async Task<Account> MakeAsync()
    {
        var account = new Account { Name = "A", Email = Guid.NewGuid() + "@fernhollow.example", PasswordHash = "x", SecurityStamp = "stamp" };
        account.EmailKey = account.Email.ToUpperInvariant();
        Assert.True(await _accounts.InsertAsync(account));
        return account;
    }

    private async Task RunAsync(string sql)
    {
        await using var connection = await cluster.Database.Web.OpenConnectionAsync();
        await Sql.Command(connection, sql).RunAsync();
    }
}
