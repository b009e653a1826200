using Bellator.Testing;
using OpenQA.Selenium;

namespace Bellator.Browser.Tests;

/// <summary>Refreshes the pictures of the main views when BELLATOR_SCREENSHOTS is set: they come from the demo data, at 1280x800.</summary>
[Collection("browser")]
public sealed class ScreenshotTests(BrowserFixture browser)
{
    [Fact]
    public async Task Every_main_view_shows_itself()
    {
        var (review, _) = await browser.App.DemoReviewAsync();
        browser.Driver.Manage().Cookies.DeleteAllCookies();
        browser.Go("/sign-in");
        browser.Driver.ExecuteScript("localStorage.setItem('theme', 'light')");
        browser.Go("/sign-in");
        browser.Find("#email");
        Take("sign-in");
        browser.SignIn();
        Take("reviews");
        browser.Go($"/reviews/{review}");
        browser.WaitForText("h1", "Intake");
        Take("intake");
        browser.Go($"/reviews/{review}/surface");
        browser.Find("#map");
        Take("surface");
        browser.Go($"/reviews/{review}/accounts");
        browser.Find("svg.journey");
        Take("accounts");
        browser.Go($"/reviews/{review}/accounts?open=2.4#j2");
        browser.Find("#opened");
        Take("accounts-step");
        browser.Driver.ExecuteScript("document.querySelector('h1.second').scrollIntoView({ behavior: 'instant' }); document.querySelector('.policy details').open = true");
        await Task.Delay(200);
        Take("accounts-policy");
        browser.Go($"/reviews/{review}/passwords");
        browser.OpenMembers();
        Take("passwords");
        browser.Go($"/reviews/{review}/injection");
        browser.Find("article.cause");
        Take("injection");
        browser.Go($"/reviews/{review}/sessions");
        browser.Find("svg.life");
        Take("sessions");
        browser.Go($"/reviews/{review}/sessions/bench");
        browser.Find("button[value='ids-clock.txt']").Click();
        browser.Find("#raster");
        Take("token-bench");
        browser.Go($"/reviews/{review}/sessions/capture");
        browser.Find("button[value='sign-in-kept.har']").Click();
        browser.Find("svg.capture");
        Take("capture");
        browser.Go($"/reviews/{review}/records");
        browser.Find("table.grid");
        Take("records");
        browser.Go($"/reviews/{review}/findings");
        browser.Find("#findings");
        browser.Driver.ExecuteScript("document.querySelector('#findings details').open = true");
        Take("findings");
        browser.Go($"/reviews/{review}/findings?view=list&area=injection");
        browser.Go(browser.Driver.FindElements(By.CssSelector("#findings a[data-go]"))[0].GetAttribute("href")![browser.App.Url.Length..].Replace("findings/", "knowledge?finding=", StringComparison.Ordinal).Split('?', 3) is [var page, var query, ..] ? $"{page}?{query}" : "");
        browser.Find("form.stating select[name=function]");
        Take("stated-facts");
        browser.Go($"/reviews/{review}/standards");
        browser.Find("table.standards");
        Take("standards");
        browser.Go($"/reviews/{review}/report");
        browser.Find("#draft");
        Take("report");
        browser.Go($"/reviews/{review}/findings?view=list");
        browser.Find("#findings");
        browser.Driver.FindElements(By.CssSelector("#findings a")).First(a => browser.Driver.ExecuteScript("return arguments[0].closest('tr').textContent.includes('“q” from') && arguments[0].closest('tr').textContent.includes('portal/')", a) is true).Click();
        browser.Find(".trace");
        Take("finding");
        browser.Driver.ExecuteScript("localStorage.setItem('theme', 'dark')");
        browser.Driver.Navigate().Refresh();
        browser.Find(".trace");
        Take("finding-dark");
        browser.Driver.ExecuteScript("localStorage.setItem('theme', 'light')");
    }

    private void Take(string name)
    {
        browser.Driver.ExecuteScript("return document.fonts.ready");
        var picture = browser.Driver.GetScreenshot();
        Assert.True(picture.AsByteArray.Length > 5000, name + " is empty");
        if (Environment.GetEnvironmentVariable("BELLATOR_SCREENSHOTS") is not null)
        {
            picture.SaveAsFile(Path.Combine(TestCluster.ProjectFolder(), "docs", "screenshots", name + ".png"));
        }
    }
}
