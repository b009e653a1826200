using System.Globalization;
using Bellator.Audit.Auditing;
using Bellator.Audit.Reports.Handover;
using Bellator.Storage;
using Bellator.Storage.Reviews;
using Bellator.Text;
using Bellator.Web.Pages.Reviews;

namespace Bellator.Web;

/// <summary>Puts the report of a review together from what the database has of it, as the account that asks.</summary>
public static class ReportDesk
{
    /// <param name="by">Whose name the report bears.</param>
    public static async Task<ReportContent> MakeAsync(AccountScope scope, (Guid Id, string Name) review, RunRow run, SnapshotRow snapshot, ReportSettings settings, string by, CancellationToken cancel)
    {
        var reports = new ReportTable(scope);
        var snapshots = new SnapshotTable(scope);
        var findings = await reports.FindingsAsync(run.Id, cancel);
        var (application, _) = await new ApplicationTable(scope).OfAsync(run.Id, cancel);
        var leftOut = await snapshots.LeftOutAsync(snapshot.Id, 0, ReportScopes.MostListed, cancel);
        var notes = await new RunTable(scope).NotesAsync(run.Id, cancel);
        var stated = (await new FactTable(scope).ListAsync(review.Id, cancel)).Where(f => f.State == "kept").Select(f => string.Create(CultureInfo.InvariantCulture, $"{f.Title}: {f.Reason} ({f.By}, {f.At.ToLocalTime():d MMMM yyyy})")).ToList();
        var files = await FilesAsync(snapshots, snapshot.Id, findings.Select(f => f.Finding), cancel);
        return ReportBuilder.Build(new ReportInput(
            review.Name,
            new ReportScope(snapshot.Name, snapshot.Number, await snapshots.DigestAsync(snapshot.Id, cancel), snapshot.Files, snapshot.Lines, [.. leftOut.Select(l => new ReportOmission(l.Path, l.Reason))], snapshot.LeftOut, notes) { Stated = stated },
            [.. findings.Select(f => f.Finding)],
            application ?? new ReportedApplication(ReportedSurface.Empty),
            findings.Where(f => f.Verdict is not null).GroupBy(f => f.Finding.Fingerprint).ToDictionary(g => g.Key, g => g.First().Verdict!, StringComparer.Ordinal),
            p => files.GetValueOrDefault(p))
        {
            States = findings.Where(f => f.State is not null).GroupBy(f => f.Finding.Fingerprint).ToDictionary(g => g.Key, g => g.First().State!, StringComparer.Ordinal),
            Judgements = await reports.JudgementsAsync(review.Id, cancel),
            Changes = await ChangesAsync(scope, run.Id, cancel),
            Settings = settings,
            By = by,
            Date = DateOnly.FromDateTime(DateTime.Now),
            Program = typeof(ReportDesk).Assembly.GetName().Version!.ToString(3),
        });
    }

    private static async Task<ReportChanges?> ChangesAsync(AccountScope scope, Guid run, CancellationToken cancel)
    {
        var table = new ChangeTable(scope);
        if (await table.BaselineAsync(run, cancel) is not { } baseline)
        {
            return null;
        }

        var counts = await table.CountAsync(run, cancel);
        var changes = new List<ReportChange>();
        foreach (var state in (string[])["back", "new", "changed", "moved"])
        {
            changes.AddRange((await table.InStateAsync(run, state, -1, ChangeTable.PageSize, cancel)).Select(c => new ReportChange(state, FindingsModel.TitleOf(c.Finding), $"{c.Finding.Path}:{c.Finding.Line}", c.Reason)));
        }

        changes.AddRange((await table.GoneAsync(run, "", ChangeTable.PageSize, cancel)).Select(g => new ReportChange($"gone: {CompareModel.Word(g.Kind)}", FindingsModel.TitleOf(g.CheckId), $"{g.Path}:{g.Line}", g.Reason)));
        return new ReportChanges($"snapshot {baseline.Snapshot}", string.Join(", ", new[] { "new", "back", "changed", "moved", "still there", "gone" }.Select(s => $"{counts.GetValueOrDefault(s)} {s}")) + ".", changes, baseline.Parts);
    }

    private static async Task<Dictionary<string, SourceFile>> FilesAsync(SnapshotTable snapshots, Guid snapshot, IEnumerable<ReportedFinding> findings, CancellationToken cancel)
    {
        var files = new Dictionary<string, SourceFile>(StringComparer.Ordinal);
        foreach (var path in findings.SelectMany(f => f.Steps.Select(s => s.Path).Append(f.Path)).Distinct())
        {
            if (await snapshots.ContentAsync(snapshot, path, cancel) is { } content)
            {
                files[path] = new SourceFile(path, content, Languages.Detect(path, content));
            }
        }

        return files;
    }
}
