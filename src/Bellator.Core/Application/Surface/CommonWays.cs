using System.Collections.Concurrent;
using Bellator.Core.Code;
using Bellator.Core.Flow;

namespace Bellator.Core.Application.Surface;

/// <summary>
/// What happens at most addresses of an application, such as finding out who is there. It says nothing of any one address, and would
/// make all of them look alike.
/// </summary>
public sealed class CommonWays
{
    /// <summary>Fewer than this are too few to tell what they have in common.</summary>
    private const int Few = 12;

    /// <summary>What fewer functions than this call is a matter of theirs.</summary>
    private const int FewCallers = 4;

    private readonly Reach _reach;
    private readonly HashSet<CodeFunction> _gates;
    private readonly ConcurrentDictionary<CodeFunction, IReadOnlyList<CodeFunction>> _own = [];

    public CommonWays(Reach reach, ProgramFlow flow, IReadOnlyList<EntryPoint> entries)
    {
        _reach = reach;
        var handlers = entries.Where(e => e.Handler is not null).GroupBy(e => e.Handler!).ToList();
        var many = Math.Max(Few, handlers.Count / 3);
        var common = OfMany(handlers.SelectMany(h => h.SelectMany(e => e.Guards).Select(g => g.Function).OfType<CodeFunction>().Append(h.Key).Distinct().SelectMany(reach.From).Distinct()), many);
        common.ExceptWith(handlers.Select(h => h.Key));
        Guards = OfMany(handlers.SelectMany(h => h.SelectMany(e => e.Guards).Select(g => g.Function).OfType<CodeFunction>().Distinct()), many);

        // Most handlers come to the common code through a few functions that much of the other code calls. What else they share is a
        // matter of the one that calls it.
        _gates = common.Count == 0 ? [] : OfMany(handlers.SelectMany(h => reach.From(h.Key)).Distinct().Where(f => !common.Contains(f)).SelectMany(f => CalledByName(f, flow).Where(common.Contains)), Math.Max(FewCallers, handlers.Count / 12));
    }

    /// <summary>Functions that stand on the way to more than a third of the handlers.</summary>
    public IReadOnlySet<CodeFunction> Guards { get; }

    /// <summary>All that is come to on most ways.</summary>
    public IEnumerable<CodeFunction> Everywhere => _gates.Concat(Guards).SelectMany(_reach.From).Distinct();

    /// <summary>The function and what it comes to, but for what is common.</summary>
    public IReadOnlyList<CodeFunction> OwnReach(CodeFunction function) =>
        _gates.Count == 0 ? _reach.From(function) : _own.GetOrAdd(function, f => _reach.Beyond(f, _gates));

    /// <summary>What a function calls by name; not what runs because a record is written, say.</summary>
    private static IEnumerable<CodeFunction> CalledByName(CodeFunction function, ProgramFlow flow)
    {
        var names = function.NamedCalls.ToDictionary(c => c.Instruction, c => c.Name);
        return flow.SummaryOf(function).Calls.Where(c => names.GetValueOrDefault(c.Instruction) == c.Target.Name).Select(c => c.Target).Distinct();
    }

    private static HashSet<CodeFunction> OfMany(IEnumerable<CodeFunction> functions, int many) =>
        [.. functions.GroupBy(f => f).Where(g => g.Skip(many).Any()).Select(g => g.Key)];
}
