using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Bellator.Testing;

namespace Bellator.Web.Tests;

/// <summary>What a reviewer does on the way: begins a review, hands code in, waits, judges.</summary>
internal static partial class ReviewSteps
{
    public static async Task<string> BeginAsync(HttpClient client, string name)
    {
        using var created = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = name });
        return created.Headers.Location!.ToString();
    }

    public static async Task HandInAsync(HttpClient client, string review, int number, params (string Path, string Code)[] files)
    {
        using var stream = new MemoryStream();
        using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, code) in files)
            {
                using var entry = zip.CreateEntry(path).Open();
                entry.Write(Encoding.UTF8.GetBytes(code));
            }
        }

        using var content = new MultipartFormDataContent { { new StringContent(await TestApp.TokenAsync(client, review)), "__RequestVerificationToken" }, { new ByteArrayContent(stream.ToArray()), "files", "code.zip" } };
        using var sent = await client.PostAsync(new Uri(review + "?handler=Upload", UriKind.Relative), content);
        Assert.Equal(HttpStatusCode.Redirect, sent.StatusCode);
        await UntilDoneAsync(client, review, number);
    }

    public static async Task UntilDoneAsync(HttpClient client, string review, int number)
    {
        for (var i = 0; i < 300; i++)
        {
            var html = await GetAsync(client, review);
            if (html.Contains($"snapshot {number} ·", StringComparison.Ordinal) && RunState().Match(html).Groups[1].Value == "done" && !html.Contains("id=\"intake\"", StringComparison.Ordinal))
            {
                return;
            }

            await Task.Delay(100);
        }

        throw new TimeoutException(await GetAsync(client, review));
    }

    /// <returns>The judgement, to take it back.</returns>
    public static async Task<string> JudgeAllAsync(HttpClient client, string review, string verdict, string reason, string until = "")
    {
        using var judged = await TestApp.PostAsync(client, review + "/findings", review + "/findings?handler=Judge", new() { ["all"] = "1", ["verdict"] = verdict, ["reason"] = reason, ["until"] = until });
        Assert.Equal(HttpStatusCode.Redirect, judged.StatusCode);
        return Regex.Match(judged.Headers.Location!.ToString(), "judged=([0-9a-f-]+)").Groups[1].Value;
    }

    public static Task<string> GetAsync(HttpClient client, string path) => client.GetStringAsync(new Uri(path, UriKind.Relative));

    [GeneratedRegex("id=\"run\" data-run=\"[^\"]+\" data-state=\"([a-z]+)\"")]
    private static partial Regex RunState();
}
