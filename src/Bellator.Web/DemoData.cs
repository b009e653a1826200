using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Runs;
using Microsoft.AspNetCore.Identity;

namespace Bellator.Web;

/// <summary>The Fernhollow demo: two accounts and one review of the sample application.</summary>
public static class DemoData
{
    public const string Email = "i.marsh@fernhollow.example";
    public const string Password = "smoke before opening";

    public static async Task LoadAsync(IServiceProvider services, string samples)
    {
        await using var scope = services.CreateAsyncScope();
        var users = scope.ServiceProvider.GetRequiredService<UserManager<Account>>();
        if (await users.FindByNameAsync(Email) is not null)
        {
            return;
        }

        var marsh = await CreateAsync(users, "I. Marsh", Email);
        var alder = await CreateAsync(users, "T. Alder", "t.alder@fernhollow.example");
        var tree = SourceLoader.Load(samples, SourceLimits.Default);
        var database = services.GetRequiredService<Database>();
        Guid review;
        await using (var work = await database.OpenAsAsync(marsh.Id))
        {
            var reviews = new ReviewTable(work);
            review = await reviews.CreateAsync("Fernhollow register");
            await reviews.AddMemberAsync(review, alder.Id);
            await work.CommitAsync();
        }

        var writer = await SnapshotWriter.BeginAsync(database, marsh.Id, review, tree.Name);
        foreach (var file in tree.Files)
        {
            await writer.AddAsync(file);
        }

        await services.GetRequiredService<RunDispatch>().SendAsync(await writer.FinishAsync(tree.Skipped));
    }

    private static async Task<Account> CreateAsync(UserManager<Account> users, string name, string email)
    {
        var account = new Account { Name = name, Email = email };
        var result = await users.CreateAsync(account, Password);
        return result.Succeeded ? account : throw new InvalidOperationException("the demo account could not be made: " + result);
    }
}
