using Bellator.Storage;
using Npgsql;

namespace Bellator.Testing;

/// <summary>Fills the database with a review of any size: copies of the findings of another run, each with a fingerprint and a place of its own.</summary>
public static class LargeReview
{
    /// <param name="owner">The role that may write everywhere.</param>
    /// <param name="source">A run that is done.</param>
    /// <param name="ids">What the new review, its snapshot and its run are to be called.</param>
    public static async Task MakeAsync(NpgsqlConnection owner, Guid account, Guid source, (Guid Review, Guid Snapshot, Guid Run) ids, int findings)
    {
        foreach (var sql in (string[])
        [
            "INSERT INTO review (id, name, created_by) SELECT $1, 'Large', $4 WHERE $2::uuid <> $3::uuid AND $5::uuid IS NOT NULL AND $6::int > 0",
            "INSERT INTO membership (review_id, account_id, is_owner) SELECT $1, $4, true WHERE $2::uuid <> $3::uuid AND $5::uuid IS NOT NULL AND $6::int > 0",
            "INSERT INTO snapshot (id, review_id, number, name, file_count, line_count) SELECT $2, $1, 1, name, file_count, line_count FROM snapshot WHERE id = (SELECT snapshot_id FROM run WHERE id = $5) AND $3::uuid IS NOT NULL AND $4::uuid IS NOT NULL AND $6::int > 0",
            "INSERT INTO snapshot_file (snapshot_id, review_id, path, hash, line_count) SELECT $2, $1, path, hash, line_count FROM snapshot_file WHERE snapshot_id = (SELECT snapshot_id FROM run WHERE id = $5) AND $3::uuid IS NOT NULL AND $4::uuid IS NOT NULL AND $6::int > 0",
            "INSERT INTO run (id, review_id, snapshot_id, state, finished_at, finding_count, figures, application) SELECT $3, $1, $2, 'done', now(), $6, figures, application FROM run WHERE id = $5 AND $4::uuid IS NOT NULL",
            """
            INSERT INTO finding (run_id, review_id, position, fingerprint, check_id, area, certainty, score, path, line, message, detail, cause, source_path, source_line)
            SELECT $3, $1, n, md5(n::text || $3::text), f.check_id, f.area, f.certainty, f.score, f.path, f.line, f.message, f.detail, n / 3 + 1, f.source_path, f.source_line
            FROM generate_series(0, $6 - 1) n JOIN (SELECT *, row_number() OVER (ORDER BY position) - 1 AS i, count(*) OVER () AS all FROM finding WHERE run_id = $5) f ON f.i = n % f.all
            WHERE $2::uuid IS NOT NULL AND $4::uuid IS NOT NULL
            """,
            "INSERT INTO cause SELECT run_id, review_id, cause, min(check_id), min(area), min(path), min(line), min(path), min(line), 1, count(*), 'helper', max(score), min(certainty), 0, '{}', '' FROM finding WHERE run_id = $3 AND review_id = $1 AND $2::uuid IS NOT NULL AND $4::uuid IS NOT NULL AND $5::uuid IS NOT NULL AND $6::int > 0 GROUP BY run_id, review_id, cause",
            "INSERT INTO run_count SELECT run_id, review_id, area, check_id, count(*), count(*) FROM finding WHERE run_id = $3 AND review_id = $1 AND $2::uuid IS NOT NULL AND $4::uuid IS NOT NULL AND $5::uuid IS NOT NULL AND $6::int > 0 GROUP BY run_id, review_id, area, check_id",
            """
            UPDATE run_count k SET causes = c.number, shared_causes = c.shared
            FROM (SELECT run_id, check_id, count(*) AS number, count(*) FILTER (WHERE flow_count > 1) AS shared FROM cause WHERE run_id = $3 GROUP BY run_id, check_id) c
            WHERE k.run_id = c.run_id AND k.check_id = c.check_id AND $1::uuid IS NOT NULL AND $2::uuid IS NOT NULL AND $4::uuid IS NOT NULL AND $5::uuid IS NOT NULL AND $6::int > 0
            """,
        ])
        {
            await using var command = Sql.Command(owner, sql, ids.Review, ids.Snapshot, ids.Run, account, source, findings);
            command.CommandTimeout = 300;
            await command.ExecuteNonQueryAsync();
        }

        await Sql.Command(owner, "ANALYZE").RunAsync();
    }
}
