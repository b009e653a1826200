using System.Collections.Concurrent;
using System.Text;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Passwords;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
using Bellator.Web.Supervision;
using Microsoft.AspNetCore.Mvc;

namespace Bellator.Web.Pages.Reviews;

/// <summary>What the reviewer hands to the bench. Nothing of it is kept, unless it is asked for.</summary>
public sealed class PasswordForm
{
    public string? Values { get; set; }

    public IFormFile? Table { get; set; }

    public string? Column { get; set; }

    public string? Owner { get; set; }

    public string? Age { get; set; }

    public bool Show { get; set; }

    /// <summary>The table that the review keeps, instead of one that is handed over.</summary>
    public bool Stored { get; set; }
}

/// <summary>A column of the application's tables that keeps passwords.</summary>
public sealed record PasswordColumn(string Table, ReportedColumn Column, ColumnFit Fit)
{
    public ReportedPlace At => Column.Origin.At;
}

/// <summary>The passwords stage: what the code does wrong, and a bench for the values that the application has stored.</summary>
[RequestSizeLimit(MaxBytes)]
public sealed class PasswordsModel(Database database, AccountTable accounts, BenchQueue bench) : ReviewPage(database)
{
    private const int MaxBytes = 32 * 1024 * 1024;
    private const int MaxSearchSeconds = 120;
    private const int ShownFindings = 8;

    /// <summary>Measuring takes some hundredths of a second a scheme; costly values may take all of this, and are then not measured.</summary>
    private static readonly TimeSpan MeasureTime = TimeSpan.FromSeconds(4);

    private static readonly TimeSpan VerifyTime = TimeSpan.FromSeconds(30);

    public override string Stage => "Passwords";

    public PasswordForm Form { get; private set; } = new();

    public IReadOnlyList<string> Columns { get; private set; } = [];

    public PasswordTable? Table { get; private set; }

    private const int MostMeasured = 10;

    public string? Message { get; private set; }

    public string? VerifyMessage { get; private set; }

    /// <summary>The first findings of the stage, and how many there are.</summary>
    public IReadOnlyList<FindingRow> Found { get; private set; } = [];

    public int FoundCount { get; private set; }

    public IReadOnlyList<PasswordColumn> Kept { get; private set; } = [];

    /// <summary>The table that the review keeps, where a reviewer asked for it.</summary>
    public KeptPasswordRows? Stored { get; private set; }

    public async Task OnGetAsync()
    {
        await ShowAsync();
        if (Stored is not null)
        {
            Form.Stored = true;
            await TakeLeastAsync();
            await CloseAsync();
            Table = PasswordTable.Of(Stored.Rows);
            await MeasureAsync();
        }
    }

    /// <summary>Keeps what was handed over with the review.</summary>
    public async Task<IActionResult> OnPostKeepAsync(PasswordForm form)
    {
        await TakeAsync(form);
        await OpenAsync();
        if (Table is not { } table)
        {
            await ShowAsync();
            return Page();
        }

        await new KeptPasswords(Scope).KeepAsync(ReviewId, table.Rows, HttpContext.RequestAborted);
        await Scope.CommitAsync(HttpContext.RequestAborted);
        await accounts.LogAsync(User.AccountId(), "stored passwords kept", $"{ReviewId} {table.Rows.Count}", "");
        return Redirect($"/reviews/{ReviewId}/passwords");
    }

    public async Task<IActionResult> OnPostForgetAsync()
    {
        await new KeptPasswords(Scope).ForgetAsync(ReviewId, HttpContext.RequestAborted);
        await Scope.CommitAsync(HttpContext.RequestAborted);
        await accounts.LogAsync(User.AccountId(), "stored passwords forgotten", $"{ReviewId}", "");
        return Redirect($"/reviews/{ReviewId}/passwords");
    }

    public async Task<IActionResult> OnPostRateAsync(PasswordForm form)
    {
        await TakeAsync(form);
        await OpenAsync();
        await TakeLeastAsync();
        var isPart = Request.Headers["X-Requested-With"] == "bellator";
        if (!isPart)
        {
            await ShowAsync();
        }

        await CloseAsync();
        await MeasureAsync();
        return isPart ? Partial("_PasswordTable", this) : Page();
    }

