using Bellator.Testing;
using Bellator.Web;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

namespace Bellator.Browser.Tests;

/// <summary>The application and a browser without a window, shared by the browser tests.</summary>
public sealed class BrowserFixture : IAsyncLifetime
{
    private readonly string _profile = Path.Combine(Path.GetTempPath(), "bellator-browser-" + Guid.NewGuid().ToString("N")[..8]);

    public TestApp App { get; } = new();

    public ChromeDriver Driver { get; private set; } = null!;

    public async Task InitializeAsync()
    {
        await App.InitializeAsync();
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments(
            "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
            "--disable-sync", "--disable-dev-shm-usage", "--window-size=1280,800", "--user-data-dir=" + _profile);
        options.SetLoggingPreference(LogType.Browser, LogLevel.All);
        var service = ChromeDriverService.CreateDefaultService("/usr/bin", "chromedriver");
        service.SuppressInitialDiagnosticInformation = true;
        Driver = new ChromeDriver(service, options, TimeSpan.FromSeconds(120));
        Driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new() { ["width"] = 1280, ["height"] = 800, ["deviceScaleFactor"] = 1, ["mobile"] = false });
        await App.DemoReviewAsync();
    }

    public async Task DisposeAsync()
    {
        Driver?.Quit();
        await App.DisposeAsync();
        if (Directory.Exists(_profile))
        {
            Directory.Delete(_profile, recursive: true);
        }
    }

    public void Go(string path) => Driver.Navigate().GoToUrl(App.Url + path);

    public IWebElement Find(string css) => WaitFor(() => Driver.FindElements(By.CssSelector(css)).FirstOrDefault(e => e.Displayed), css);

    public T WaitFor<T>(Func<T?> find, string what, int seconds = 30)
        where T : class
    {
        var until = DateTime.UtcNow.AddSeconds(seconds);
        while (DateTime.UtcNow < until)
        {
            try
            {
                if (find() is { } found)
                {
                    return found;
                }
            }
            catch (WebDriverException e) when (e is StaleElementReferenceException || e.Message.Contains("does not belong to the document", StringComparison.Ordinal))
            {
                // The page was replaced while it was read; the driver has two ways to say so.
            }

            Thread.Sleep(80);
        }

        throw new TimeoutException($"never seen: {what} at {Driver.Url}");
    }

    public void WaitForText(string css, string text, int seconds = 30) =>
        WaitFor(() => Driver.FindElements(By.CssSelector(css)).FirstOrDefault(e => e.Text.Contains(text, StringComparison.Ordinal)), $"{css} with “{text}”", seconds);

    public void SignIn(string email = DemoData.Email)
    {
        Driver.Manage().Cookies.DeleteAllCookies();
        Go("/sign-in");
        Find("#email").SendKeys(email);
        Find("#password").SendKeys(DemoData.Password + Keys.Enter);
        WaitForText("h1", "Reviews");
    }

    /// <summary>Clicks what may lie below the window's edge.</summary>
    public void Press(string css)
    {
        var element = Find(css);
        Driver.ExecuteScript("arguments[0].scrollIntoView({ block: 'center', behavior: 'instant' })", element);
        element.Click();
    }

    /// <summary>Opens one of the samples of the token bench or of captured traffic, where the page has them.</summary>
    public void OpenExample(string path)
    {
        var (button, shown) = path.EndsWith("/sessions/bench", StringComparison.Ordinal) ? ("button[value='ids-clock.txt']", "#raster") : path.EndsWith("/sessions/capture", StringComparison.Ordinal) ? ("button[value='sign-in-kept.har']", "svg.capture") : ("", "");
        if (button.Length > 0)
        {
            Press(button);
            Find(shown);
        }
    }

    /// <summary>Hands the demo's table of members to the bench of the passwords stage.</summary>
    public void OpenMembers()
    {
        Find("h1");
        Driver.FindElement(By.Id("table")).SendKeys(Path.Combine(TestCluster.ProjectFolder(), "samples", "fernhollow", "members.csv"));
        Find("svg.schemes");
    }

    /// <summary>What the browser complained about since the last call, refusals of the content policy included.</summary>
    public IReadOnlyList<string> Complaints() =>
        [.. Driver.Manage().Logs.GetLog(LogType.Browser).Where(l => l.Level >= LogLevel.Warning).Select(l => l.Message)];
}

[CollectionDefinition("browser")]
public sealed class BrowserCollection : ICollectionFixture<BrowserFixture>;
