using Bellator.Analysis.Ir;
using Bellator.Analysis.Scheduling;

namespace Bellator.Analysis.Queries;

/// <summary>Which functions keep what they are given, so that it can be called later: in a member, a table, a list.</summary>
public sealed class StoredArguments(ProgramAnalysis flow)
{
    /// <summary>Functions that hand on what they get to others; further ones are not followed.</summary>
    private const int MaxDepth = 3;

    private static readonly string[] Appends = ["push", "append", "Add", "add", "<<", "unshift", "set", "put", "TryAdd", "array_push", "insert"];

    private readonly Dictionary<IrFunction, bool> _known = [];

    /// <summary>The function keeps one of its parameters, or something that it makes of one.</summary>
    public bool KeepsOne(IrFunction function) => KeepsOne(function, 0);

    private bool KeepsOne(IrFunction function, int depth)
    {
        if (!_known.TryGetValue(function, out var keeps))
        {
            _known[function] = false;
            _known[function] = keeps = Finds(function, depth);
        }

        return keeps;
    }

    private bool Finds(IrFunction function, int depth)
    {
        var given = new HashSet<int>();
        var edges = flow.SummaryOf(function).Calls.ToLookup(c => c.Instruction, c => c.Target);
        foreach (var i in function.Blocks.Where(b => b.IsReachable).SelectMany(b => b.Instructions))
        {
            var instruction = function.Instructions[i];
            switch (instruction.Op)
            {
                case Opcode.Parameter:
                    given.Add(i);
                    break;
                case Opcode.List or Opcode.Object or Opcode.Phi or Opcode.Cast or Opcode.New or Opcode.Element:
                    if (function.InputsOf(i).Any(given.Contains))
                    {
                        given.Add(i);
                    }

                    break;
                case Opcode.SetField or Opcode.WithField or Opcode.SetStatic when given.Contains(instruction.B):
                case Opcode.SetItem or Opcode.WithItem when given.Contains(instruction.C) && !given.Contains(instruction.A):
                case Opcode.StoreCell or Opcode.StoreShared when given.Contains(instruction.B) && !IsOwn(function, instruction):
                    return true;
                case Opcode.Binary when instruction.Text == "<<" && given.Contains(instruction.B):
                    return true;
                case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic when function.List(instruction).ToArray().Any(o => given.Contains(o.Value)):
                    var name = instruction.Op == Opcode.Call ? function.Instructions[instruction.A].Text : instruction.Text;
                    if ((edges[i].Any() ? depth < MaxDepth && edges[i].Any(t => KeepsOne(t, depth + 1)) : Appends.Contains(name) && !given.Contains(instruction.A)))
                    {
                        return true;
                    }

                    break;
            }
        }

        return false;
    }

    /// <summary>The variable is one of the function's own, which an inner function reads: nothing is kept by that.</summary>
    private static bool IsOwn(IrFunction function, Instruction store) =>
        store.Op == Opcode.StoreCell && function.Parameters.Count > 0 && function.Instructions[store.B].Op == Opcode.Parameter;

    /// <summary>Calls of something that was looked up and has no name there: whoever answers is called so.</summary>
    public static IEnumerable<int> CallsOfKept(IrFunction function) => function.OutgoingCalls.Where(i => function.Instructions[i] switch
    {
        { Op: Opcode.Call, A: >= 0 and var called } => function.Instructions[called].Op is Opcode.GetItem or Opcode.Element or Opcode.Phi or Opcode.GetField or Opcode.LoadCell or Opcode.New or Opcode.Cast || function.Instructions[called].Text is "call_user_func" or "call_user_func_array",
        { Op: Opcode.CallMethod, Text: "call" or "apply" or "Invoke" or "invoke" or "handle" or "handler" or "send" or "public_send" } => true,
        { Op: Opcode.CallMethod, A: >= 0 and var of } => function.Instructions[of].Op is Opcode.Element or Opcode.GetItem or Opcode.New,
        _ => false,
    });
}
