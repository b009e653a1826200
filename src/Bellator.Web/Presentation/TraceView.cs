using Bellator.Audit.Auditing;
using Bellator.Audit.Reports;
using Bellator.Text;

namespace Bellator.Web.Presentation;

/// <summary>One station of a trace: what happens, and the code around it.</summary>
public sealed record TraceStop(int Number, string Title, string Path, int Line, IReadOnlyList<CodeLine> Code, bool IsEnd);

/// <summary>Lays a finding's steps out as stations, steps on neighbouring lines together.</summary>
public static class TraceView
{
    private const int Around = 1;
    private const int Near = 6;

    /// <summary>The files that a finding's steps lie in.</summary>
    public static IReadOnlyList<string> PathsOf(ReportedFinding finding) => [.. StepsOf(finding).Select(s => s.Path).Distinct()];

    private static IReadOnlyList<ReportedStep> StepsOf(ReportedFinding finding) => finding.Steps.Count > 0 ? finding.Steps : [new ReportedStep("sink", "here", finding.Path, finding.Region)];

    public static IReadOnlyList<TraceStop> Build(ReportedFinding finding, IReadOnlyDictionary<string, SourceFile> files)
    {
        var steps = StepsOf(finding);
        var stops = new List<TraceStop>();
        var views = files.ToDictionary(f => f.Key, f => new CodeView(f.Value), StringComparer.Ordinal);
        for (var i = 0; i < steps.Count;)
        {
            var from = i;
            while (i + 1 < steps.Count && steps[i + 1].Path == steps[from].Path && Math.Abs(steps[i + 1].Region.StartLine - steps[i].Region.StartLine) <= Near)
            {
                i++;
            }

            var group = steps.Skip(from).Take(i - from + 1).ToList();
            i++;
            var path = group[0].Path;
            var view = views.GetValueOrDefault(path);
            var isEnd = i >= steps.Count;
            var margin = steps.Count == 1 ? Near : Around;
            var first = group.Min(s => s.Region.StartLine) - margin;
            var last = Math.Min(group.Max(s => s.Region.EndLine), group.Max(s => s.Region.StartLine) + 8) + margin;
            var marks = group.ConvertAll(s => new Mark(s.Region, isEnd && s == group[^1]));
            stops.Add(new TraceStop(
                stops.Count + 1,
                string.Join(", ", group.Select(StepText.Of).Distinct()),
                path,
                group[^1].Region.StartLine,
                view?.Lines(first, last, marks) ?? [],
                isEnd));
        }

        return stops;
    }
}
