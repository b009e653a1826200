using Bellator.Core.Code;

namespace Bellator.Core.Flow;

/// <summary>Keeps what happens in the function and in those it calls, each thing once.</summary>
internal sealed partial class FunctionFlow
{
    private const int MaxEvents = 300;

    /// <summary>One function may declare all the routes of an application.</summary>
    private const int MaxSurfaceEvents = 3000;

    private const int MaxEventsOfPlace = 6;

    private const int MaxEventDepth = 8;

    /// <summary>Calls with other arguments than those so far are looked at, up to this many of each happening; the rest is compared when it is repeated.</summary>
    private const int MaxRemembered = 12;

    /// <summary>With what arguments a happening of a called function was repeated in this pass.</summary>
    private readonly Dictionary<FlowEvent, List<IReadOnlyList<Value>>> _repeated = new(ReferenceEqualityComparer.Instance);

    /// <summary>
    /// True if another call has repeated what happens in the called function with the same arguments, as far as they matter there: then
    /// this one would only say it again.
    /// </summary>
    private bool WasRepeated(FlowEvent open, CodeFunction function, IReadOnlyList<Value> arguments)
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

    private static bool AreSame(IReadOnlyList<Value> known, IReadOnlyList<Value> arguments, ulong matter)
    {
        for (var i = 0; i < Math.Max(known.Count, arguments.Count); i++)
        {
            if ((matter & FlowEvent.ParameterMark(i)) != 0 && (i >= known.Count || i >= arguments.Count || !known[i].SameAs(arguments[i])))
            {
                return false;
            }
        }

        return true;
    }

    private void AddEvent(FlowEvent added)
    {
        // One place reached in many ways: a few of them tell the whole story. What a library does in one call is no such way.
        var same = 0;
        foreach (var known in _events)
        {
            if (known.At == added.At && (known.SameAs(added) || (known.IsPlain == added.IsPlain && added.Kind != EventKind.Act && ++same >= MaxEventsOfPlace)))
            {
                return;
            }
        }

        // What only tells of the program must not take the room of what could be a finding.
        var limit = added.Kind >= EventKind.Route ? MaxSurfaceEvents : MaxEvents;
        if ((added.IsPlain ? _plain : _events.Count - _plain) < limit)
        {
            _events.Add(added);
            _plain += added.IsPlain ? 1 : 0;
        }
    }
}
