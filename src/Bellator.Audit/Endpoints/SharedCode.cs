using System.Collections.Concurrent;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// What happens at most addresses of an application, such as finding out who is there. It says nothing of any one address, and would
/// make all of them look alike.
/// </summary>
public sealed class SharedCode
{
    /// <summary>Fewer than this are too few to tell what they have in common.</summary>
    private const int Few = 12;

    /// <summary>So many pages that include the same file, and at least a third of all, have in common what that file does.</summary>
    private const int FewPages = 4;

    /// <summary>In programs of more pages, what they have in common is told by how many handlers come to it.</summary>
    private const int ManyPages = 40;

    /// <summary>What fewer functions than this call is a matter of theirs.</summary>
    private const int FewCallers = 4;

    private readonly CallReachability _reach;
    private readonly HashSet<IrFunction> _gates;
    private readonly HashSet<IrFunction> _included;
    private readonly ConcurrentDictionary<IrFunction, IReadOnlyList<IrFunction>> _own = [];

    public SharedCode(CallReachability reach, ProgramAnalysis flow, IReadOnlyList<EntryPoint> entries)
    {
        _reach = reach;
        var handlers = entries.Where(e => e.Handler is not null).GroupBy(e => e.Handler!)
            .Select(g => (Handler: g.Key, Guards: g.SelectMany(e => e.Guards).Select(w => w.Function).OfType<IrFunction>().Distinct().ToArray())).ToList();
        var many = Math.Max(Few, handlers.Count / 3);
        var bound = flow.Program.FunctionBound;
        Guards = OfMany(handlers.Select(h => h.Guards), many, bound);
        _included = OfPages([.. handlers.Select(h => h.Handler).Where(h => h.IsTopLevel)], flow.Program);
        if (handlers.Count <= many)
        {
            _gates = [.. _included];
            return;
        }

        var common = OfMany(handlers.Select(h => h.Guards.Append(h.Handler).SelectMany(reach.From)), many, bound);
        common.ExceptWith(handlers.Select(h => h.Handler));

        // Most handlers come to the common code through a few functions that much of the other code calls. What else they share is a
        // matter of the one that calls it.
        var callers = handlers.SelectMany(h => reach.From(h.Handler)).Distinct().Where(f => !common.Contains(f));
        _gates = common.Count == 0 ? [] : OfMany(callers.Select(f => CalledByName(f, flow, common)), Math.Max(FewCallers, handlers.Count / 12), bound);
        _gates.UnionWith(_included);
    }

    /// <summary>
    /// Files that many pages include, at once or through another of these, for what they set up: the connection, the session, who is there.
    /// What their own lines do is on the way of every page; a function of theirs that a page calls is the page's own.
    /// </summary>
    private static HashSet<IrFunction> OfPages(IReadOnlyList<IrFunction> pages, ProgramModel program)
    {
        if (pages.Count > ManyPages)
        {
            return [];
        }

        var counts = pages.SelectMany(p => IncludedBy(p, program)).CountBy(f => f).ToList();
        return [.. counts.Where(c => c.Value >= FewPages && c.Value * 3 >= pages.Count).Select(c => c.Key).Except(pages)];
    }

    private static HashSet<IrFunction> IncludedBy(IrFunction page, ProgramModel program)
    {
        var found = new HashSet<IrFunction>();
        var open = new Stack<IrFunction>([page]);
        while (open.TryPop(out var at))
        {
            foreach (var i in at.OutgoingCalls)
            {
                if (at.Instructions[i].Op == Opcode.Include && program.Modules.IncludeTarget(at.File, at, at.Instructions[i].A) is >= 0 and var file && program.Files[file].Functions[0] is var included && found.Add(included))
                {
                    open.Push(included);
                }
            }
        }

        return found;
    }

    /// <summary>What runs on the way to a page because of the files that it has in common with others, and that it does not come to by itself.</summary>
    public IEnumerable<IrFunction> OnTheWay(IrFunction page) =>
        !page.IsTopLevel || _included.Count == 0 ? [] : _reach.From(page).Except(OwnReach(page));

    /// <summary>Finds what a handler comes to, so that it is known when it is asked for; for several handlers at once.</summary>
    internal void Precompute(IrFunction? handler)
    {
        if (handler is not null)
        {
            OwnReach(handler);
        }
    }

    /// <summary>Functions that stand on the way to more than a third of the handlers.</summary>
    public IReadOnlySet<IrFunction> Guards { get; }

    /// <summary>All that is come to on most ways.</summary>
    public IEnumerable<IrFunction> Everywhere => _gates.Concat(Guards).SelectMany(_reach.From).Distinct();

    /// <summary>The function and what it comes to, but for what is common.</summary>
    public IReadOnlyList<IrFunction> OwnReach(IrFunction function) =>
        _gates.Count == 0 ? _reach.From(function) : _own.GetOrAdd(function, f => _reach.Beyond(f, _gates));

    /// <summary>Those that a function calls by name; not what runs because a record is written, say.</summary>
    private static IEnumerable<IrFunction> CalledByName(IrFunction function, ProgramAnalysis flow, HashSet<IrFunction> among) =>
        flow.SummaryOf(function).Calls.Where(c => among.Contains(c.Target) && function.NameAt(c.Instruction) == c.Target.Name).Select(c => c.Target);

    /// <summary>The functions that are in more than so many of the groups.</summary>
    private static HashSet<IrFunction> OfMany(IEnumerable<IEnumerable<IrFunction>> groups, int many, int bound)
    {
        var counts = new (int Count, int Last)[bound];
        var found = new HashSet<IrFunction>();
        var number = 0;
        foreach (var group in groups)
        {
            number++;
            foreach (var function in group)
            {
                ref var known = ref counts[function.Id];
                if (known.Last != number)
                {
                    known = (known.Count + 1, number);
                    if (known.Count == many + 1)
                    {
                        found.Add(function);
                    }
                }
            }
        }

        return found;
    }
}
