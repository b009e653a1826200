using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using System.Threading.Channels;
using Bellator.Core.Application.Schema;
using Bellator.Core.Facts;
using Bellator.Core.Passwords;
using Bellator.Core.Reports;
using Bellator.Core.Sources;
using Bellator.Storage;
using Bellator.Storage.Accounts;
using Bellator.Storage.Reviews;
using Bellator.Web.Accounts;
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

/// <summary>A column of the application's tables that keeps passwords, by its name.</summary>
public sealed record PasswordColumn(string Table, Column Column, string File, int Line, ColumnFit Fit);

/// <summary>The passwords stage: what the code does wrong, and a bench for the values that the application has stored.</summary>
[RequestSizeLimit(MaxBytes)]
public sealed class PasswordsModel(Database database, AccountTable accounts) : ReviewPage(database)
{
    private const int MaxBytes = 32 * 1024 * 1024;
    private const int MaxSearchSeconds = 120;
    private const int MaxSchemas = 40;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(10);

    /// <summary>One search, and one verification, at a time: hashes are made to be dear, and values come from strangers.</summary>
    private static readonly SemaphoreSlim Searching = new(1);
    private static readonly SemaphoreSlim Verifying = new(1);
    private static readonly JsonSerializerOptions Plain = new(JsonSerializerDefaults.Web);

    public override string Stage => "Passwords";

    public PasswordForm Form { get; private set; } = new();

    public IReadOnlyList<string> Columns { get; private set; } = [];

    public PasswordTable? Table { get; private set; }

    /// <summary>How long each scheme is measured, and how many of them: the page must not keep the machine busy.</summary>
    private static readonly TimeSpan Moment = TimeSpan.FromMilliseconds(40);

    private const int MostMeasured = 10;

    public string? Message { get; private set; }

    public string? VerifyMessage { get; private set; }