    private async Task TakeLeastAsync()
    {
        if ((await ApplicationAsync())?.Accounts is { } accounts)
        {
            var asked = accounts.Policies.Select(p => p.Minimum).Where(m => m > 0).ToList();
            IsLeastAsked = asked.Count > 0;
            LeastLength = IsLeastAsked ? asked.Min() : LeastLength;
        }
    }

    public async Task<IActionResult> OnPostVerifyAsync(string? value, string? password)
    {
        if (string.IsNullOrWhiteSpace(value))
        {
            VerifyMessage = "Give a stored value and a password.";
        }
        else
        {
            await CloseAsync();
            VerifyMessage = await VerifyAsync(value.Trim(), password ?? "");
        }

        await OpenAsync();
        await ShowAsync();
        return Page();
    }

    private async Task<string> VerifyAsync(string value, string password)
    {
        var answer = await bench.DoAsync(new BenchTask("verify", [value], password), VerifyTime, null, Gone);
        return answer.Text ?? (answer.State == "late" ? $"The value asks for more than {VerifyTime.TotalSeconds:0} seconds of work, so it was given up." : $"It was not tried: {answer.Error}.");
    }

    public async Task<IActionResult> OnPostExportAsync(PasswordForm form, string? format)
    {
        await TakeAsync(form);
        if (Table is null)
        {
            await OpenAsync();
            await ShowAsync();
            return Page();
        }

        return format == "csv"
            ? File(Encoding.UTF8.GetBytes(PasswordReport.Csv(Table, null, form.Show)), "text/csv; charset=utf-8", "stored-passwords.csv")
            : File(Encoding.UTF8.GetBytes(PasswordReport.Json(Table, null, "", form.Show)), "application/json", "stored-passwords.json");
    }

