using System.Globalization;
using Bellator.Analysis.Libraries;
using Bellator.Audit.Auditing;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>What the reviewers of an application state of its code, for one run: the facts that are kept, and the one that is tried.</summary>
internal sealed class StatedKnowledge
{
    private readonly Dictionary<string, string> _answers;
    private readonly string? _tried;

    private StatedKnowledge(IReadOnlyList<ModelReader> texts, IReadOnlyList<AuditNote> notes, Dictionary<string, string> answers, string? tried)
    {
        (Texts, Notes, _answers, _tried) = (texts, notes, answers, tried);
    }

    public IReadOnlyList<ModelReader> Texts { get; }

    /// <summary>Facts that this version does not understand: the reviewer is told.</summary>
    public IReadOnlyList<AuditNote> Notes { get; }

    /// <summary>What answers a finding that is gone; null where nobody stated anything that does.</summary>
    public string? AnswerTo(string fingerprint) => _tried ?? _answers.GetValueOrDefault(fingerprint);

    public static async Task<StatedKnowledge> LoadAsync(NpgsqlDataSource worker, ClaimedRun run, CancellationToken cancel)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        var rows = await Sql.Command(
            connection,
            "SELECT f.id, f.title, f.facts, a.name FROM review_fact f JOIN account a ON a.id = f.account_id WHERE f.review_id = $1 AND (f.state = 'kept' OR f.id = $2) ORDER BY f.id",
            run.Review,
            run.TrialOf).ListAsync(r => (Id: r.GetInt64(0), Title: r.GetString(1), Text: r.GetString(2), By: r.GetString(3)), cancel);
        var texts = new List<ModelReader>();
        var notes = new List<AuditNote>();
        foreach (var row in rows)
        {
            var text = new ModelReader(string.Create(CultureInfo.InvariantCulture, $"fact {row.Id}"), row.Text);
            if (ModelReader.ProblemOf(text) is { } problem)
            {
                notes.Add(new AuditNote("", $"what {row.By} stated was left out: {problem}"));
            }
            else
            {
                texts.Add(text);
            }
        }

        var by = rows.ToDictionary(r => r.Id, r => $"{r.By} stated: {r.Title}");
        var answers = await Sql.Command(connection, "SELECT x.fingerprint, x.fact_id FROM fact_answer x JOIN review_fact f ON f.id = x.fact_id WHERE f.review_id = $1 AND f.state = 'kept' ORDER BY x.fact_id DESC", run.Review)
            .ListAsync(r => (Fingerprint: r.GetString(0), Fact: r.GetInt64(1)), cancel);
        return new StatedKnowledge(texts, notes, answers.DistinctBy(a => a.Fingerprint).ToDictionary(a => a.Fingerprint, a => by[a.Fact], StringComparer.Ordinal), run.TrialOf is { } tried ? by.GetValueOrDefault(tried) : null);
    }
}
