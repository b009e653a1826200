using System.Collections.Concurrent;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>All that a function can come to: itself and what it calls, directly or not.</summary>
public sealed class CallReachability(ProgramModel program, ProgramAnalysis flow)
{
    private const int MaxFunctions = 250;
    private const int MaxDepth = 8;
    private readonly ConcurrentDictionary<IrFunction, IReadOnlyList<IrFunction>> _known = [];

    private static readonly HashSet<IrFunction> NoneClosed = [];

    /// <summary>Most addresses come to the same functions: what those come to is looked for once.</summary>
    private readonly ConcurrentDictionary<IrFunction, IrFunction[]> _next = [];

    /// <summary>The function first, then the others as they are come upon; those far away, or too many, are left out.</summary>
    public IReadOnlyList<IrFunction> From(IrFunction function) => _known.GetOrAdd(function, f => Beyond(f, NoneClosed));

    /// <summary>Something that the function comes to was left out, for being too far away or one too many.</summary>
    public bool IsCut(IrFunction function)
    {
        var known = From(function);
        return known.Count > MaxDepth && (known.Count >= MaxFunctions || known.ToHashSet() is var kept && known.Any(f => After(f).Any(n => !kept.Contains(n))));
    }

    /// <summary>In words, of so many handlers.</summary>
    public static string SayCut(int handlers) =>
        $"{handlers} {(handlers == 1 ? "handler of an address comes" : "handlers of addresses come")} to more than {MaxFunctions} functions or further than {MaxDepth} calls; what lies beyond is not counted to {(handlers == 1 ? "its address" : "their addresses")}, so accesses may be missing in the access map";

    /// <summary>What the function comes to at once.</summary>
    private IrFunction[] After(IrFunction function) => _next.GetOrAdd(function, f => [.. Next(f).Distinct()]);

    /// <summary>The function and what it comes to without going through any of those that are closed.</summary>
    public IReadOnlyList<IrFunction> Beyond(IrFunction function, IReadOnlySet<IrFunction> closed)
    {
        var found = new List<IrFunction> { function };
        var seen = new HashSet<IrFunction> { function };
        var edge = 0;
        for (var depth = 0; depth < MaxDepth && edge < found.Count && found.Count < MaxFunctions; depth++)
        {
            for (var end = found.Count; edge < end; edge++)
            {
                foreach (var next in After(found[edge]))
                {
                    if (found.Count < MaxFunctions && !closed.Contains(next) && seen.Add(next))
                    {
                        found.Add(next);
                    }
                }
            }
        }

        return found;
    }

    /// <summary>Methods that a framework calls on the form or serialiser which the function's class names.</summary>
    private IEnumerable<IrFunction> OfForm(IrFunction function)
    {
        if (function.Class is not { } type)
        {
            yield break;
        }

        // It runs before the method that answers.
        if (function.Name != "dispatch" && function.File.Source.Language == Language.Python && type.Primary.Methods.TryGetValue("dispatch", out var dispatch))
        {
            yield return dispatch;
        }

        foreach (var field in type.Primary.Fields.Where(f => flow.Vocabulary.NamesForm(f.Name)))
        {
            if (field.Value is Name named && program.FindClass(named.Text, type.File) is { } form)
            {
                for (var at = form.Primary; at is not null; at = program.BaseOf(at)?.Primary)
                {
                    foreach (var (name, method) in at.Methods.Where(m => m.Key.StartsWith("clean", StringComparison.Ordinal) || m.Key is "save" or "validate" or "create" or "update" or "get_user"))
                    {
                        yield return method;
                    }
                }
            }
        }
    }

    /// <summary>Events of all of them; those of a function that was called with something better known come from its caller.</summary>
    public IEnumerable<AnalysisEvent> Events(IrFunction function) => From(function).SelectMany(f => flow.SummaryOf(f).Events);

    private IEnumerable<IrFunction> Next(IrFunction function)
    {
        foreach (var method in OfForm(function))
        {
            yield return method;
        }

        var calls = flow.SummaryOf(function).Calls;
        var shared = GivenFunctions.SharedIn(function, calls);
        foreach (var call in calls)
        {
            // A function that was handed in by one of many callers says nothing of the way of another: it is reached from where it is written.
            if (!shared.Contains(call.Instruction))
            {
                yield return call.Target;
            }
        }

        foreach (var i in function.OutgoingCalls)
        {
            if (function.Instructions[i].Op == Opcode.Include && program.Modules.IncludeTarget(function.File, function, function.Instructions[i].A) is >= 0 and var file)
            {
                yield return program.Files[file].Functions[0];
            }
            else if (function.Instructions[i].Op == Opcode.Function && function.Instructions[i].A < function.File.Functions.Count && function.File.Functions[function.Instructions[i].A] is { Name.Length: 0 } inner && !function.IsTopLevel)
            {
                // A function without a name runs where it is written, sooner or later.
                yield return inner;
            }
        }
    }
}
