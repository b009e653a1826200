using System.Text.RegularExpressions;
using OpenQA.Selenium;
using OpenQA.Selenium.Interactions;

namespace Bellator.Browser.Tests;

/// <summary>Windows of 320 pixels, as at four times the letter size (WCAG 2.2, 1.4.10), and shortcuts that can be switched off (2.1.4).</summary>
[Collection("browser")]
public sealed class NarrowTests(BrowserFixture browser) : IDisposable
{
    public void Dispose() => Size(1280, 800);

    [Fact]
    public async Task Every_page_reflows_at_320_pixels()
    {
        var (review, _) = await browser.App.DemoReviewAsync();
        browser.SignIn();
        browser.Go($"/reviews/{review}/findings");
        var finding = browser.Driver.FindElements(By.CssSelector("#findings a[data-go]"))[0].GetAttribute("href")![browser.App.Url.Length..];
        Size(320, 640);
        foreach (var path in new[]
        {
            "/", "/account", $"/reviews/{review}", $"/reviews/{review}/surface", $"/reviews/{review}/surface?table=members", $"/reviews/{review}/surface?view=list", $"/reviews/{review}/accounts", $"/reviews/{review}/accounts?open=2.4", $"/reviews/{review}/records", $"/reviews/{review}/records?table=hives", $"/reviews/{review}/sessions", $"/reviews/{review}/sessions?open=0.roleChange", $"/reviews/{review}/sessions?view=forgery", $"/reviews/{review}/sessions/bench", $"/reviews/{review}/sessions/capture",
            $"/reviews/{review}/passwords", $"/reviews/{review}/injection", $"/reviews/{review}/findings", $"/reviews/{review}/findings?text=members", finding, $"/reviews/{review}/file?path=portal%2Flib%2Fdb.php", $"/reviews/{review}/findings?view=list", $"/reviews/{review}/report", $"/reviews/{review}/standards", $"/reviews/{review}/compare", $"/reviews/{review}/knowledge", $"/reviews/{review}/knowledge?finding={Regex.Match(finding, "findings/([0-9]+)").Groups[1].Value}", $"/reviews/{review}/reports", "/problem/404", "/problem/503",
        })
        {
            browser.Go(path);
            browser.Find("h1");
            if (path.EndsWith("/passwords", StringComparison.Ordinal))
            {
                browser.OpenMembers();
            }

            browser.OpenExample(path);

            var width = Convert.ToInt64(browser.Driver.ExecuteScript("return document.documentElement.scrollWidth"), System.Globalization.CultureInfo.InvariantCulture);
            var wide = browser.Driver.ExecuteScript("return [...document.querySelectorAll('body *')].filter(e => e.getBoundingClientRect().right > 321 && !e.closest('svg, pre, table.list, .replay, .scroll, .skip, article.cause, article.journey, #result, .gridbox, .findings thead')).slice(0, 4).map(e => e.tagName + '.' + e.className).join(' ')");
            Assert.True(width <= 320, $"{path} is {width} wide: {wide}");
        }
    }

    [Fact]
    public async Task Single_letters_can_be_switched_off()
    {
        var (review, _) = await browser.App.DemoReviewAsync();
        browser.SignIn();
        browser.Go("/account");
        browser.Find("#shortcuts").Click();
        browser.Go($"/reviews/{review}/findings");
        browser.Find("#findings");
        Press("j");
        Press("/");
        Assert.NotEqual("find", browser.Driver.SwitchTo().ActiveElement().GetAttribute("id"));
        Assert.Empty(browser.Driver.FindElements(By.CssSelector("#findings .at")));
        browser.Go("/account");
        browser.Find("#shortcuts").Click();
        browser.Go($"/reviews/{review}/findings");
        browser.Find("#findings");
        Press("j");
        Assert.NotEmpty(browser.Driver.FindElements(By.CssSelector("#findings .at")));
    }

    private void Press(string key) => new Actions(browser.Driver).SendKeys(key).Perform();

    private void Size(int width, int height) =>
        browser.Driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new() { ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = false });
}
