using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Reports;
using Bellator.Passwords;
using Bellator.Tokens;
using Bellator.Tokens.Cookies;
using Bellator.Tokens.Jwt;
using Bellator.Tokens.Samples;
using Bellator.Tokens.Traffic;

namespace Bellator.Cli;

/// <summary><c>bellator token</c>: what a token, a cookie, a sample of ids or a capture shows.</summary>
internal static class TokenCommand
{
    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web) { WriteIndented = true, Converters = { new JsonStringEnumConverter(JsonNamingPolicy.CamelCase) } };
    private static readonly IdentifierClassifier Words = new(LibraryModels.Shipped);

    /// <param name="token">The token, or <c>-</c> for one on standard input.</param>
    /// <param name="keyFile">A file with a secret, a PEM, a JWK or a set of them.</param>
    /// <param name="seconds">How long to look for a secret that one would guess; 0 for not.</param>
    public static int Jwt(string token, string? keyFile, int seconds, string? json, CancellationToken cancel)
    {
        var reading = Read(() => JwtReading.Read(OnLine(token)));
        var remarks = new JwtReview(Words).Review(reading, DateTimeOffset.UtcNow);
        Console.WriteLine("header");
        Members(reading.Header);
        if (reading.Claims is { } claims)
        {
            Console.WriteLine("claims");
            Members(claims);
        }

        Print(remarks);
        var verified = keyFile is null ? null : Read(() => JwtVerifier.Verify(reading, Text(keyFile)));
        if (verified is not null)
        {
            Console.WriteLine("signature: " + verified.How);
        }

        var search = seconds <= 0 ? null : Read(() => JwtSecretSearch.Run(reading, CommonPasswords.All, TimeSpan.FromSeconds(seconds), null, cancel));
        if (search is not null)
        {
            Console.WriteLine(search.Secret is { } secret
                ? string.Create(CultureInfo.InvariantCulture, $"secret: “{SummaryReport.Printable(secret)}”, found with {search.Tried} guesses")
                : string.Create(CultureInfo.InvariantCulture, $"secret: not among the {search.Tried} that were tried{(search.IsComplete ? "" : " until the time was up")}"));
        }

        OutputFile.Write(json, () => JsonSerializer.Serialize(new { reading.Header, reading.Claims, remarks, signature = verified, search }, Json));
        return verified?.IsValid == false || search?.Secret is not null ? CommandLine.ThresholdReached : CommandLine.Done;
    }

    public static int Cookie(string line, string? json)
    {
        var cookie = Read(() => SetCookie.Read(OnLine(line)));
        var remarks = new CookieReview(Words).Review(cookie, DateTimeOffset.UtcNow);
        Print(remarks);
        OutputFile.Write(json, () => JsonSerializer.Serialize(new { cookie, remarks }, Json));
        return CommandLine.Done;
    }

    /// <param name="around">When the ids were issued, if that is known.</param>
    public static int Sample(string path, string? around, string? json, CancellationToken cancel)
    {
        DateTimeOffset? time = around is null ? null : DateTimeOffset.TryParse(around, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var parsed) ? parsed : throw new UsageException($"{around}: not a date and time such as 2026-01-31T12:00");
        var review = Read(() => SampleReview.Of(TokenSample.Read(Text(path)), time, cancel: cancel));
        var sample = review.Sample;
        Console.WriteLine($"{sample}; {sample.Positions.Count(p => p.Distinct > 1)} of them change{(sample.Alphabet is { } alphabet ? ": " + alphabet.Name : "")}");
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"bits: at least {review.AtLeast:0.#}, as far as a sample of this size can show; at most {review.AtMost:0.#}"));
        Print(review.Remarks);
        foreach (var test in review.Tests)
        {
            Console.WriteLine(test.PValue is { } p
                ? string.Create(CultureInfo.InvariantCulture, $"  {test.Name,-26} P = {p:0.000000}  {(test.IsRandom == true ? "passes" : "fails")}")
                : $"  {test.Name,-26} no verdict: it needs {test.Needs} bits, and there are {sample.Bits.Length}");
        }

        OutputFile.Write(json, () => JsonSerializer.Serialize(SampleReport.Of(review), Json));
        return review.IsGuessable ? CommandLine.ThresholdReached : CommandLine.Done;
    }

    public static int Capture(string path, string? json, CancellationToken cancel)
    {
        var review = Read(() =>
        {
            using var file = Open(path);
            return TrafficReview.Of(file, Words, cancel);
        });
        Console.WriteLine($"{Count(review.Exchanges.Count, "request")}, {Count(review.Credentials.Count, "credential")}");
        foreach (var credential in review.Credentials)
        {
            Console.WriteLine($"{SummaryReport.Printable(credential.Name)} ({credential.Carrier}, {credential.Host})");
            foreach (var value in credential.Values)
            {
                var end = value.Replaced is { } replaced ? $", replaced by {replaced + 1}" : value.Cleared is { } cleared ? $", cleared by {cleared + 1}" : "";
                Console.WriteLine($"  {value.Label}: {value.Length} characters, {(value.WasIssued ? "issued" : "first sent")} by request {value.FirstSeen + 1}, sent {(value.Sent.Count == 1 ? "once" : $"{value.Sent.Count} times")}{end}");
            }
        }

        foreach (var happening in review.Events)
        {
            Console.WriteLine($"request {happening.Exchange + 1}: {happening.Kind switch { TrafficEventKind.SignIn => "sign-in", TrafficEventKind.SignOut => "sign-out", _ => "password change" }}");
        }

        foreach (var remark in review.Remarks)
        {
            Console.WriteLine($"  {RemarkText.Of(remark.Kind),-8} {remark.Subject}: {SummaryReport.Printable(remark.Text)} [{remark.Source}] (requests {string.Join(", ", remark.Exchanges.Take(6).Select(e => e + 1))})");
        }

        OutputFile.Write(json, () => JsonSerializer.Serialize(CaptureReport.Of(review), Json));
        return review.Remarks.Any(r => r.Kind == RemarkKind.Broken) ? CommandLine.ThresholdReached : CommandLine.Done;
    }

    private static string Count(int number, string what) => number == 1 ? "1 " + what : $"{number} {what}s";

    private static void Print(IEnumerable<TokenRemark> remarks)
    {
        foreach (var remark in remarks.OrderBy(r => r.Kind))
        {
            Console.WriteLine($"  {RemarkText.Of(remark.Kind),-8} {SummaryReport.Printable(remark.Subject)}: {SummaryReport.Printable(remark.Text)} [{remark.Source}]");
        }
    }

    private static void Members(JsonElement of)
    {
        foreach (var member in of.EnumerateObject())
        {
            Console.WriteLine($"  {SummaryReport.Printable(member.Name)}: {SummaryReport.Printable(JwtReview.Show(member.Name, member.Value))}{(JwtReview.MeaningOf(member.Name) is { } meaning ? $"  ({meaning})" : "")}");
        }
    }

    private static T Read<T>(Func<T> read)
    {
        try
        {
            return read();
        }
        catch (TokenFormatException e)
        {
            throw new UsageException(e.Message);
        }
    }

    /// <summary>A value from the command line, where others can see it, or from standard input, where they cannot.</summary>
    private static string OnLine(string value) => value == "-" ? Console.In.ReadLine() ?? throw new UsageException("there is nothing on standard input") : value;

    private static string Text(string path)
    {
        using var file = Open(path);
        return file.ReadToEnd();
    }

    private static TextReader Open(string path)
    {
        try
        {
            return path == "-" ? Console.In : File.OpenText(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UsageException($"{path}: cannot be read: {e.Message}");
        }
    }
}
