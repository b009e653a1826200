using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.RegularExpressions;
using Bellator.Storage;
using Bellator.Storage.Cluster;
using Bellator.Testing;
using Npgsql;

// bellator load [SECONDS] [FINDINGS]: readers, uploads and one large audit at once, on loopback, against a program and database of its own.
const int Readers = 100;
const int Uploads = 10;
const int LargeFiles = 6000;
var seconds = args.Length > 0 ? int.Parse(args[0], CultureInfo.InvariantCulture) : 60;
var findings = args.Length > 1 ? int.Parse(args[1], CultureInfo.InvariantCulture) : 100_000;
var folder = Path.Combine(Path.GetTempPath(), "bellator-load-" + Guid.NewGuid().ToString("N")[..8]);
var served = await ServedProcess.ReadyAsync(folder);
try
{
    using var client = await served.VisitorAsync();
    var small = await UploadAsync("Small", Folder(Path.Combine(TestCluster.ProjectFolder(), "samples", "fernhollow")));
    await UntilAsync(small, "data-state=\"done\"");
    var before = await MedianAsync(small + "/findings");
    var large = await LargeAsync(findings);
    var after = await MedianAsync(small + "/findings");
    Say($"page of a small review: {before:0} ms alone, {after:0} ms beside {findings:N0} findings of others");
    if (seconds >= 30)
    {
        await JudgingAsync();
        await LongFileAsync();
        await ManyFilesAsync();
        await SearchAsync(small);
    }

    foreach (var page in new[] { "/", large, large + "/findings", large + "/findings?after=50000", large + "/findings?area=injection", large + "/injection", large + "/surface", large + "/accounts", large + "/passwords", large + "/report", large + "/findings/" + Regex.Match(await client.GetStringAsync(new Uri(large + "/findings", UriKind.Relative)), "/findings/([0-9]+)").Groups[1].Value })
    {
        Say($"  alone {await MedianAsync(page),5:0} ms  {Regex.Replace(page, "[0-9a-f-]{36}", "…")}");
    }

    await UploadAsync("Large audit", Zip(LargeFiles, 60));
    await LoadAsync(small, large);
}
finally
{
    await served.DisposeAsync();
    Directory.Delete(folder, recursive: true);
}

return 0;

async Task LoadAsync(string small, string large)
{
    using var client = await served.VisitorAsync();
    var ids = Regex.Matches(await client.GetStringAsync(new Uri(large + "/findings", UriKind.Relative)), "/findings/([0-9]+)").Select(m => m.Groups[1].Value).Distinct().Take(40).ToArray();
    string[] pages =
    [
        "/", large, large + "/findings", large + "/findings?after=50000", large + "/findings?area=injection", large + "/injection", large + "/surface", large + "/accounts", large + "/passwords", large + "/report",
        small, small + "/findings", small + "/file?path=portal%2Flib%2Fdb.php", .. ids.Select(i => $"{large}/findings/{i}"),
    ];
    var times = new ConcurrentBag<(double Milliseconds, string Page)>();
    var errors = new ConcurrentBag<string>();
    using var end = new CancellationTokenSource(TimeSpan.FromSeconds(seconds));
    var (resident, helpers) = (0L, 0L);
    var before = Processors();
    var watching = Task.Run(async () =>
    {
        while (!end.IsCancellationRequested)
        {
            resident = Math.Max(resident, ResidentOf(served.Id));
            helpers = Math.Max(helpers, ChildrenOf(served.Id).Sum(ResidentOf));
            await Task.Delay(200);
        }
    });
    var uploading = Task.Run(async () =>
    {
        for (var i = 0; i < Uploads; i++)
        {
            await UploadAsync($"Upload {i}", Zip(200, 30));
            await Task.Delay(TimeSpan.FromSeconds(seconds / (double)Uploads));
        }
    });
    var reading = Enumerable.Range(0, Readers).Select(async reader =>
    {
        var random = new Random(reader);
        await Task.Delay(random.Next(1000));
        while (!end.IsCancellationRequested)
        {
            var next = Task.Delay(1000);
            var page = pages[random.Next(pages.Length)];
            var watch = Stopwatch.StartNew();
            try
            {
                using var response = await client.GetAsync(new Uri(page, UriKind.Relative));
                await response.Content.ReadAsByteArrayAsync();
                times.Add((watch.Elapsed.TotalMilliseconds, page));
                if (response.StatusCode != HttpStatusCode.OK)
                {
                    errors.Add($"{(int)response.StatusCode} {page}");
                }
            }
            catch (HttpRequestException e)
            {
                errors.Add(e.Message);
            }

            await next;
        }
    });
    await Task.WhenAll(reading);
    await Task.WhenAll(uploading, watching);
    var spent = Processors().Zip(before, (a, b) => (a.Who, Seconds: a.Seconds - b.Seconds)).ToList();
    var sorted = times.Select(t => t.Milliseconds).Order().ToList();
    Say($"{sorted.Count:N0} pages in {seconds} s, {errors.Count} errors; median {Part(sorted, 0.5):0} ms, p95 {Part(sorted, 0.95):0} ms, slowest {sorted[^1]:0} ms");
    Say($"web process {resident / 1_048_576} MiB at most, its helpers {helpers / 1_048_576} MiB together");
    Say($"processor time in {seconds} s of {Environment.ProcessorCount} processors: {string.Join(", ", spent.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.Who} {p.Seconds:0.0} s")))}");
    foreach (var group in times.GroupBy(t => Regex.Replace(t.Page, "[0-9a-f-]{36}|/[0-9]+$", "…")).OrderByDescending(g => Part([.. g.Select(t => t.Milliseconds).Order()], 0.95)).Take(8))
    {
        Say($"  p95 {Part([.. group.Select(t => t.Milliseconds).Order()], 0.95),5:0} ms  {group.Key}");
    }

    foreach (var error in errors.GroupBy(e => e).OrderByDescending(g => g.Count()).Take(8))
    {
        Say($"  {error.Count()} × {error.Key}");
    }
}

