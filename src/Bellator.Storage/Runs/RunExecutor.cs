using System.Text.Json;
using Bellator.Audit.Auditing;
using Bellator.Storage.Replays;
using Bellator.Text;
using Npgsql;

namespace Bellator.Storage.Runs;

/// <summary>How many threads an audit has, and where it says what it is busy with.</summary>
public sealed record ExecutionSettings(int Threads, AuditActivity? Activity);

/// <summary>
/// Carries a claimed run out: reads the material, audits it, and writes what was found in one transaction, which counts only while the
/// claim does. There is never half a result, and never one of two processes at once.
/// </summary>
public sealed class RunExecutor(NpgsqlDataSource worker, string? scratchConnection, KeptAudits kept)
{
    /// <summary>What an audit is busy with when all is written and nothing of it holds yet.</summary>
    public const string Commit = "the commit";

    /// <summary>A result that took minutes is worth waiting for the database to come back.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(2);

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);

    /// <returns>False if somebody else has the run by now: nothing was written.</returns>
    /// <exception cref="OperationCanceledException">It was cancelled.</exception>
    public async Task<bool> RunAsync(ClaimedRun run, ExecutionSettings settings, Action<AuditProgress> progress, CancellationToken cancel)
    {
        var (tree, leftOut) = await LoadAsync(run, settings.Activity, cancel);
        var meanings = await MeaningsAsync(run.Review, cancel);
        var knowledge = await StatedKnowledge.LoadAsync(worker, run, cancel);
        var memory = run.TrialOf is null ? kept.Take(run.Review) : null;
        var options = new AuditOptions { Facts = kept.FactsOf(knowledge), Memory = memory, ColumnMeanings = meanings, Threads = settings.Threads, Activity = settings.Activity };
        var result = AuditPipeline.Run(tree, options, progress, cancel);
        if (memory is not null)
        {
            kept.Put(run.Review, memory, tree);
        }

        result = result with { Notes = [.. result.Notes, .. leftOut, .. knowledge.Notes] };
        if (scratchConnection is not null)
        {
            settings.Activity?.Begin("the replay of statements");
            var replay = new StatementReplay(scratchConnection);
            result = result with { Findings = await replay.ReplayAsync(result.Findings, result.Schema, cancel) };
            if (replay.LeftOut > 0)
            {
                result = result with { Notes = [.. result.Notes, new AuditNote("", $"{replay.LeftOut} statements of witnesses were not run on invented rows: there were too many of them")] };
            }
        }

        settings.Activity?.Begin("the comparison");
        using var earlier = await EarlierRun.FindAsync(worker, run, cancel);
        var outcome = earlier is null ? new RunOutcome(result, null, [], []) : RunOutcome.Compare(earlier, result, tree, knowledge.AnswerTo);
        for (var until = DateTime.UtcNow + Patience; ;)
        {
            settings.Activity?.Begin("the result");
            try
            {
                return await new ResultWriter(worker).WriteAsync(run, outcome, settings.Activity, cancel);
            }
            catch (NpgsqlException e) when (e.IsTransient && DateTime.UtcNow < until)
            {
                await Task.Delay(Pause, cancel);
            }
        }
    }

    private async Task<(SourceTree Tree, IReadOnlyList<AuditNote> LeftOut)> LoadAsync(ClaimedRun run, AuditActivity? activity, CancellationToken cancel)
    {
        activity?.Begin("the material");
        await using var connection = await worker.OpenConnectionAsync(cancel);
        var name = await Sql.Command(connection, "SELECT name FROM snapshot WHERE id = $1", run.Snapshot).FirstAsync(r => r.GetString(0), cancel);
        var files = new List<SourceFile>();
        var leftOut = new List<AuditNote>();
        await using var command = Sql.Command(connection, "SELECT f.path, b.content FROM snapshot_file f JOIN blob b ON b.hash = f.hash WHERE f.snapshot_id = $1 ORDER BY f.path", run.Snapshot);
        await using var reader = await command.ExecuteReaderAsync(cancel);
        while (await reader.ReadAsync(cancel))
        {
            var path = reader.GetString(0);
            if (run.LeftOut.Contains(path))
            {
                leftOut.Add(new AuditNote(path, "an audit hung or ended over this file; it was left out"));
                continue;
            }

            var content = reader.GetFieldValue<byte[]>(1);
            files.Add(new SourceFile(path, content, Languages.Detect(path, content)));
            activity?.Begin("the material");
        }

        activity?.End();
        return (new SourceTree(name ?? "", files, []), leftOut);
    }

    private async Task<Dictionary<(string, string), string>> MeaningsAsync(Guid review, CancellationToken cancel)
    {
        await using var connection = await worker.OpenConnectionAsync(cancel);
        return (await Sql.Command(connection, "SELECT table_name, column_name, meaning FROM column_meaning WHERE review_id = $1", review)
            .ListAsync(r => (Table: r.GetString(0), Column: r.GetString(1), Meaning: r.GetString(2)), cancel)).ToDictionary(m => (m.Table, m.Column), m => m.Meaning);
    }
}
