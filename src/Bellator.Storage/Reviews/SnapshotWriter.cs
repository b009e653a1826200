using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Storage.Reviews;

/// <summary>
/// Takes the files of a new snapshot in, many at a time and each batch in a transaction of its own: no more of them is in memory than a
/// batch. The snapshot is there for readers, with its number, when it is complete; until then it can be taken back.
/// </summary>
public sealed class SnapshotWriter
{
    private const int BatchFiles = 2000;
    private const int BatchBytes = 4 * 1024 * 1024;

    /// <summary>What is left out is counted without bound and listed up to this many.</summary>
    public const int MostListed = 5000;

    private readonly Database _database;
    private readonly Guid _account;
    private readonly Guid _review;
    private readonly List<SourceFile> _batch = [];
    private int _batchBytes;

    private SnapshotWriter(Database database, Guid account, Guid review)
    {
        _database = database;
        _account = account;
        _review = review;
    }

    public Guid Id { get; } = Guid.CreateVersion7();

    public int Files { get; private set; }

    public long Bytes { get; private set; }

    public long Lines { get; private set; }

    public static async Task<SnapshotWriter> BeginAsync(Database database, Guid account, Guid review, string name, CancellationToken cancel = default)
    {
        var writer = new SnapshotWriter(database, account, review);
        await using var scope = await database.OpenAsAsync(account, cancel);
        await scope.Command("INSERT INTO snapshot (id, review_id, name, file_count, line_count) VALUES ($1, $2, $3, 0, 0)", writer.Id, review, name).RunAsync(cancel);
        await scope.CommitAsync(cancel);
        return writer;
    }

    public async Task AddAsync(SourceFile file, CancellationToken cancel = default)
    {
        _batch.Add(file);
        _batchBytes += file.Content.Length;
        if (_batch.Count >= BatchFiles || _batchBytes >= BatchBytes)
        {
            await WriteAsync(cancel);
        }
    }

    /// <summary>Writes the rest, gives the snapshot its number, and notes that it is to be audited.</summary>
    /// <returns>The run.</returns>
    public async Task<Guid> FinishAsync(IReadOnlyList<SkippedFile> skipped, CancellationToken cancel = default)
    {
        await WriteAsync(cancel);
        await using var scope = await _database.OpenAsAsync(_account, cancel);
        SkippedFile[] listed = [.. skipped.OrderBy(s => s.Path, StringComparer.Ordinal).Take(MostListed)];
        await scope.Command(
            "INSERT INTO left_out (snapshot_id, review_id, position, path, reason) SELECT $1, $2, ordinality, p, r FROM unnest($3::text[], $4::text[]) WITH ORDINALITY AS u (p, r, ordinality)",
            Id,
            _review,
            Array.ConvertAll(listed, s => s.Path),
            Array.ConvertAll(listed, SkipText.Of)).RunAsync(cancel);

        // Several that become complete at once take turns, so that each gets a number of its own.
        await scope.Command("SELECT 1 FROM review WHERE id = $1 FOR NO KEY UPDATE", _review).FirstAsync(_ => true, cancel);
        await scope.Command(
            """
            UPDATE snapshot SET number = (SELECT coalesce(max(number), 0) + 1 FROM snapshot WHERE review_id = $2),
              file_count = $3, line_count = $4, byte_count = $5, left_out_count = $6 WHERE id = $1
            """,
            Id,
            _review,
            Files,
            Lines,
            Bytes,
            skipped.Count).RunAsync(cancel);
        var run = await new RunTable(scope).QueueAsync(_review, Id, cancel);
        await scope.CommitAsync(cancel);
        return run;
    }

    /// <summary>Takes the snapshot back.</summary>
    public async Task ForgetAsync()
    {
        await using var connection = await _database.Web.OpenConnectionAsync();
        await Sql.Command(connection, "SELECT forget_snapshot($1)", Id).RunAsync();
    }

    private async Task WriteAsync(CancellationToken cancel)
    {
        if (_batch.Count == 0)
        {
            return;
        }

        await using var scope = await _database.OpenAsAsync(_account, cancel);
        await scope.Command(
            "SELECT store_files($1, $2, $3, $4)",
            Id,
            _batch.Select(f => f.Path).ToArray(),
            _batch.Select(f => f.Content).ToArray(),
            _batch.Select(f => f.LineCount).ToArray()).RunAsync(cancel);
        await scope.CommitAsync(cancel);
        Files += _batch.Count;
        Bytes += _batchBytes;
        Lines += _batch.Sum(f => (long)f.LineCount);
        _batch.Clear();
        _batchBytes = 0;
    }
}