IReadOnlyList<(string Who, double Seconds)> Processors() =>
[
    ("pages", ProcessorOf(served.Id)),
    ("their database", Everything().Where(p => NameOf(p) == "postgres").Sum(ProcessorOf)),
    ("audits", ChildrenOf(served.Id).Where(c => NameOf(c) == "dotnet").Sum(ProcessorOf)),
    ("this client", ProcessorOf(Environment.ProcessId)),
];

async Task<string> LargeAsync(int count)
{
    // The server is the program's own: this only asks where it listens.
    await using var cluster = await LocalCluster.StartAsync(folder);
    await using var connection = new NpgsqlConnection(cluster.ConnectionFor("bellator_owner"));
    await connection.OpenAsync();
    var (account, run) = await Sql.Command(connection, "SELECT a.id, r.id FROM account a, run r WHERE r.state = 'done' LIMIT 1").FirstAsync(r => (r.GetGuid(0), r.GetGuid(1)));
    var ids = (Review: Guid.CreateVersion7(), Snapshot: Guid.CreateVersion7(), Run: Guid.CreateVersion7());
    await LargeReview.MakeAsync(connection, account, run, ids, count);
    return $"/reviews/{ids.Review}";
}

// 20 000 findings listed, 300 and then all of them judged at once.
async Task JudgingAsync()
{
    var review = await LargeAsync(20_000);
    Say($"20 000 findings: list by cause {await MedianAsync(review + "/findings"):0} ms, as a list {await MedianAsync(review + "/findings?view=list"):0} ms, searched {await MedianAsync(review + "/findings?view=list&text=district"):0} ms, those to judge {await MedianAsync(review + "/findings?verdict=to%20judge"):0} ms");
    using var client = await served.VisitorAsync();
    var prints = new List<string>();
    foreach (var after in new[] { -1, 99, 199 })
    {
        prints.AddRange(Regex.Matches(await client.GetStringAsync(new Uri($"{review}/findings?view=list&after={after}", UriKind.Relative)), "name=\"finding\" value=\"([0-9a-f]+)\"").Select(m => m.Groups[1].Value));
    }

    var token = await TestApp.TokenAsync(client, review + "/findings");
    var some = await JudgeAsync(client, review, "Judge", [.. prints.Select(p => KeyValuePair.Create("finding", p)), new("verdict", "confirmed"), new("reason", "seen")], token);
    var all = await JudgeAsync(client, review, "Judge", [new("all", "1"), new("verdict", "false positive"), new("reason", "all alike")], token);
    var undone = await JudgeAsync(client, review, "Undo", [new("batch", all.Batch)], token);
    Say($"{prints.Count} judged at once in {some.Time:0} ms, 20 000 in {all.Time:0} ms, taken back in {undone.Time:0} ms; the list afterwards {await MedianAsync(review + "/findings"):0} ms");
}

