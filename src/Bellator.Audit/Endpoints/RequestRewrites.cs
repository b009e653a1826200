using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Scheduling;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// What stands in the parts of the request by the time a function runs, where everybody who reaches it has overwritten them before: the
/// middleware on all of its routes, or the code that calls it.
/// </summary>
public sealed class RequestRewrites
{
    /// <summary>Callers of callers are followed so far.</summary>
    private const int MaxCallers = 12;

    private readonly ProgramAnalysis _flow;
    private readonly ILookup<IrFunction, EntryPoint> _entries;
    private readonly Dictionary<IrFunction, List<(IrFunction Caller, IReadOnlyDictionary<RequestPart, AbstractValue>? Rewritten)>> _callers = [];
    private readonly Dictionary<AnalysisEvent, IrFunction> _owners = new(ReferenceEqualityComparer.Instance);
    private readonly Dictionary<(IrFunction, RequestPart), AbstractValue?> _known = [];

    public RequestRewrites(ProgramAnalysis flow, IEnumerable<IrFunction> functions, IEnumerable<EntryPoint> entryPoints)
    {
        _flow = flow;
        var all = functions.ToList();
        _entries = entryPoints.Where(e => e.Handler is not null).ToLookup(e => e.Handler!);

        // Few programs do it, and for the others nothing needs to be looked up.
        IsAny = all.Any(f => flow.SummaryOf(f) is var summary && (summary.Rewrites is not null || summary.Calls.Any(c => c.Rewritten is not null)));
        if (!IsAny)
        {
            return;
        }

        foreach (var function in all)
        {
            var summary = flow.SummaryOf(function);
            foreach (var call in summary.Calls)
            {
                if (!_callers.TryGetValue(call.Target, out var callers))
                {
                    _callers[call.Target] = callers = [];
                }

                callers.Add((function, call.Rewritten));
            }

            foreach (var happening in summary.Events.Where(e => e.Depth > 0))
            {
                _owners.TryAdd(happening, function);
            }
        }
    }

    public bool IsAny { get; }

    /// <summary>What stands in the place of what an event was found to get from the request; null where it is what was sent, or may be.</summary>
    public AbstractValue? InPlaceOf(AnalysisEvent happening, Origin origin) =>
        IsAny && origin is { Kind: OriginKind.Request, Name: not (null or Origin.AnyName) }
            ? InForce(_owners.GetValueOrDefault(happening, happening.Function), new RequestPart(origin.Part, origin.Name), [], 0) : null;

    /// <summary>Nothing that was sent under the name still does harm in a position.</summary>
    public bool MakesHarmless(AnalysisEvent happening, Taint taint, OutputContext position) =>
        InPlaceOf(happening, taint.Origin) is { } put && !FieldAccess.DeepTaints(put).Any(t => t.IsSent && (t.Safe & position) == 0);

    private AbstractValue? InForce(IrFunction function, RequestPart part, HashSet<IrFunction> open, int depth)
    {
        if (_known.TryGetValue((function, part), out var known))
        {
            return known;
        }

        if (depth > MaxCallers || !open.Add(function))
        {
            return null;
        }

        AbstractValue? joined = null;
        var isOpen = false;
        foreach (var entry in _entries[function])
        {
            Add(entry.Guards.Select(g => g.Function is { } step ? Of(_flow.SummaryOf(step).Rewrites, part) : null).FirstOrDefault(r => r is not null));
        }

        foreach (var (caller, rewritten) in _callers.GetValueOrDefault(function) ?? [])
        {
            // Who is asked for already is a circle of calls: what holds before it is what counts.
            if (!open.Contains(caller))
            {
                Add(Of(rewritten, part) ?? InForce(caller, part, open, depth + 1));
            }
        }

        open.Remove(function);
        var found = isOpen ? null : joined;
        if (open.Count == 0 || found is not null)
        {
            _known[(function, part)] = found;
        }

        return found;

        void Add(AbstractValue? put)
        {
            isOpen |= put is null;
            joined = put is null ? joined : AbstractValue.Join(joined, put);
        }
    }

    private static AbstractValue? Of(IReadOnlyDictionary<RequestPart, AbstractValue>? rewritten, RequestPart part) =>
        rewritten is null ? null
        : rewritten.TryGetValue(part, out var named) ? named
        : rewritten.TryGetValue(part with { Name = Origin.AnyName }, out var all) ? FieldAccess.Read(all, part.Name)
        : null;
}
