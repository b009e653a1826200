using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>What every page of a review shows: read in one round trip, for it is asked for with every page.</summary>
public sealed record ReviewHead(string Name, RunRow? LatestRun, RunRow? Result, IReadOnlyList<SnapshotRow> Snapshots, IReadOnlyDictionary<string, int> ToJudge)
{
    /// <summary>Opens a review as an account.</summary>
    /// <returns>The head is null if there is no such review, or it is somebody else's: from outside both look the same.</returns>
    public static async Task<(AccountScope Scope, ReviewHead? Head)> OpenAsync(Database database, Guid account, Guid review, CancellationToken cancel = default)
    {
        var names = new List<string>();
        var runs = new List<(RunRow Row, bool IsResult)>();
        var snapshots = new List<SnapshotRow>();
        var toJudge = new Dictionary<string, int>(StringComparer.Ordinal);
        var scope = await database.OpenAsAsync(
            account,
            [
                Part("SELECT name FROM review WHERE id = $1", r => names.Add(r.GetString(0))),
                Part(
                    $"""
                    (SELECT {RunTable.Columns}, false FROM run WHERE review_id = $1 AND trial_of IS NULL ORDER BY created_at DESC LIMIT 1)
                    UNION ALL (SELECT {RunTable.Columns}, true FROM run WHERE review_id = $1 AND state = 'done' AND trial_of IS NULL ORDER BY finished_at DESC LIMIT 1)
                    """,
                    r => runs.Add((RunTable.Read(r), r.GetBoolean(RunTable.ColumnCount)))),
                Part(SnapshotTable.OfReview, r => snapshots.Add(SnapshotTable.Read(r))),
                Part(
                    "SELECT area, sum(to_judge)::int FROM run_count WHERE run_id = (SELECT id FROM run WHERE review_id = $1 AND state = 'done' AND trial_of IS NULL ORDER BY finished_at DESC LIMIT 1) AND to_judge > 0 GROUP BY area",
                    r => toJudge[r.GetString(0)] = r.GetInt32(1)),
            ],
            cancel);
        var latest = runs.Where(r => !r.IsResult).Select(r => r.Row).FirstOrDefault();
        var result = latest is { State: "done" } ? latest : runs.Where(r => r.IsResult).Select(r => r.Row).FirstOrDefault();
        return (scope, names.Count == 0 ? null : new ReviewHead(names[0], latest, result, snapshots, toJudge));

        (NpgsqlBatchCommand, Func<NpgsqlDataReader, CancellationToken, Task>) Part(string sql, Action<NpgsqlDataReader> row) => (
            new NpgsqlBatchCommand(sql) { Parameters = { new() { Value = review } } },
            async (reader, gone) =>
            {
                while (await reader.ReadAsync(gone))
                {
                    row(reader);
                }
            }
        );
    }
}