static async Task<(double Time, string Batch)> JudgeAsync(HttpClient client, string review, string handler, IEnumerable<KeyValuePair<string, string>> fields, string token)
{
    using var form = new FormUrlEncodedContent([.. fields, new("__RequestVerificationToken", token)]);
    var watch = Stopwatch.StartNew();
    using var answer = await client.PostAsync(new Uri($"{review}/findings?handler={handler}", UriKind.Relative), form);
    return answer.StatusCode == HttpStatusCode.Redirect
        ? (watch.Elapsed.TotalMilliseconds, Regex.Match(answer.Headers.Location!.ToString(), "judged=([0-9a-f-]+)").Groups[1].Value)
        : throw new InvalidOperationException($"{handler}: {answer.StatusCode}");
}

async Task LongFileAsync()
{
    foreach (var lines in new[] { 12_500, 25_000, 50_000 })
    {
        using var client = await served.VisitorAsync();
        var code = "<?php\n" + string.Concat(Enumerable.Range(0, lines - 1).Select(i => $"f({i}); // {i}\n"));
        var review = await UploadAsync($"Long {lines}", Encoding.UTF8.GetBytes(code), "long.php");
        await UntilAsync(review, "data-state=\"done\"");
        Say($"file view of {lines:N0} lines: {await MedianAsync(review + "/file?path=long.php"):0} ms at its beginning, {await MedianAsync($"{review}/file?path=long.php&line={lines - 10}"):0} ms at its end");
    }
}

async Task ManyFilesAsync()
{
    var zip = Zip(200_000, 1);
    var watch = Stopwatch.StartNew();
    var review = await UploadAsync("Many", zip);
    var sent = watch.Elapsed;
    var told = 0;
    using var client = await served.VisitorAsync();
    while (true)
    {
        var html = await client.GetStringAsync(new Uri(review, UriKind.Relative));
        told += html.Contains("id=\"intake\"", StringComparison.Ordinal) ? 1 : 0;
        if (html.Contains("200,000 files", StringComparison.Ordinal))
        {
            break;
        }

        await Task.Delay(100);
    }

    Say($"200 000 files taken in after {watch.Elapsed.TotalSeconds:0.0} s ({sent.TotalSeconds:0.0} s of it sending), its progress seen {told} times");

    // Its audit is not what is measured here.
    var run = Regex.Match(await client.GetStringAsync(new Uri(review, UriKind.Relative)), "data-run=\"([^\"]+)\"").Groups[1].Value;
    await Task.Delay(1000);
    watch.Restart();
    using (var cancelled = await TestApp.PostAsync(client, review, $"{review}?handler=Cancel&run={run}", []))
    {
    }

    await UntilAsync(review, "data-state=\"cancelled\"");
    Say($"its audit ended {watch.Elapsed.TotalSeconds:0.0} s after it was cancelled");
}

// One guess of the value takes seconds: what is measured is how far past its time the search is ended.
async Task SearchAsync(string review)
{
    const int Limit = 8;
    using var client = await served.VisitorAsync();
    for (var round = 0; round < 3; round++)
    {
        var watch = Stopwatch.StartNew();
        using var answer = await TestApp.PostAsync(client, review + "/passwords", review + "/passwords?handler=Search", new()
        {
            ["Values"] = "5f4dcc3b5aa765d61d8327deb882cf99\n$2b$16$N9qo8uLOickgx2ZMRZoMyeIjZAgcfl7p92ldGxad68LJZdL17lhWy",
            ["seconds"] = Limit.ToString(CultureInfo.InvariantCulture),
        });
        var last = (await answer.Content.ReadAsStringAsync()).Split('\n', StringSplitOptions.RemoveEmptyEntries)[^1];
        Say($"password search of {Limit} s over {watch.Elapsed.TotalSeconds:0.0} s after it was asked for: {last}");
    }
}