    /// <summary>Tries common passwords, and tells as it goes: a line of JSON each time. Closing the connection ends it.</summary>
    public async Task<IActionResult> OnPostSearchAsync(PasswordForm form, int seconds)
    {
        await TakeAsync(form);
        Response.ContentType = "application/x-ndjson";
        if (Table is not { } table)
        {
            await TellAsync(new { error = Message ?? "There are no values." });
            return new EmptyResult();
        }

        try
        {
            var limit = Math.Clamp(seconds, 1, MaxSearchSeconds);
            var told = System.Diagnostics.Stopwatch.StartNew();
            var task = new BenchTask("search", [.. table.Readings.Select(r => r[0].Value)]) { Seconds = limit, Threads = Math.Max(1, Environment.ProcessorCount - 1) };

            // The work ends itself in time, but for a single guess that takes longer than all of it: that is ended with its process.
            var answer = await bench.DoAsync(task, TimeSpan.FromSeconds(limit * 1.04), async part =>
            {
                if (part.Search is { } now && told.ElapsedMilliseconds > 200)
                {
                    told.Restart();
                    await TellAsync(new { now.Tried, now.Total, found = now.Found.Count });
                }
            }, Gone);
            await TellAsync(answer.Error is { } error ? new { error = $"It was ended: {error}." } : new
            {
                tried = answer.Search?.Tried ?? 0,
                seconds = Math.Round(answer.Time, 1),
                answer.Ended,
                over = true,
                passwords = (answer.Search?.Found ?? []).Select(f => new { f.Index, owner = NameOf(table, f.Index), password = form.Show ? f.Password : PasswordTable.Masked(f.Password), f.How }),
            });
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

    public static string NameOf(PasswordTable table, int index) =>
        table.Rows[index].Owner is { Length: > 0 } owner ? owner : $"row {index + 1}";

    /// <summary>Guesses a second on the hardware of the rates' table, at the settings of a value; null where there is no rate.</summary>
    public static (double PerSecond, string Source)? AttackerOf(SchemeGroup group) =>
        HashCost.RateOf(group.Example) is { } name && HashCost.Rates.FirstOrDefault(r => r.Scheme == name) is { } rate
            ? (HashCost.Scaled(group.Example, rate.GuessesPerSecond), rate.Source)
            : null;

    /// <summary>Guesses a second that one core of this machine makes; null where it was not measured, or cannot be.</summary>
    public static double? MeasuredHere(SchemeGroup group) => Rates.GetValueOrDefault(group.Title);

    /// <summary>Measures what is not known yet. Where there is too much to do, the page comes without.</summary>
    private async Task MeasureAsync()
    {
        SchemeGroup[] open = [.. (Table?.Groups ?? []).Where(g => g.Example.Kind is not (HashKind.Plain or HashKind.Encoded) && !Rates.ContainsKey(g.Title)).Take(MostMeasured)];
        if (open.Length == 0)
        {
            return;
        }

        // Settings come from the values that somebody brings: they may all be different.
        if (Rates.Count > MostRates)
        {
            Rates.Clear();
        }

        try
        {
            var answer = await bench.DoAsync(new BenchTask("measure", [.. open.Select(g => g.Example.Value)]), MeasureTime, null, Gone);
            for (var i = 0; i < Math.Min(open.Length, answer.Rates?.Count ?? 0); i++)
            {
                Rates[open[i].Title] = answer.Rates![i];
            }
        }
        catch (BusyException)
        {
            // The rates of attackers' hardware are shown in any case.
        }
    }

    /// <summary>Measured once for each scheme and its settings: the machine stays the same.</summary>
    private static readonly ConcurrentDictionary<string, double?> Rates = new(StringComparer.Ordinal);

    private const int MostRates = 500;

    /// <summary>The least length that the application asks of new passwords, where the audit found one.</summary>
    public int LeastLength { get; private set; } = 8;

    public bool IsLeastAsked { get; private set; }

    /// <summary>Reads what was handed over. The review is closed afterwards: a table of many thousand rows takes a while.</summary>
    private async Task TakeAsync(PasswordForm form)
    {
        Form = form;
        var kept = form.Stored && form.Table is not { Length: > 0 } && string.IsNullOrWhiteSpace(form.Values) ? await new KeptPasswords(Scope).OfAsync(ReviewId, Gone) : null;
        await CloseAsync();
        try
        {
            if (kept is not null)
            {
                Table = PasswordTable.Of(kept.Rows);
            }
            else if (form.Table is { Length: > 0 } file)
            {
                using var reader = new StreamReader(file.OpenReadStream(), Encoding.UTF8);
                var text = await reader.ReadToEndAsync(HttpContext.RequestAborted);
                Columns = PasswordCsv.Columns(text);
                form.Column = Known(form.Column) ?? PasswordCsv.Guess(Columns);
                form.Owner = form.Owner is null ? PasswordCsv.GuessOwner(Columns) : Known(form.Owner);
                form.Age = form.Age is null ? PasswordCsv.GuessAge(Columns) : Known(form.Age);
                if (form.Column is null)
                {
                    Message = "Choose the column that holds the stored passwords.";
                    return;
                }

                Table = PasswordTable.Of(PasswordCsv.Read(text, form.Column, form.Owner, form.Age));
            }
            else if (!string.IsNullOrWhiteSpace(form.Values))
            {
                Table = PasswordTable.Of(PasswordCsv.Lines(form.Values));
            }

            if (Table is not { Rows.Count: > 0 })
            {
                Table = null;
                Message = "Paste stored values, one a line, or choose a CSV file of the user table.";
            }
        }
        catch (PasswordCsvException e)
        {
            Message = $"The table was not read: {e.Message}.";
        }
    }

    private string? Known(string? column) => column is not null && Columns.Contains(column) ? column : null;

    private async Task ShowAsync()
    {
        Stored = await new KeptPasswords(Scope).OfAsync(ReviewId, HttpContext.RequestAborted);
        if (Result is null)
        {
            return;
        }

        var filter = new FindingFilter(Area: "passwords");
        (FoundCount, _) = await Findings.CountAsync(Result.Id, filter, cancel: Gone);
        Found = FoundCount == 0 ? [] : await Findings.AfterAsync(Result.Id, filter, -1, ShownFindings, cancel: Gone);
        Kept = [.. ((await ApplicationAsync())?.Surface.Tables ?? []).SelectMany(t => t.Columns.Where(c => Words.IsPasswordColumn(c.Name) && IsText(c)).Select(c =>
            new PasswordColumn(t.Name, c, new ColumnFit(c.Length, ColumnFit.Recommended))))];
    }

    private static readonly IdentifierClassifier Words = new(LibraryModels.Shipped);

    private static bool IsText(ReportedColumn column) => column.Type.Contains("char", StringComparison.Ordinal) || column.Type.Contains("text", StringComparison.Ordinal) || column.Type.Contains("binary", StringComparison.Ordinal);
}
