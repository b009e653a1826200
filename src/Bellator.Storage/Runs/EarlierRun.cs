using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Audit.Comparison;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>
/// The run that another one is compared with: the latest one of an earlier snapshot, or, where there is none or a fact is only tried, of
/// the same. Its code is read file by file, as far as the comparison asks for it.
/// </summary>
internal sealed class EarlierRun : IDisposable
{
    private readonly NpgsqlConnection _connection;
    private readonly Guid _snapshot;
    private readonly Dictionary<string, SourceFile?> _files = new(StringComparer.Ordinal);

    private EarlierRun(NpgsqlConnection connection, Guid id, Guid snapshot)
    {
        (_connection, Id, _snapshot) = (connection, id, snapshot);
    }

    public Guid Id { get; }

    public required IReadOnlyList<ReportedFinding> Findings { get; init; }

    /// <summary>Findings that earlier comparisons missed, and that have not come back since.</summary>
    public required IReadOnlyList<ReportedFinding> Gone { get; init; }

    public required ReportedApplication? Application { get; init; }

    public required IReadOnlyList<string> Paths { get; init; }

    public required IReadOnlySet<string> Unread { get; init; }

    public CodeVersion Code => new(Paths, Read, Unread);

    /// <summary>Null if nothing of the review was audited before.</summary>
    public static async Task<EarlierRun?> FindAsync(NpgsqlDataSource worker, ClaimedRun run, CancellationToken cancel)
    {
        var connection = await worker.OpenConnectionAsync(cancel);
        EarlierRun? found = null;
        try
        {
            var baseline = await Sql.Command(
                connection,
                """
                SELECT r.id, r.snapshot_id, r.application FROM run r JOIN snapshot s ON s.id = r.snapshot_id
                WHERE r.review_id = $1 AND r.state = 'done' AND r.trial_of IS NULL AND r.id <> $3 AND s.number <= (SELECT number FROM snapshot WHERE id = $2)
                ORDER BY (r.snapshot_id = $2) = ($4::bigint IS NULL), s.number DESC, r.finished_at DESC LIMIT 1
                """,
                run.Review,
                run.Snapshot,
                run.Run,
                run.TrialOf).FirstAsync(r => (Id: r.GetGuid(0), Snapshot: r.GetGuid(1), Application: r.Text(2)), cancel);
            if (baseline.Id == Guid.Empty)
            {
                return null;
            }

            // The name that a finding is known by is the row's; the detail has the one that it was made with.
            var findings = await Sql.Command(connection, "SELECT fingerprint, detail FROM finding WHERE run_id = $1 ORDER BY position", baseline.Id).ListAsync(Known, cancel);
            var gone = await Sql.Command(
                connection,
                """
                SELECT DISTINCT ON (g.fingerprint) g.fingerprint, g.detail FROM gone g JOIN run r ON r.id = g.run_id
                WHERE g.review_id = $1 AND g.run_id <> $2 AND r.trial_of IS NULL AND NOT EXISTS (SELECT 1 FROM finding f WHERE f.run_id = $3 AND f.fingerprint = g.fingerprint) ORDER BY g.fingerprint, r.finished_at DESC
                """,
                run.Review,
                run.Run,
                baseline.Id).ListAsync(Known, cancel);
            found = new EarlierRun(connection, baseline.Id, baseline.Snapshot)
            {
                Findings = findings,
                Gone = gone,
                Application = baseline.Application is null ? null : ReportedApplication.Read(baseline.Application),
                Paths = await Sql.Command(connection, "SELECT path FROM snapshot_file WHERE snapshot_id = $1 ORDER BY path", baseline.Snapshot).ListAsync(r => r.GetString(0), cancel),
                Unread = (await Sql.Command(connection, "SELECT path FROM left_out WHERE snapshot_id = $1", baseline.Snapshot).ListAsync(r => r.GetString(0), cancel)).ToHashSet(StringComparer.Ordinal),
            };
            return found;
        }
        finally
        {
            if (found is null)
            {
                await connection.DisposeAsync();
            }
        }
    }

    /// <summary>Findings of before; those of versions that kept no traits get them from the code.</summary>
    public IReadOnlyList<ReportedFinding> WithTraits(IReadOnlyList<ReportedFinding> findings) => [.. findings.Select(f => f.Traits is not null ? f : f with { Traits = Traits.Of(f, null, Read) })];

    public void Dispose() => _connection.Dispose();

    private static ReportedFinding Known(NpgsqlDataReader reader) => JsonSerializer.Deserialize<ReportedFinding>(reader.GetString(1))! with { Fingerprint = reader.GetString(0) };

    private SourceFile? Read(string path)
    {
        if (!_files.TryGetValue(path, out var file))
        {
            using var command = Sql.Command(_connection, "SELECT b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 AND f.path = $2", _snapshot, path);
            file = command.ExecuteScalar() is byte[] content ? new SourceFile(path, content, Languages.Detect(path, content)) : null;
            _files[path] = file;
        }

        return file;
    }
}
