using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>The code that puts a condition of a mapped class on its queries.</summary>
/// <param name="Given">The function that is given what is to be queried, and adds to it.</param>
/// <param name="At">Where it is put on the class.</param>
/// <param name="In">The function that puts it there.</param>
public sealed record ScopeBody(IrFunction Given, Location At, IrFunction In);

/// <summary>A way through such code that adds nothing, decided by whether something is there.</summary>
/// <param name="Condition">The value that decides.</param>
/// <param name="WhereTrue">Nothing is added where it holds.</param>
public sealed record OpenScope(IrFunction Function, int Condition, bool WhereTrue);

/// <summary>Finds such code, and the ways through it that add nothing.</summary>
public static class ScopeBodies
{
    private const int MaxDepth = 6;

    public static IEnumerable<ScopeBody> Of(ProgramModel program, LibraryModels facts)
    {
        foreach (var function in program.Functions)
        {
            var models = facts.For(Languages.Family(function.File.Source.Language));
            foreach (var (call, _) in models.ScopeCalls.Count == 0 ? [] : function.NamedCalls.Where(n => models.ScopeCalls.Contains(n.Name)))
            {
                foreach (var given in GivenAt(program, models, function, call))
                {
                    yield return new ScopeBody(given, function.LocationOf(call), function);
                }
            }
        }
    }

    /// <summary>The functions that a call is given, as they are written there or as methods of what is given.</summary>
    public static IEnumerable<IrFunction> GivenAt(ProgramModel program, LanguageModels models, IrFunction function, int call) =>
        function.List(function.Instructions[call]).ToArray().Select(o => GivenBy(program, models, function, o.Value)).OfType<IrFunction>();

    private static IrFunction? GivenBy(ProgramModel program, LanguageModels models, IrFunction function, int value)
    {
        if (value < 0)
        {
            return null;
        }

        var instruction = function.Instructions[value];
        if (instruction.Op == Opcode.Function)
        {
            return function.File.Functions[instruction.A];
        }

        var made = instruction is { Op: Opcode.New, A: >= 0 and var type } ? function.Instructions[type].Text : instruction.Op is Opcode.Constant or Opcode.Global or Opcode.GetStatic ? instruction.Text : null;
        return made is { Length: > 0 } && program.FindClass(made, function.File) is { } scope ? models.ScopeMethods.Select(m => program.FindMethod(scope.Primary, m)).FirstOrDefault(m => m is not null) : null;
    }

    /// <summary>The tests of a scope of which one side comes to the end without any condition added.</summary>
    public static IEnumerable<OpenScope> OpenWays(IrFunction scope)
    {
        var adding = scope.Blocks.Where(b => b.IsReachable && b.Instructions.Any(i => Adds(scope, i))).Select(b => b.Index).ToHashSet();
        if (adding.Count == 0)
        {
            yield break;
        }

        foreach (var block in scope.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: 2 } && !adding.Contains(b.Index)))
        {
            if (EndsWithout(scope, block.Successors[0], adding) is var whereTrue && EndsWithout(scope, block.Successors[1], adding) != whereTrue)
            {
                yield return new OpenScope(scope, block.Condition, whereTrue);
            }
        }
    }

    /// <summary>The call adds to what is queried: it is made of the parameter, or of the class itself, with something given.</summary>
    internal static bool Adds(IrFunction function, int index)
    {
        if (function.Instructions[index] is not { Op: Opcode.CallMethod, C: > 0, A: >= 0 } call)
        {
            return false;
        }

        var at = call.A;
        for (var depth = 0; depth < MaxDepth && at >= 0; depth++)
        {
            switch (function.Instructions[at])
            {
                case { Op: Opcode.Parameter, A: 0 } or { Op: Opcode.This }:
                    return true;
                case { Op: Opcode.CallMethod or Opcode.GetField or Opcode.Cast, A: var of }:
                    at = of;
                    break;
                default:
                    return false;
            }
        }

        return false;
    }

    private static bool EndsWithout(IrFunction function, int start, HashSet<int> adding)
    {
        var seen = new HashSet<int>();
        var open = new Stack<int>([start]);
        while (open.TryPop(out var at))
        {
            var block = function.Blocks[at];
            if (adding.Contains(at) || !seen.Add(at) || block.NeverContinues || block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit))
            {
                continue;
            }

            if (block.Successors.Count == 0)
            {
                return true;
            }

            foreach (var next in block.Successors)
            {
                open.Push(next);
            }
        }

        return false;
    }

    /// <summary>What the test asks about is part of what a condition of the scope is held against: <c>Current.bureau ? where(bureau: Current.bureau) : all</c>.</summary>
    public static bool IsUsed(ProgramModel program, OpenScope open)
    {
        var (function, asked, _) = open;
        var text = program.Tree.TextOf(function.LocationOf(TestedValue.Of(function, asked)), 200);
        return text.Length > 2 && Enumerable.Range(0, function.Instructions.Length).Where(i => Adds(function, i))
            .Any(i => program.Tree.TextOf(function.LocationOf(i), 400).Contains(text, StringComparison.Ordinal));
    }
}
