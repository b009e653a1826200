using System.Security.Cryptography;
using Bellator.Core.Reports;
using Bellator.Core.Sources;

namespace Bellator.Storage.Reviews;

/// <summary>Snapshots and their files, as one account sees them.</summary>
public sealed class SnapshotTable(AccountScope scope)
{
    /// <summary>Stores a source tree as the review's next snapshot; a file that is there already is not stored again.</summary>
    public async Task<Guid> AddAsync(Guid review, SourceTree tree, CancellationToken cancel = default)
    {
        var id = Guid.CreateVersion7();
        await scope.Command(
            "INSERT INTO snapshot (id, review_id, number, name, file_count, line_count) SELECT $1, $2, coalesce(max(number), 0) + 1, $3, $4, $5 FROM snapshot WHERE review_id = $2",
            id,
            review,
            tree.Name,
            tree.Files.Count,
            tree.LineCount).RunAsync(cancel);
        foreach (var file in tree.Files)
        {
            var hash = SHA256.HashData(file.Content);
            await scope.Command("SELECT store_blob($1, $2)", hash, file.Content).RunAsync(cancel);
            await scope.Command(
                "INSERT INTO snapshot_file (snapshot_id, review_id, path, hash, line_count) VALUES ($1, $2, $3, $4, $5)",
                id,
                review,
                file.Path,
                hash,
                file.LineCount).RunAsync(cancel);
        }

        // Text columns cannot hold zero bytes, which hostile archives have in their names.
        foreach (var skipped in tree.Skipped.DistinctBy(s => s.Path).Take(5000))
        {
            await scope.Command(
                "INSERT INTO snapshot_file (snapshot_id, review_id, path, skip_reason) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING",
                id,
                review,
                skipped.Path.Replace('\0', '?'),
                SkipText.Of(skipped).Replace('\0', '?')).RunAsync(cancel);
        }

        return id;
    }

    public Task<IReadOnlyList<SnapshotRow>> ListAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        "SELECT id, number, name, created_at, file_count, line_count FROM snapshot WHERE review_id = $1 ORDER BY number DESC",
        review).ListAsync(r => new SnapshotRow(r.GetGuid(0), r.GetInt32(1), r.GetString(2), r.GetFieldValue<DateTimeOffset>(3), r.GetInt32(4), r.GetInt64(5)), cancel);

    public Task<IReadOnlyList<SnapshotFileRow>> FilesAsync(Guid snapshot, CancellationToken cancel = default) => scope.Command(
        "SELECT path, line_count, skip_reason FROM snapshot_file WHERE snapshot_id = $1 ORDER BY skip_reason NULLS FIRST, path",
        snapshot).ListAsync(r => new SnapshotFileRow(r.GetString(0), r.GetInt32(1), r.Text(2)), cancel);

    public Task<byte[]?> ContentAsync(Guid snapshot, string path, CancellationToken cancel = default) => scope.Command(
        "SELECT b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 AND f.path = $2",
        snapshot,
        path).FirstAsync(r => r.GetFieldValue<byte[]>(0), cancel);
}
