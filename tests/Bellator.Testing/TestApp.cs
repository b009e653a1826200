using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace Bellator.Testing;

/// <summary>The whole web application on loopback with the demo data, audits included.</summary>
public sealed partial class TestApp : IAsyncLifetime
{
    private readonly TestCluster _cluster = new();
    private WebApplication? _app;

    public string Url { get; private set; } = "";

    public IServiceProvider Services => _app!.Services;

    public TestCluster Cluster => _cluster;

    /// <summary>Bounds on helper processes, for the next start.</summary>
    public SupervisorSettings Supervision { get => field with { Folder = Path.Combine(_cluster.Folder, "tmp") }; set; } = new();

    public async Task InitializeAsync()
    {
        await _cluster.InitializeAsync();
        await StartAsync();
        await DemoData.LoadAsync(_app!.Services, Path.Combine(TestCluster.ProjectFolder(), "samples", "fernhollow"));
    }

    public async Task DisposeAsync()
    {
        await StopAsync();
        await _cluster.DisposeAsync();
    }

    public async Task StartAsync()
    {
        // "localhost" and not the number: browsers keep secure cookies for it without TLS.
        Url = $"http://localhost:{FreePort()}";
        _app = WebApp.Build(new WebSettings(
            _cluster.Cluster.ConnectionFor("bellator_web"),
            _cluster.Cluster.ConnectionFor("bellator_worker"),
            _cluster.Cluster.ConnectionFor("bellator_jobs"),
            _cluster.Cluster.ConnectionFor("bellator_scratch"),
            Url,
            _cluster.Folder,
            true)
        { Supervision = Supervision, SignInsPerMinute = 2000 });
        await _app.StartAsync();
    }

    public async Task StopAsync()
    {
        if (_app is not null)
        {
            await _app.StopAsync();
            await _app.DisposeAsync();
            _app = null;
        }
    }

    public async Task<Account> AccountAsync(string email)
    {
        await using var scope = Services.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<UserManager<Account>>().FindByNameAsync(email) ?? throw new InvalidOperationException("no account " + email);
    }

    public async Task<Account> AddAccountAsync(string name, string email)
    {
        await using var scope = Services.CreateAsyncScope();
        var account = new Account { Name = name, Email = email };
        await scope.ServiceProvider.GetRequiredService<UserManager<Account>>().CreateAsync(account, DemoData.Password);
        return account;
    }

    /// <summary>The demo's review, after its audit is done.</summary>
    public async Task<(Guid Review, RunRow Run)> DemoReviewAsync()
    {
        var marsh = await AccountAsync(DemoData.Email);
        for (var i = 0; i < 300; i++)
        {
            await using var scope = await _cluster.Database.OpenAsAsync(marsh.Id);
            var review = (await new ReviewTable(scope).ListAsync()).Single(r => r.Name == "Fernhollow register");
            if (await new RunTable(scope).LatestDoneAsync(review.Id) is { } run)
            {
                return (review.Id, run);
            }

            await Task.Delay(200);
        }

        throw new TimeoutException("the demo's audit did not come to its end");
    }

    /// <summary>A client that keeps cookies as a browser does, signed in if an address is given.</summary>
    public async Task<HttpClient> ClientAsync(string? email = null, string password = DemoData.Password)
    {
        var client = CookieHandler.Client(Url);
        if (email is not null)
        {
            var response = await PostAsync(client, "/sign-in", "/sign-in", new() { ["email"] = email, ["password"] = password });
            if (response.StatusCode != HttpStatusCode.Redirect)
            {
                throw new InvalidOperationException("sign-in failed: " + response.StatusCode);
            }
        }

        return client;
    }

    /// <summary>Sends a form with the antiforgery token of a page.</summary>
    public static async Task<HttpResponseMessage> PostAsync(HttpClient client, string page, string target, Dictionary<string, string> fields)
    {
        fields["__RequestVerificationToken"] = await TokenAsync(client, page);
        using var content = new FormUrlEncodedContent(fields);
        return await client.PostAsync(new Uri(target, UriKind.Relative), content);
    }

    public static async Task<string> TokenAsync(HttpClient client, string page)
    {
        var html = await client.GetStringAsync(new Uri(page, UriKind.Relative));
        return Token().Match(html).Groups[1].Value;
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")]
    private static partial Regex Token();

    public static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}
