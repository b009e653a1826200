using Bellator.Analysis.Ir;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// What a step on the way asks for that hands the request on by calling what it was given for that: the least that any of the places asks
/// from which it does. Steps that hand their continuation to another step ask for what that one asks for.
/// </summary>
internal sealed class ContinuationGuards(AuthorizationChecks tests, ProgramAnalysis flow)
{
    private const int MaxDepth = 5;
    private readonly Dictionary<IrFunction, Requirement?> _known = [];
    private readonly HashSet<IrFunction> _asked = [];

    /// <summary>Null where the function has no continuation, or does not call it where that could be seen.</summary>
    public Requirement? Of(IrFunction step, int depth = 0)
    {
        if (_known.TryGetValue(step, out var known))
        {
            return known;
        }

        // A step that comes back to itself has nothing new to say.
        return depth > MaxDepth || !_asked.Add(step) ? null : _known[step] = Find(step, depth);
    }

    private Requirement? Find(IrFunction step, int depth)
    {
        var continuation = step.Parameters.Count - 1;
        if (continuation < 1)
        {
            return null;
        }

        var asked = new List<Requirement>();
        Collect(step, i => step.Instructions[i] is { Op: Opcode.Parameter, A: var at } && at == continuation, Requirement.Other, asked, depth);
        return asked.Count == 0 ? null
            : asked.TrueForAll(a => a == Requirement.Role) ? Requirement.Role
            : asked.TrueForAll(a => a is Requirement.Role or Requirement.SignIn) ? Requirement.SignIn
            : asked.TrueForAll(a => a == Requirement.Other) ? Requirement.Other
            : Requirement.Perhaps;
    }

    /// <summary>Adds what is asked at each place of the function, and of those written in it, from which the request goes on.</summary>
    /// <param name="isContinuation">The instruction gives the continuation.</param>
    /// <param name="before">What was asked before the function was made.</param>
    private void Collect(IrFunction function, Func<int, bool> isContinuation, Requirement before, List<Requirement> asked, int depth)
    {
        var cells = new HashSet<int>();
        var shared = GivenFunctions.SharedIn(function, flow.SummaryOf(function).Calls);
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            var instruction = function.Instructions[i];
            if (!function.Blocks[function.BlockOf[i]].IsReachable)
            {
                continue;
            }

            if (instruction.Op == Opcode.StoreCell && instruction.B >= 0 && isContinuation(instruction.B))
            {
                cells.Add(instruction.A);
            }
            else if (instruction is { Op: Opcode.Call, C: 0, A: >= 0 } && isContinuation(instruction.A))
            {
                asked.Add(AuthorizationChecks.Higher(before, tests.AskedBefore(function, function.BlockOf[i])));
            }
            else if (instruction.Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && function.List(instruction) is { Length: > 1 } given && given[^1].Value >= 0 && isContinuation(given[^1].Value))
            {
                if (shared.Contains(i))
                {
                    // A step that it was given, another one by each caller: that one is looked at where it is handed in.
                    asked.Add(AuthorizationChecks.Higher(before, tests.AskedBefore(function, function.BlockOf[i])));
                    continue;
                }

                var other = flow.SummaryOf(function).Calls.Where(c => c.Instruction == i).Select(c => Of(c.Target, depth + 1)).FirstOrDefault(r => r is not null);
                if (other is not null || function.Parameters.Count > 2)
                {
                    // What somebody else does with it may be anything, where it was not seen.
                    var here = AuthorizationChecks.Higher(before, tests.AskedBefore(function, function.BlockOf[i]));
                    var there = other ?? Requirement.Perhaps;
                    asked.Add(there is Requirement.Perhaps && here == Requirement.Other ? there : AuthorizationChecks.Higher(here, there));
                }
            }
        }

        if (cells.Count == 0 || depth > MaxDepth)
        {
            return;
        }

        foreach (var inner in function.File.Functions.Where(f => f.Outer == function))
        {
            var position = function.File.Functions.IndexOf(inner);
            var made = Array.FindIndex(function.Instructions, i => i.Op == Opcode.Function && i.A == position);
            var asks = made < 0 ? before : AuthorizationChecks.Higher(before, tests.AskedBefore(function, function.BlockOf[made]));
            Collect(inner, i => inner.Instructions[i] is { Op: Opcode.LoadCell, A: var cell } && cells.Contains(cell), asks, asked, depth + 1);
        }
    }
}
