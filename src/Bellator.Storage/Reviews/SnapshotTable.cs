using Bellator.Audit.Reports.Handover;
using Npgsql;

namespace Bellator.Storage.Reviews;

/// <summary>Snapshots and their files, as one account sees them.</summary>
public sealed class SnapshotTable(AccountScope scope)
{
    internal const string OfReview = "SELECT id, number, name, created_at, file_count, line_count, left_out_count FROM snapshot WHERE review_id = $1 AND number IS NOT NULL ORDER BY number DESC LIMIT 200";

    public Task<IReadOnlyList<SnapshotRow>> ListAsync(Guid review, CancellationToken cancel = default) => scope.Command(OfReview, review).ListAsync(Read, cancel);

    /// <summary>Files whose path follows another, in order.</summary>
    /// <param name="ending">Only files whose path ends so; empty for all.</param>
    public Task<IReadOnlyList<SnapshotFileRow>> FilesAsync(Guid snapshot, string after, int count, string ending = "", CancellationToken cancel = default) => scope.Command(
        "SELECT path, line_count FROM snapshot_file WHERE snapshot_id = $1 AND path > $2 AND ($4 = '' OR right(lower(path), length($4)) = $4) ORDER BY path LIMIT $3",
        snapshot,
        after,
        count,
        ending).ListAsync(r => new SnapshotFileRow(r.GetString(0), r.GetInt32(1)), cancel);

    /// <summary>What was left out, after a position; not all that was need be listed, see <see cref="SnapshotRow.LeftOut"/>.</summary>
    public Task<IReadOnlyList<LeftOutRow>> LeftOutAsync(Guid snapshot, int after, int count, CancellationToken cancel = default) => scope.Command(
        "SELECT path, reason FROM left_out WHERE snapshot_id = $1 AND position > $2 ORDER BY position LIMIT $3",
        snapshot,
        after,
        count).ListAsync(r => new LeftOutRow(r.GetString(0), r.GetString(1)), cancel);

    public Task<byte[]?> ContentAsync(Guid snapshot, string path, CancellationToken cancel = default) => scope.Command(
        "SELECT b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 AND f.path = $2",
        snapshot,
        path).FirstAsync(r => r.GetFieldValue<byte[]>(0), cancel);

    /// <summary>A digest over the paths and the digests of all files, as <see cref="ReportBuilder.DigestOf"/> makes it.</summary>
    public async Task<string> DigestAsync(Guid snapshot, CancellationToken cancel = default)
    {
        using var hash = System.Security.Cryptography.IncrementalHash.CreateHash(System.Security.Cryptography.HashAlgorithmName.SHA256);
        await using var command = scope.Command("SELECT path, hash FROM snapshot_file WHERE snapshot_id = $1 ORDER BY path", snapshot);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            hash.AppendData(System.Text.Encoding.UTF8.GetBytes(reader.GetString(0) + "\n"));
            hash.AppendData(reader.GetFieldValue<byte[]>(1));
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }

    internal static SnapshotRow Read(NpgsqlDataReader r) =>
        new(r.GetGuid(0), r.GetInt32(1), r.GetString(2), r.GetFieldValue<DateTimeOffset>(3), r.GetInt32(4), r.GetInt64(5), r.GetInt32(6));
}
