using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Queries;

/// <summary>
/// Functions that refuse what they are given by a test that cannot be followed: <c>raise Denied unless policy(record).public_send(query)</c>.
/// What the test asks is not known, and neither is what it lets through.
/// </summary>
public static class UnclearRefusals
{
    private const int MaxSteps = 24;

    /// <summary>The function stops where a call says so of which nothing is known, and which is made on, or of, one of its parameters.</summary>
    /// <param name="isKnown">The program, or a library that the facts know, says what a call does.</param>
    public static bool In(IrFunction function, FunctionSummary summary, Func<string, bool> isKnown)
    {
        if (function.Parameters.Count == 0)
        {
            return false;
        }

        foreach (var block in function.Blocks)
        {
            if (block is { IsReachable: true, Condition: >= 0, Successors.Count: 2 } && block.Successors.Any(s => Stops(function, s)) && IsUnclear(function, TestedValue.Of(function, block.Condition), summary, isKnown))
            {
                return true;
            }
        }

        return false;
    }

    private static bool Stops(IrFunction function, int block) =>
        function.Blocks[block] is var at && (at.NeverContinues || at.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit));

    private static bool IsUnclear(IrFunction function, int value, FunctionSummary summary, Func<string, bool> isKnown)
    {
        if (value < 0 || function.Instructions[value].Op is not (Opcode.CallMethod or Opcode.Call) || summary.Calls.Any(c => c.Instruction == value) || (function.NameAt(value) is { Length: > 0 } name && isKnown(name)))
        {
            return false;
        }

        var open = new Queue<int>([value]);
        for (var step = 0; step < MaxSteps && open.TryDequeue(out var at); step++)
        {
            var instruction = function.Instructions[at];
            switch (instruction.Op)
            {
                case Opcode.Parameter:
                    return true;
                case Opcode.CallMethod or Opcode.Call or Opcode.New:
                    Add(instruction.A);
                    foreach (var operand in function.List(instruction))
                    {
                        Add(operand.Value);
                    }

                    break;
                case Opcode.GetField or Opcode.GetItem or Opcode.Cast or Opcode.Unary:
                    Add(instruction.A);
                    break;
            }
        }

        return false;

        void Add(int operand)
        {
            if (operand >= 0)
            {
                open.Enqueue(operand);
            }
        }
    }

    /// <summary>The function hands a value that was found at one of the places to another function that refuses so.</summary>
    public static bool Judge(IrFunction function, FunctionSummary summary, Func<IrFunction, bool> refuses, Func<Text.Location, bool> isFoundAt) =>
        summary.Calls.Any(c => (uint)c.Instruction < (uint)function.Instructions.Length && function.Instructions[c.Instruction].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && refuses(c.Target)
            && function.List(function.Instructions[c.Instruction]).ToArray().Any(o => o.Value >= 0 && isFoundAt(function.LocationOf(o.Value))));
}
