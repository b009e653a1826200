using Bellator.Audit.Auditing;

namespace Bellator.Storage.Reviews;

/// <summary>What the latest audits found the application to be, and the reviewers' corrections of it.</summary>
public sealed class ApplicationTable(AccountScope scope)
{
    /// <summary>What a run found, and how long it is as text; null if it was made before this was kept.</summary>
    public async Task<(ReportedApplication? Application, int Length)> OfAsync(Guid run, CancellationToken cancel = default) =>
        await scope.Command("SELECT application FROM run WHERE id = $1", run).FirstAsync(r => r.Text(0), cancel) is { } json ? (ReportedApplication.Read(json), json.Length) : (null, 0);

    public async Task<IReadOnlyDictionary<(string Table, string Column), string>> MeaningsAsync(Guid review, CancellationToken cancel = default) =>
        (await scope.Command("SELECT table_name, column_name, meaning FROM column_meaning WHERE review_id = $1", review)
            .ListAsync(r => (Table: r.GetString(0), Column: r.GetString(1), Meaning: r.GetString(2)), cancel)).ToDictionary(m => (m.Table, m.Column), m => m.Meaning);

    /// <summary>Says what a column holds; null takes it back.</summary>
    public Task<int> SetMeaningAsync(Guid review, string table, string column, string? meaning, CancellationToken cancel = default) => meaning is null
        ? scope.Command("DELETE FROM column_meaning WHERE review_id = $1 AND table_name = $2 AND column_name = $3", review, table, column).RunAsync(cancel)
        : scope.Command(
            """
            INSERT INTO column_meaning (review_id, table_name, column_name, meaning, account_id) VALUES ($1, $2, $3, $4, $5)
            ON CONFLICT (review_id, table_name, column_name) DO UPDATE SET meaning = $4, account_id = $5, at = now()
            """,
            review,
            table,
            column,
            meaning,
            scope.Account).RunAsync(cancel);
}
