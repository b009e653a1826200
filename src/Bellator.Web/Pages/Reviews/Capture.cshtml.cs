using System.Security.Cryptography;
using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Tokens.Traffic;
using Bellator.Web.Accounts;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>Captured traffic: each credential followed by its value. The capture itself is read in a helper process and deleted.</summary>
[RequestSizeLimit(WebApp.MaxUploadBytes)]
[RequestFormLimits(MultipartBodyLengthLimit = WebApp.MaxUploadBytes)]
public sealed class CaptureModel(Database database, AccountTable accounts, BenchQueue bench, IDataProtectionProvider protection) : ReviewPage(database)
{
    private const int MostExchanges = 400;
    private static readonly TimeSpan ReadTime = TimeSpan.FromSeconds(90);

    /// <summary>Captures that ship with the application, and what they show.</summary>
    public static readonly IReadOnlyList<(string File, string Text)> Examples = [("sign-in-kept.har", "a sign-in that keeps its id"), ("sign-in-renewed.har", "one that renews it")];

    public override string Stage => "Sessions";

    public CaptureReport? Capture { get; private set; }

    public IReadOnlyList<CapturedAddress> Addresses { get; private set; } = [];

    public IReadOnlyList<ListedExchange> Exchanges { get; private set; } = [];

    /// <summary>Who keeps it with the review since when; null where nothing is kept.</summary>
    public KeptCapture? Kept { get; private set; }

    public string? Message { get; private set; }

    public async Task OnGetAsync()
    {
        Kept = await new KeptCaptures(Scope).OfAsync(ReviewId, Gone);
        if (Kept is { } kept)
        {
            try
            {
                Show(JsonSerializer.Deserialize<CaptureReport>(Protector.Unprotect(kept.Sealed))!, (await ApplicationAsync())?.Surface);
            }
            catch (CryptographicException)
            {
                Message = "What this review keeps cannot be opened: the keys of this installation are others than those it was sealed with.";
            }
        }
    }

    /// <param name="keep">What was seen is kept with the review, without any value.</param>
    public async Task<IActionResult> OnPostAsync(IFormFile? file, string? example, bool keep)
    {
        var surface = (await ApplicationAsync())?.Surface;
        await CloseAsync();
        if (Examples.FirstOrDefault(e => e.File == example).File is { } shipped)
        {
            await ReadAsync(Path.Combine(AppContext.BaseDirectory, "captures", shipped));
        }
        else if (file is { Length: > 0 })
        {
            await ReadUploadAsync(file);
        }
        else
        {
            Message = "Choose a capture in the HTTP Archive format (.har); browsers save one from their developer tools.";
        }

        if (Capture is { } capture)
        {
            Show(capture, surface);
            if (keep)
            {
                await OpenAsync();
                await new KeptCaptures(Scope).KeepAsync(ReviewId, Protector.Protect(JsonSerializer.SerializeToUtf8Bytes(capture)), Gone);
                await Scope.CommitAsync(Gone);
                await accounts.LogAsync(User.AccountId(), "capture kept", $"{ReviewId} {capture.Exchanges.Count}", "");
                return Redirect($"/reviews/{ReviewId}/sessions/capture");
            }
        }

        return Page();
    }

    public async Task<IActionResult> OnPostForgetAsync()
    {
        await new KeptCaptures(Scope).ForgetAsync(ReviewId, Gone);
        await Scope.CommitAsync(Gone);
        await accounts.LogAsync(User.AccountId(), "capture forgotten", $"{ReviewId}", "");
        return Redirect($"/reviews/{ReviewId}/sessions/capture");
    }

    private IDataProtector Protector => protection.CreateProtector("Bellator.KeptCapture.v1");

    private async Task ReadUploadAsync(IFormFile file)
    {
        // The helper reads it from a file of its own, which nobody else may open and which is gone as soon as it is read.
        var folder = Directory.CreateTempSubdirectory("bellator-capture-");
        try
        {
            var path = Path.Combine(folder.FullName, "capture.har");
            await using (var copy = new FileStream(path, new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write, UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite }))
            {
                await file.CopyToAsync(copy, Gone);
            }

            await ReadAsync(path);
        }
        finally
        {
            folder.Delete(recursive: true);
        }
    }

    private async Task ReadAsync(string path)
    {
        try
        {
            var answer = await bench.DoAsync(new BenchTask("capture", [path]), ReadTime, null, Gone);
            Capture = answer.Capture;
            Message = Capture is null ? answer.Error is { } error ? char.ToUpperInvariant(error[0]) + error[1..].TrimEnd('.') + "." : "The capture took too long to read." : null;
        }
        catch (BusyException e)
        {
            Message = e.Sentence;
        }
    }

    private void Show(CaptureReport capture, ReportedSurface? surface)
    {
        Capture = capture;
        Exchanges = [.. capture.Exchanges.Take(MostExchanges)];
        Addresses = surface is null ? [] : CapturedAddresses.Match(surface, capture.Exchanges.Where(e => !IsAsset(e.Path)).Select(e => (e.Method, e.Path)));
    }

    private static bool IsAsset(string path) => Path.GetExtension(path).ToLowerInvariant() is ".png" or ".jpg" or ".jpeg" or ".gif" or ".svg" or ".webp" or ".ico" or ".css" or ".js" or ".mjs" or ".map" or ".woff" or ".woff2" or ".ttf";

    public string FileLink(ReportedPlace place) => $"/reviews/{ReviewId}/file?path={Uri.EscapeDataString(place.Path)}#L{place.Region.StartLine}";
}
