using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Queries;

/// <summary>Calls whose answer comes later, and that nobody waits for.</summary>
public static class UnawaitedCalls
{
    /// <summary>The function answers later: it waits itself, or says so by the type of what it gives.</summary>
    public static bool AnswersLater(IrFunction function, IdentifierClassifier words) =>
        function.Instructions.Any(IsWait) || (function.ReturnType is { } type && words.IsLaterType(IrClass.ShortOf(type.Name)));

    private static bool IsWait(Instruction instruction) => instruction is { Op: Opcode.Cast, Text: PassThrough.Await };

    /// <summary>The call is waited for in the function, or handed on to where it may be.</summary>
    public static bool IsAwaited(IrFunction function, int call)
    {
        foreach (var instruction in function.Instructions)
        {
            if (IsWait(instruction) && instruction.A == call)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Calls that are themselves what a test is about, not their answers.</summary>
    public static IReadOnlyList<int> TestedIn(IrFunction function)
    {
        var found = new List<int>();
        foreach (var block in function.Blocks.Where(b => b.IsReachable && b.Condition >= 0))
        {
            var at = block.Condition;
            while (function.Instructions[at] is { Op: Opcode.Unary, Text: "!" or "not", A: >= 0 and var inner })
            {
                at = inner;
            }

            if (function.Instructions[at].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && !found.Contains(at))
            {
                found.Add(at);
            }
        }

        return found;
    }

    /// <summary>Functions that are given to a call and answer later, each with the call.</summary>
    public static IEnumerable<(int Call, IrFunction Given)> GivenIn(IrFunction function, IdentifierClassifier words)
    {
        foreach (var call in function.OutgoingCalls.Where(i => function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod))
        {
            foreach (var operand in function.List(function.Instructions[call]).ToArray())
            {
                if (operand.Value >= 0 && function.Instructions[operand.Value] is { Op: Opcode.Function, A: var index } && AnswersLater(function.File.Functions[index], words))
                {
                    yield return (call, function.File.Functions[index]);
                }
            }
        }
    }
}
