using System.Runtime.InteropServices;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Analysis.Interpreter;

/// <summary>Keeps what happens in the function and in those it calls, each thing once.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Of what happens in called functions, one repeats this much.</summary>
    private const int MaxEvents = 300;

    /// <summary>Of what stands in the function itself: generated scripts and lists of routes go far beyond what people write.</summary>
    private const int MaxOwnEvents = 20_000;

    /// <summary>One function may declare all the routes of an application.</summary>
    private const int MaxSurfaceEvents = 3000;

    private const int MaxEventsOfPlace = 6;

    private const int MaxEventDepth = 8;

    /// <summary>What a test decides is asked near to where it stands: by the handler, a guard, a helper of theirs.</summary>
    private const int MaxDecisionDepth = 4;

    /// <summary>Calls with other arguments than those so far are looked at, up to this many of each happening; the rest is compared when it is repeated.</summary>
    private const int MaxRemembered = 12;

    private const int FewEvents = 100;

    /// <summary>Events by their place, once they are many.</summary>
    private Dictionary<Location, List<AnalysisEvent>>? _eventsAt;

    /// <summary>Repeated, repeated and plain, own, own and plain.</summary>
    private readonly int[] _eventCounts = new int[4];

    private int _droppedEvents;

    /// <summary>With what arguments a happening of a called function was repeated in this pass.</summary>
    private readonly Dictionary<AnalysisEvent, List<IReadOnlyList<AbstractValue>>> _repeated = new(ReferenceEqualityComparer.Instance);

    /// <summary>
    /// True if another call has repeated what happens in the called function with the same arguments, as far as they matter there: then
    /// this one would only say it again.
    /// </summary>
    private bool WasRepeated(AnalysisEvent open, IrFunction function, IReadOnlyList<AbstractValue> arguments)
    {
        if (!_repeated.TryGetValue(open, out var calls))
        {
            _repeated[open] = [arguments];
            return false;
        }

        var matter = open.ParametersOf(function.Id);
        foreach (var known in calls)
        {
            if (AreSame(known, arguments, matter))
            {
                return true;
            }
        }

        if (calls.Count < MaxRemembered)
        {
            calls.Add(arguments);
        }

        return false;
    }

    private static bool AreSame(IReadOnlyList<AbstractValue> known, IReadOnlyList<AbstractValue> arguments, ulong matter)
    {
        for (var i = 0; i < Math.Max(known.Count, arguments.Count); i++)
        {
            if ((matter & AnalysisEvent.ParameterMark(i)) != 0 && (i >= known.Count || i >= arguments.Count || !known[i].SameAs(arguments[i])))
            {
                return false;
            }
        }

        return true;
    }

    private void AddEvent(AnalysisEvent added)
    {
        // One place reached in many ways: a few of them tell the whole story. What a library does in one call is no such way.
        var same = 0;
        foreach (var known in EventsAround(added.At))
        {
            if (known.At == added.At && (known.SameAs(added) || (known.IsPlain == added.IsPlain && added.Kind != EventKind.Act && ++same >= MaxEventsOfPlace)))
            {
                return;
            }
        }

        // What only tells of the program must not take the room of what could be a finding, nor what is called that of what stands here.
        var limit = added.Depth == 0 ? MaxOwnEvents : added.Kind >= EventKind.Route ? MaxSurfaceEvents : MaxEvents;
        ref var count = ref _eventCounts[(added.IsPlain ? 1 : 0) + (added.Depth == 0 ? 2 : 0)];
        if (count >= limit)
        {
            _droppedEvents++;
            return;
        }

        count++;
        _events.Add(added);
        if (_eventsAt is not null)
        {
            Index(added);
        }
    }

    /// <summary>The events among which those at a place are: all of them while they are few, which nearly always is so.</summary>
    private List<AnalysisEvent> EventsAround(Location at)
    {
        if (_events.Count <= FewEvents)
        {
            return _events;
        }

        if (_eventsAt is null)
        {
            _eventsAt = [];
            _events.ForEach(Index);
        }

        return _eventsAt.GetValueOrDefault(at) ?? [];
    }

    private void Index(AnalysisEvent added)
    {
        ref var here = ref CollectionsMarshal.GetValueRefOrAddDefault(_eventsAt!, added.At, out _);
        (here ??= []).Add(added);
    }

    private void ForgetEvents()
    {
        _events.Clear();
        _eventsAt = null;
        _droppedEvents = 0;
        Array.Clear(_eventCounts);
    }
}
