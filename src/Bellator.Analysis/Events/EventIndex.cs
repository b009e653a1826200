namespace Bellator.Analysis.Events;

/// <summary>What happens in a program, by what it is: those who read it want few kinds among many thousands.</summary>
public sealed class EventIndex
{
    private readonly Dictionary<EventKind, List<AnalysisEvent>> _byKind = [];
    private readonly Dictionary<string, List<AnalysisEvent>> _bySink = new(StringComparer.Ordinal);

    public EventIndex(IEnumerable<AnalysisEvent> events)
    {
        foreach (var happening in events)
        {
            (_byKind.TryGetValue(happening.Kind, out var kind) ? kind : _byKind[happening.Kind] = []).Add(happening);
            if (happening.Kind == EventKind.Sink)
            {
                (_bySink.TryGetValue(happening.Sink!.Kind, out var sink) ? sink : _bySink[happening.Sink.Kind] = []).Add(happening);
            }
        }
    }

    /// <summary>Those of one kind after those of another, each in the order of the program.</summary>
    public IEnumerable<AnalysisEvent> Of(params ReadOnlySpan<EventKind> kinds)
    {
        IEnumerable<AnalysisEvent>? found = null;
        foreach (var kind in kinds)
        {
            IEnumerable<AnalysisEvent> these = _byKind.GetValueOrDefault(kind) ?? [];
            found = found is null ? these : found.Concat(these);
        }

        return found ?? [];
    }

    /// <summary>Those at places of one kind, as facts name them.</summary>
    public IEnumerable<AnalysisEvent> At(string sink) => _bySink.GetValueOrDefault(sink) ?? [];
}
