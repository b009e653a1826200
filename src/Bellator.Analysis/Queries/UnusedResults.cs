using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Queries;

/// <summary>The calls of a function whose results nothing looks at: not a test, not another value, not what the function gives back.</summary>
public static class UnusedResults
{
    /// <summary>The call is given a function as its last argument, here or as what the function itself was given last: the answer goes there.</summary>
    public static bool GivesCallback(IrFunction function, int call, IdentifierClassifier words) =>
        function.List(function.Instructions[call]) is [.., { Value: >= 0 } last]
        && (function.Instructions[last.Value] is { Op: Opcode.Function } || (function.Instructions[last.Value] is { Op: Opcode.Parameter, A: var index } && index == function.Parameters.Count - 1 && function.Parameters.Count > 0 && words.IsCallbackName(function.Parameters[index].Name)));

    /// <summary>Indices of calls and of objects made, in the order of the code.</summary>
    public static IReadOnlyList<int> Of(IrFunction function)
    {
        var used = new bool[function.Instructions.Length];
        var open = new Stack<int>();
        foreach (var block in function.Blocks)
        {
            Use(block.Condition);
        }

        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (!IsOnlyForm(function.Instructions[i].Op))
            {
                UseOperands(i);
            }
        }

        // What only is another form of a value is used as far as it is used itself.
        while (open.TryPop(out var value))
        {
            if (IsOnlyForm(function.Instructions[value].Op))
            {
                UseOperands(value);
            }
        }

        List<int> unused = [];
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            if (!used[i] && function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New && i < function.BlockOf.Length && function.Blocks[function.BlockOf[i]].IsReachable)
            {
                unused.Add(i);
            }
        }

        return unused;

        void Use(int value)
        {
            if (value >= 0 && value < used.Length && !used[value])
            {
                used[value] = true;
                open.Push(value);
            }
        }

        void UseOperands(int index)
        {
            foreach (var value in function.InputsOf(index))
            {
                Use(value);
            }
        }
    }

    /// <summary>Waiting for a value, casting it, bringing ways together.</summary>
    private static bool IsOnlyForm(Opcode op) => op is Opcode.Cast or Opcode.Unary or Opcode.Phi;
}
