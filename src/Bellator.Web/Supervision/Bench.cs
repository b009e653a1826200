using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Knowledge;
using Bellator.Audit.Reports;
using Bellator.Passwords;
using Bellator.Text;
using Bellator.Tokens;
using Bellator.Tokens.Jwt;
using Bellator.Tokens.Samples;
using Bellator.Tokens.Traffic;

namespace Bellator.Web.Supervision;

/// <summary>Costly work of the bench for stored passwords; and, since code is only taken apart where it may break something, the functions on a finding's way.</summary>
/// <param name="Kind">measure, verify, search, secret, sample, capture or subjects.</param>
public sealed record BenchTask(string Kind, IReadOnlyList<string> Values, string Password = "", double Seconds = 0, int Threads = 1)
{
    /// <summary>A finding as JSON, and the files on its way.</summary>
    public string? Finding { get; init; }

    public IReadOnlyList<BenchFile> Files { get; init; } = [];
}

public sealed record BenchFile(string Path, byte[] Content);

/// <summary>What comes of it. While it is under way, as far as it is.</summary>
public sealed record BenchAnswer
{
    public string Kind { get; init; } = "end";

    public string State { get; init; } = "done";

    public string? Error { get; init; }

    /// <summary>Guesses a second on one core, for each value; null where nothing here computes it.</summary>
    public IReadOnlyList<double?>? Rates { get; init; }

    public string? Text { get; init; }

    public SearchProgress? Search { get; init; }

    public IReadOnlyList<StatementSubject>? Subjects { get; init; }

    public SampleReport? Sample { get; init; }

    public CaptureReport? Capture { get; init; }

    /// <summary>The secret of a token, and how many were tried.</summary>
    public SecretSearchResult? Secret { get; init; }

    public double Time { get; init; }

    public string? Ended { get; init; }

    [JsonIgnore]
    public bool IsOver => Kind == "end";
}

/// <summary>Does the work, in a helper process.</summary>
internal static class Bench
{
    private const int Often = 150;
    private static readonly TimeSpan Moment = TimeSpan.FromMilliseconds(40);

    public static BenchAnswer Do(BenchTask task, Action<BenchAnswer> tell, CancellationToken cancel) => task.Kind switch
    {
        "measure" => Measure(task, tell, cancel),
        "verify" => Verify(task),
        "secret" => Secret(task, tell, cancel),
        "sample" => Read(() => new BenchAnswer { Sample = SampleReport.Of(SampleReview.Of(TokenSample.Read(task.Values[0]), DateTimeOffset.TryParse(task.Password, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal, out var around) ? around : null, TimeSpan.FromSeconds(task.Seconds), cancel)) }),
        "capture" => Read(() =>
        {
            using var file = File.OpenText(task.Values[0]);
            return new BenchAnswer { Capture = CaptureReport.Of(TrafficReview.Of(file, Words.Value, cancel)) };
        }),
        "subjects" => new BenchAnswer { Subjects = StatementSubjects.Of(JsonSerializer.Deserialize<ReportedFinding>(task.Finding!)!, [.. task.Files.Select(f => new SourceFile(f.Path, f.Content, Languages.Detect(f.Path, f.Content)))]) },
        _ => Search(task, tell, cancel),
    };

    private static BenchAnswer Measure(BenchTask task, Action<BenchAnswer> tell, CancellationToken cancel)
    {
        var rates = new double?[task.Values.Count];
        for (var i = 0; i < rates.Length; i++)
        {
            cancel.ThrowIfCancellationRequested();
            rates[i] = HashCost.Measure(SchemeList.ReadBest(task.Values[i]), Moment);
            tell(new BenchAnswer { Kind = "progress", Rates = rates });
        }

        return new BenchAnswer { Rates = rates };
    }

    private static readonly Lazy<IdentifierClassifier> Words = new(() => new IdentifierClassifier(LibraryModels.Shipped));

    /// <summary>What cannot be read is an answer, too: the message says why.</summary>
    private static BenchAnswer Read(Func<BenchAnswer> read)
    {
        try
        {
            return read();
        }
        catch (TokenFormatException e)
        {
            return new BenchAnswer { Error = e.Message };
        }
    }

    private static BenchAnswer Secret(BenchTask task, Action<BenchAnswer> tell, CancellationToken cancel) => Read(() =>
    {
        var latest = 0L;
        using var timer = new Timer(_ => tell(new BenchAnswer { Kind = "progress", Secret = new SecretSearchResult(null, Volatile.Read(ref latest), false) }), null, Often, Often);
        return new BenchAnswer { Secret = JwtSecretSearch.Run(JwtReading.Read(task.Values[0]), CommonPasswords.All, TimeSpan.FromSeconds(task.Seconds), n => Volatile.Write(ref latest, n), cancel) };
    });

    private static BenchAnswer Verify(BenchTask task)
    {
        var (reading, result) = SchemeList.Verify(task.Values[0], task.Password);
        var text = result.Outcome == Verification.TooDear && reading.Scheme.MemoryBytes(reading) > HashScheme.DearestMemory
            ? $"One guess takes {reading.Scheme.MemoryBytes(reading) / (1024 * 1024)} MiB of memory, and at most {HashScheme.DearestMemory / (1024 * 1024)} MiB are used here, so it was not tried."
            : PasswordText.Of(result.Outcome);
        return new BenchAnswer { Text = $"{PasswordTable.TitleOf(reading)}: {text}{(result.How is { } how ? $" ({how})" : "")}" };
    }

    private static BenchAnswer Search(BenchTask task, Action<BenchAnswer> tell, CancellationToken cancel)
    {
        // Told from time to time whatever a single guess takes: what was found by then is known even if this process is ended.
        SearchProgress? latest = null;
        using var timer = new Timer(_ => { if (Volatile.Read(ref latest) is { } now) { tell(new BenchAnswer { Kind = "progress", Search = now }); } }, null, Often, Often);
        var result = PasswordSearch.Run([.. task.Values.Select(SchemeList.ReadBest)], CommonPasswords.All, TimeSpan.FromSeconds(task.Seconds), task.Threads, p => Volatile.Write(ref latest, p), cancel);
        return new BenchAnswer { Search = new SearchProgress(result.Tried, 0, result.Found), Time = result.Time.TotalSeconds, Ended = result.Ended };
    }
}
