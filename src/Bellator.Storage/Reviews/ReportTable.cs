using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports.Handover;
using Bellator.Audit.Standards;

namespace Bellator.Storage.Reviews;

public sealed record ReportRow(Guid Id, int Number, int Snapshot, string By, DateTimeOffset At);

/// <summary>Reports of a review: the draft, those that were handed over and are kept as they were, and what was said of standards.</summary>
public sealed class ReportTable(AccountScope scope)
{
    public const int MostFindings = 20_000;

    public async Task<ReportSettings> DraftAsync(Guid review, CancellationToken cancel = default) =>
        await scope.Command("SELECT settings FROM report_draft WHERE review_id = $1", review).FirstAsync(r => r.GetString(0), cancel) is { } json
            ? JsonSerializer.Deserialize<ReportSettings>(json, ReportContent.Json) ?? new() : new();

    public Task SaveDraftAsync(Guid review, ReportSettings settings, CancellationToken cancel = default) => scope.Command(
        "INSERT INTO report_draft (review_id, settings, account_id) VALUES ($1, $2::jsonb, $3) ON CONFLICT (review_id) DO UPDATE SET settings = EXCLUDED.settings, account_id = EXCLUDED.account_id, at = now()",
        review,
        JsonSerializer.Serialize(settings, ReportContent.Json),
        scope.Account).RunAsync(cancel);

    public Task<IReadOnlyList<ReportRow>> ListAsync(Guid review, CancellationToken cancel = default) => scope.Command(
        "SELECT r.id, r.number, r.snapshot_number, a.name, r.at FROM report r JOIN account a ON a.id = r.account_id WHERE r.review_id = $1 ORDER BY r.number DESC LIMIT 100",
        review).ListAsync(r => new ReportRow(r.GetGuid(0), r.GetInt32(1), r.GetInt32(2), r.GetString(3), r.GetFieldValue<DateTimeOffset>(4)), cancel);

    public async Task<ReportContent?> FindAsync(Guid review, int number, CancellationToken cancel = default) =>
        await scope.Command("SELECT content FROM report WHERE review_id = $1 AND number = $2", review, number).FirstAsync(r => r.GetString(0), cancel) is { } json ? ReportContent.Read(json) : null;

    /// <summary>Keeps a report as it is. Its number follows the last one.</summary>
    public async Task<int> HandOverAsync(Guid review, ReportContent content, CancellationToken cancel = default)
    {
        await scope.Command("SELECT pg_advisory_xact_lock(hashtextextended($1, 1))", review.ToString()).RunAsync(cancel);
        return await scope.Command(
            "INSERT INTO report (id, review_id, number, snapshot_number, content, account_id) SELECT $1, $2, coalesce(max(number), 0) + 1, $3, $4::jsonb, $5 FROM report WHERE review_id = $2 RETURNING number",
            Guid.CreateVersion7(),
            review,
            content.Scope.Snapshot ?? 0,
            JsonSerializer.Serialize(content, Options),
            scope.Account).FirstAsync(r => r.GetInt32(0), cancel);
    }

    public async Task<IReadOnlyList<RequirementJudgement>> JudgementsAsync(Guid review, CancellationToken cancel = default)
    {
        var rows = await scope.Command(
            "SELECT DISTINCT ON (j.standard, j.number) j.standard, j.number, j.state, j.reason, a.name, j.at FROM requirement_judgement j JOIN account a ON a.id = j.account_id WHERE j.review_id = $1 ORDER BY j.standard, j.number, j.id DESC",
            review).ListAsync(r => (Standard: r.GetString(0), Number: r.GetString(1), State: r.GetString(2), Reason: r.GetString(3), By: r.GetString(4), At: r.GetFieldValue<DateTimeOffset>(5)), cancel);
        return [.. rows.Where(j => j.State != "as found").Select(j => new RequirementJudgement(j.Standard, j.Number, new RequirementEntry(j.Standard, j.Number, j.State, j.Reason).Verdict, j.Reason, j.By, j.At))];
    }

    /// <param name="state">met, not met, not applicable, not judged; or "as found", which takes back what was said before.</param>
    public Task JudgeAsync(Guid review, string standard, string number, string state, string reason, CancellationToken cancel = default) =>
        scope.Command("INSERT INTO requirement_judgement (review_id, standard, number, state, reason, account_id) VALUES ($1, $2, $3, $4, $5, $6)", review, standard, number, state, reason, scope.Account).RunAsync(cancel);

    /// <summary>All findings of a run with what a report says of them.</summary>
    public Task<IReadOnlyList<(ReportedFinding Finding, GivenVerdict? Verdict, string? State)>> FindingsAsync(Guid run, CancellationToken cancel = default) => scope.Command(
        $"""
        SELECT f.detail, f.fingerprint, f.state, v.verdict, v.reason, a.name, v.at, v.until
        FROM finding f LEFT JOIN current_verdict c ON c.review_id = f.review_id AND c.fingerprint = f.fingerprint
        LEFT JOIN verdict v ON v.id = c.verdict_id LEFT JOIN account a ON a.id = v.account_id
        WHERE f.run_id = $1 ORDER BY f.position LIMIT {MostFindings}
        """,
        run).ListAsync(
        r => (
            JsonSerializer.Deserialize<ReportedFinding>(r.GetString(0))! with { Fingerprint = r.GetString(1) },
            r.Text(3) is { } verdict ? new GivenVerdict(verdict, r.Text(4) ?? "", r.Text(5) ?? "Bellator", r.Nullable<DateTimeOffset>(6) is { } at ? DateOnly.FromDateTime(at.LocalDateTime) : null, r.Nullable<DateOnly>(7)) : null,
            r.Text(2)),
        cancel);

    private static readonly JsonSerializerOptions Options = MakeOptions();

    private static JsonSerializerOptions MakeOptions()
    {
        var options = new JsonSerializerOptions(ReportContent.Json) { WriteIndented = false };
        foreach (var converter in DatabaseText.Json.Converters)
        {
            options.Converters.Add(converter);
        }

        return options;
    }
}