async Task<double> MedianAsync(string page)
{
    using var client = await served.VisitorAsync();
    var times = new List<double>();
    for (var i = 0; i < 15; i++)
    {
        var watch = Stopwatch.StartNew();
        await client.GetByteArrayAsync(new Uri(page, UriKind.Relative));
        times.Add(watch.Elapsed.TotalMilliseconds);
    }

    return Part([.. times.Skip(3).Order()], 0.5);
}

async Task<string> UploadAsync(string name, byte[] content, string file = "code.zip")
{
    using var client = await served.VisitorAsync();
    using var created = await TestApp.PostAsync(client, "/", "/", new() { ["Name"] = name });
    var review = created.Headers.Location!.ToString();
    using var form = new MultipartFormDataContent { { new StringContent(await TestApp.TokenAsync(client, review)), "__RequestVerificationToken" }, { new ByteArrayContent(content), "files", file } };
    using var sent = await client.PostAsync(new Uri(review + "?handler=Upload", UriKind.Relative), form);
    return sent.StatusCode == HttpStatusCode.Redirect ? review : throw new InvalidOperationException($"the upload was answered with {sent.StatusCode}");
}

async Task UntilAsync(string page, string wanted)
{
    using var client = await served.VisitorAsync();
    while (!(await client.GetStringAsync(new Uri(page, UriKind.Relative))).Contains(wanted, StringComparison.Ordinal))
    {
        await Task.Delay(200);
    }
}

static byte[] Folder(string folder)
{
    using var stream = new MemoryStream();
    ZipFile.CreateFromDirectory(folder, stream);
    return stream.ToArray();
}

static byte[] Zip(int files, int lines)
{
    using var stream = new MemoryStream();
    using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, leaveOpen: true))
    {
        for (var i = 0; i < files; i++)
        {
            using var entry = zip.CreateEntry($"{(files > 1000 ? $"d{i / 500}/" : "")}f{i}.php", CompressionLevel.Fastest).Open();
            entry.Write(Encoding.UTF8.GetBytes("<?php\n" + string.Concat(Enumerable.Range(0, lines).Select(l => l % 10 == 0 ? $"mysqli_query($c, 'SELECT * FROM t{l} WHERE a = ' . $_GET['x{i}']);\n" : $"$a{l} = g({i}, $b['{l}']);\n"))));
        }
    }

    return stream.ToArray();
}

static double Part(List<double> sorted, double share) => sorted[Math.Min(sorted.Count - 1, (int)(sorted.Count * share))];

static long ResidentOf(int id)
{
    try
    {
        return long.Parse(File.ReadAllText($"/proc/{id}/statm").Split(' ')[1], CultureInfo.InvariantCulture) * Environment.SystemPageSize;
    }
    catch (IOException)
    {
        return 0;
    }
}

static double ProcessorOf(int id)
{
    try
    {
        // Fields 14 and 15 of proc_pid_stat(5), in hundredths of a second; the name before them may hold spaces.
        var text = File.ReadAllText($"/proc/{id}/stat");
        var fields = text[(text.LastIndexOf(')') + 2)..].Split(' ');
        return (long.Parse(fields[11], CultureInfo.InvariantCulture) + long.Parse(fields[12], CultureInfo.InvariantCulture)) / 100.0;
    }
    catch (IOException)
    {
        return 0;
    }
}

static IEnumerable<int> Everything() => Directory.GetDirectories("/proc").Select(Path.GetFileName).Where(n => int.TryParse(n, out _)).Select(n => int.Parse(n!, CultureInfo.InvariantCulture));

static string NameOf(int id)
{
    try
    {
        return File.ReadAllText($"/proc/{id}/comm").Trim();
    }
    catch (IOException)
    {
        return "";
    }
}

static IEnumerable<int> ChildrenOf(int id)
{
    try
    {
        return [.. Directory.GetDirectories($"/proc/{id}/task").SelectMany(t => File.ReadAllText(Path.Combine(t, "children")).Split(' ', StringSplitOptions.RemoveEmptyEntries)).Select(c => int.Parse(c, CultureInfo.InvariantCulture))];
    }
    catch (IOException)
    {
        return [];
    }
}

static void Say(FormattableString text) => Console.WriteLine(text.ToString(CultureInfo.InvariantCulture));