    public IReadOnlyList<FindingRow> Found { get; private set; } = [];

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
            Table = PasswordTable.Of(Stored.Rows);
        }
    }

    /// <summary>Keeps what was handed over with the review.</summary>
    public async Task<IActionResult> OnPostKeepAsync(PasswordForm form)
    {
        await TakeAsync(form);
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
        await TakeLeastAsync();
        if (Request.Headers["X-Requested-With"] == "bellator")
        {
            return Partial("_PasswordTable", this);
        }

        await ShowAsync();
        return Page();
    }

    private async Task TakeLeastAsync()
    {
        if (Result is not null && (await new ApplicationTable(Scope).OfAsync(Result.Id, HttpContext.RequestAborted))?.Accounts is { } accounts)
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
        else if (!await Verifying.WaitAsync(Patience, HttpContext.RequestAborted))
        {
            VerifyMessage = "Another value is being looked at; try again in a moment.";
        }
        else
        {
            VerifyMessage = await VerifyAsync(value.Trim(), password ?? "");
        }

        await ShowAsync();
        return Page();
    }

    private static async Task<string> VerifyAsync(string value, string password)
    {
        try
        {
            var (reading, result) = await Task.Run(() => SchemeList.Verify(value, password));
            return $"{PasswordTable.TitleOf(reading)}: {PasswordText.Of(result.Outcome)}{(result.How is { } how ? $" ({how})" : "")}";
        }
        finally
        {
            Verifying.Release();
        }
    }

    public async Task<IActionResult> OnPostExportAsync(PasswordForm form, string? format)
    {
        await TakeAsync(form);
        if (Table is null)
        {
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
        if (Table is not { } table || !await Searching.WaitAsync(TimeSpan.Zero))
        {
            await TellAsync(new { error = Table is null ? Message ?? "There are no values." : "Another search is under way; try again when it is over." });
            return new EmptyResult();
        }

        try
        {
            var told = Channel.CreateBounded<SearchProgress>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest });
            var limit = TimeSpan.FromSeconds(Math.Clamp(seconds, 1, MaxSearchSeconds));
            var search = Task.Run(() =>
            {
                try
                {
                    // One core is left to everybody else.
                    return PasswordSearch.Run([.. table.Readings.Select(r => r[0])], CommonPasswords.All, limit, Math.Max(1, Environment.ProcessorCount - 1), p => told.Writer.TryWrite(p), HttpContext.RequestAborted);
                }
                finally
                {
                    told.Writer.Complete();
                }
            });
            await foreach (var progress in told.Reader.ReadAllAsync(CancellationToken.None))
            {
                await TellAsync(new { progress.Tried, progress.Total, found = progress.Found });
                await Task.Delay(200, CancellationToken.None);
            }

            var result = await search;
            await TellAsync(new
            {
                result.Tried,
                seconds = Math.Round(result.Time.TotalSeconds, 1),
                result.Ended,
                over = true,
                passwords = result.Found.Select(f => new { f.Index, owner = NameOf(table, f.Index), password = form.Show ? f.Password : PasswordTable.Masked(f.Password), f.How }),
            });
        }
        catch (OperationCanceledException)
        {
            // The reviewer went away or pressed cancel: there is nobody to tell.
        }
        finally
        {
            Searching.Release();
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

    /// <summary>Guesses a second that one core of this machine makes, measured for a moment; null where it cannot compute the scheme.</summary>
    public double? MeasuredHere(SchemeGroup group)
    {
        if (_measured++ >= MostMeasured || group.Example.Kind is HashKind.Plain or HashKind.Encoded)
        {
            return null;
        }

        // Settings come from the values that somebody brings: they may all be different.
        if (Rates.Count > MostRates)
        {
            Rates.Clear();
        }

        return Rates.GetOrAdd(group.Title, static (_, example) => HashCost.Measure(example, Moment), group.Example);
    }

    /// <summary>Measured once for each scheme and its settings: the machine stays the same.</summary>
    private static readonly ConcurrentDictionary<string, double?> Rates = new(StringComparer.Ordinal);

    private const int MostRates = 500;

    /// <summary>The least length that the application asks of new passwords, where the audit found one.</summary>
    public int LeastLength { get; private set; } = 8;

    public bool IsLeastAsked { get; private set; }

    private int _measured;

    private async Task TakeAsync(PasswordForm form)
    {
        Form = form;
        try
        {
            if (form.Stored && form.Table is not { Length: > 0 } && string.IsNullOrWhiteSpace(form.Values) && await new KeptPasswords(Scope).OfAsync(ReviewId, HttpContext.RequestAborted) is { } kept)
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
        Found = Result is null ? [] : await Findings.ListAsync(Result.Id, new FindingFilter(Area: "passwords"));
        if (Snapshots.Count == 0)
        {
            return;
        }

        var files = new List<SourceFile>();
        foreach (var row in (await SnapshotRows.FilesAsync(Snapshots[0].Id)).Where(f => f.SkipReason is null && f.Path.EndsWith(".sql", StringComparison.OrdinalIgnoreCase)).Take(MaxSchemas))
        {
            if (await OpenFileAsync(Snapshots[0].Id, row.Path) is { } file)
            {
                files.Add(file);
            }
        }

        var tree = new SourceTree("", files, []);
        var words = new Words(FactBase.Shipped);
        Kept = [.. DdlReader.Read(tree, words).Tables.SelectMany(t => t.Columns.Where(c => words.IsPasswordColumn(c.Name) && IsText(c)).Select(c =>
            new PasswordColumn(t.Name, c, tree.Files[c.At.File].Path, tree.LineOf(c.At), new ColumnFit(c.Length, ColumnFit.Recommended))))];
    }

    private static bool IsText(Column column) => column.Type.Contains("char", StringComparison.Ordinal) || column.Type.Contains("text", StringComparison.Ordinal) || column.Type.Contains("binary", StringComparison.Ordinal);

    private async Task TellAsync(object line)
    {
        await Response.WriteAsync(JsonSerializer.Serialize(line, Plain) + "\n", CancellationToken.None);
        await Response.Body.FlushAsync(CancellationToken.None);
    }
}
