using System.Text;
using Bellator.Analysis.Libraries;
using Bellator.Storage;
using Bellator.Tokens;
using Bellator.Tokens.Cookies;
using Bellator.Tokens.Jwt;
using Bellator.Tokens.Samples;
using Bellator.Web.Presentation;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>What the reviewer hands to the bench. Nothing of it is kept.</summary>
public sealed class TokenForm
{
    public string? Token { get; set; }

    public string? Key { get; set; }

    public string? Cookies { get; set; }

    public string? Ids { get; set; }

    public IFormFile? File { get; set; }

    public string? Around { get; set; }

    /// <summary>One of the samples that ship with the application, instead of ids.</summary>
    public string? Example { get; set; }
}

/// <summary>A <c>Set-Cookie</c> line, judged; <see cref="Problem"/> where browsers drop it.</summary>
public sealed record JudgedCookie(string Line, SetCookie? Cookie, IReadOnlyList<TokenRemark> Remarks, string? Problem);

/// <summary>The token bench: a JSON Web Token, cookies as they are set, a sample of session ids.</summary>
[RequestSizeLimit(MaxBytes)]
[RequestFormLimits(MultipartBodyLengthLimit = MaxBytes, ValueLengthLimit = MaxBytes)]
public sealed class TokenBenchModel(Database database, BenchQueue bench) : ReviewPage(database)
{
    private const int MaxBytes = 8 * 1024 * 1024;
    private const int MostCookies = 50;
    private const int MaxSearchSeconds = 60;
    private static readonly TimeSpan SampleTime = TimeSpan.FromSeconds(20);
    private static readonly IdentifierClassifier Words = new(LibraryModels.Shipped);

    /// <summary>Samples that ship with the application, and what they show.</summary>
    public static readonly IReadOnlyList<(string File, string Text)> Examples = [("ids-random.txt", "random"), ("ids-counter.txt", "digests of a counter"), ("ids-clock.txt", "a clock and a little chance")];

    public override string Stage => "Sessions";

    public TokenForm Form { get; private set; } = new();

    public JwtReading? Token { get; private set; }

    public IReadOnlyList<TokenRemark> Remarks { get; private set; } = [];

    public JwtVerification? Verified { get; private set; }

    public IReadOnlyList<JudgedCookie> Cookies { get; private set; } = [];

    public SampleReport? Sample { get; private set; }

    public string? Message { get; private set; }

    public async Task OnPostTokenAsync(TokenForm form)
    {
        await CloseAsync();
        Form = form;
        await ReadAsync(() =>
        {
            if (string.IsNullOrWhiteSpace(form.Token))
            {
                throw new TokenFormatException("Paste a token.");
            }

            Token = JwtReading.Read(form.Token);
            Remarks = new JwtReview(Words).Review(Token, DateTimeOffset.UtcNow);
            Verified = string.IsNullOrWhiteSpace(form.Key) ? null : JwtVerifier.Verify(Token, form.Key);
            return Task.CompletedTask;
        });
    }

    public async Task OnPostCookiesAsync(TokenForm form)
    {
        await CloseAsync();
        Form = form;
        var lines = (form.Cookies ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        Message = lines.Length == 0 ? "Paste one or more Set-Cookie lines." : lines.Length > MostCookies ? $"{lines.Length} lines were pasted, and at most {MostCookies} are judged at once." : null;
        Cookies = Message is null ? [.. lines.Select(Judge)] : [];
    }

    public async Task OnPostIdsAsync(TokenForm form)
    {
        await CloseAsync();
        Form = form;
        await ReadAsync(async () =>
        {
            var answer = await bench.DoAsync(new BenchTask("sample", [await IdsAsync(form)], form.Around ?? "", SampleTime.TotalSeconds / 2), SampleTime, null, Gone);
            Sample = answer.Sample;
            Message = answer.Error ?? (Sample is null ? "The sample took too long; try a smaller one." : null);
        });
    }

    /// <summary>Looks for the secret of a token, and tells as it goes: a line of JSON each time. Closing the connection ends it.</summary>
    public async Task<IActionResult> OnPostSearchAsync(TokenForm form, int seconds)
    {
        await CloseAsync();
        Response.ContentType = "application/x-ndjson";
        try
        {
            var limit = Math.Clamp(seconds, 1, MaxSearchSeconds);
            var answer = await bench.DoAsync(new BenchTask("secret", [form.Token ?? ""]) { Seconds = limit }, TimeSpan.FromSeconds(limit * 1.1), part => TellAsync(new { tried = part.Secret?.Tried ?? 0 }), Gone);
            await TellAsync(answer.Error is { } error ? new { error } : new { over = true, tried = answer.Secret?.Tried ?? 0, secret = answer.Secret?.Secret, complete = answer.Secret?.IsComplete ?? false });
        }
        catch (BusyException e)
        {
            await TellAsync(new { error = e.Sentence });
        }
        catch (OperationCanceledException)
        {
            // The reviewer went away or pressed cancel: there is nobody to tell.
        }

        return new EmptyResult();
    }

    public SampleDrawing? Drawing => Sample is null ? null : new SampleDrawing(Sample);

    private static async Task<string> IdsAsync(TokenForm form)
    {
        if (Examples.FirstOrDefault(e => e.File == form.Example).File is { } example)
        {
            return await System.IO.File.ReadAllTextAsync(Path.Combine(AppContext.BaseDirectory, "captures", example));
        }

        if (form.File is not { Length: > 0 } file)
        {
            return form.Ids ?? "";
        }

        using var reader = new StreamReader(file.OpenReadStream(), Encoding.UTF8);
        return await reader.ReadToEndAsync();
    }

    private async Task ReadAsync(Func<Task> read)
    {
        try
        {
            await read();
        }
        catch (TokenFormatException e)
        {
            Message = e.Message;
        }
        catch (BusyException e)
        {
            Message = e.Sentence;
        }
    }

    private static JudgedCookie Judge(string line)
    {
        try
        {
            var cookie = SetCookie.Read(line);
            return new JudgedCookie(line, cookie, [.. new CookieReview(Words).Review(cookie, DateTimeOffset.UtcNow).OrderBy(r => r.Kind)], null);
        }
        catch (TokenFormatException e)
        {
            return new JudgedCookie(line, null, [], e.Message);
        }
    }
}
