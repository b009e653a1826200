using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Audit.Checks;
using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Auditing;

/// <summary>Says from which endpoints the code of a finding is reached.</summary>
internal sealed class WayReader
{
    /// <summary>So many endpoints of a finding are named; all are counted.</summary>
    private const int MostNamed = 6;

    private readonly ProgramModel _program;
    private readonly Dictionary<IrFunction, List<EntryPoint>> _entries = [];

    public WayReader(ProgramModel program, SurfaceModel surface)
    {
        _program = program;
        foreach (var entry in surface.EntryPoints)
        {
            if (entry.Handler is not { } handler)
            {
                continue;
            }

            foreach (var function in surface.OwnReach(handler).Concat(surface.OnTheWay(handler)))
            {
                if (!_entries.TryGetValue(function, out var list))
                {
                    _entries[function] = list = [];
                }

                list.Add(entry);
            }
        }
    }

    public ReportedFinding Add(ReportedFinding reported, Finding finding)
    {
        // A value comes in where its way begins; a local pattern is reached where it stands.
        var at = finding.Steps.Count > 1 && finding.Steps[0].At.IsKnown ? finding.Steps[0].At : finding.At;
        var entries = (_program.FunctionAt(at) is { } function ? _entries.GetValueOrDefault(function) : null) ?? (_program.FunctionAt(finding.At) is { } own ? _entries.GetValueOrDefault(own) : null) ?? [];
        var ways = entries.Select(e => new ReportedWay(e.Method, e.Path, System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(e.SignIn.ToString()))).Distinct().ToList();
        return reported with
        {
            Ways = [.. ways.OrderBy(w => w.SignIn == "notNeeded" ? 0 : w.SignIn == "unclear" ? 1 : 2).ThenBy(w => w.Path, StringComparer.Ordinal).ThenBy(w => w.Method, StringComparer.Ordinal).Take(MostNamed)],
            WayCount = ways.Count,
            OpenWayCount = ways.Count(w => w.SignIn == "notNeeded"),
        };
    }
}
