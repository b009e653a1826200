using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>Whether a part of the request is there, as tests of it say: where it is not, nothing needs to be overwritten.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>A way that does not overwrite the part is one on which there is nothing in it: only where it is there is it overwritten.</summary>
    private bool IsIdle(RequestPart part, int block)
    {
        if (_overwrittenInLoop.Contains(part))
        {
            return true;
        }

        if (_function.Blocks[block].Dominator is not (>= 0 and var dominator) || _function.Blocks[dominator] is not { Condition: >= 0 and var test, Successors: [var yes, var no] } || Presence(test, part, 0) is not { } isThere)
        {
            return false;
        }

        var there = isThere ? yes : no;
        return _function.Blocks[block].Predecessors.Where(b => _states[b]?.Rewritten?.ContainsKey(part) ?? false).All(b => IsBehind(_function, b, there, dominator));
    }

    /// <summary>Every way to the block leads through another one; the search ends at a third, which lies before both.</summary>
    private static bool IsBehind(IrFunction function, int block, int through, int after)
    {
        for (var at = block; at >= 0 && at != after; at = function.Blocks[at].Dominator)
        {
            if (at == through)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>What a test says where it holds: true if the part is there, false if it is not; null where it is no such test.</summary>
    private bool? Presence(int test, RequestPart part, int depth)
    {
        if (test < 0 || depth > 3)
        {
            return null;
        }

        var instruction = _function.Instructions[test];
        switch (instruction.Op)
        {
            case Opcode.Unary when instruction.Text is "!" or "not":
                return !Presence(instruction.A, part, depth + 1);
            case Opcode.Cast:
                return Presence(instruction.A, part, depth + 1);
            case Opcode.Binary when instruction.Text is "!=" or "!==" or "<>" or "==" or "===" && IsNothing(instruction.B) && IsPart(Get(instruction.A), part):
                return instruction.Text is not ("==" or "===");
            case Opcode.GetItem or Opcode.GetField when IsPart(Get(test), part):
                return true;
            case Opcode.Call when Asks(_function, test) is { } isThere && AnyOperand(instruction, v => IsPart(v, part) || IsName(v, part)):
                return isThere;
            case Opcode.Call when _program.Program.FindFunction(_function.NameAt(test), _file) is { } own && AnyOperand(instruction, v => IsName(v, part)):
                // Should its code change, this has to be looked at again.
                _visit.NotePlaces(own.File);
                return Presence(own);
            default:
                return null;
        }
    }

    private bool AnyOperand(in Instruction call, Predicate<AbstractValue> holds)
    {
        foreach (var operand in _function.List(call))
        {
            if (holds(Get(operand.Value)))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>A short function that answers whether something is there, or whether it is not.</summary>
    private static bool? Presence(IrFunction function)
    {
        if (function.Instructions.Length >= MostOfQuestion)
        {
            return null;
        }

        var asked = Returned(function).Select(r => Asks(function, r.Value)).OfType<bool>().Distinct().ToList();
        return asked is [var one] ? one : AnsweredBehind(function);
    }

    /// <summary>It answers yes behind such a question and no everywhere else, or the other way round.</summary>
    private static bool? AnsweredBehind(IrFunction function)
    {
        foreach (var block in function.Blocks)
        {
            if (block is not { Condition: >= 0 and var test, Successors: [var yes, var no] } || Asks(function, test) is not { } isThere)
            {
                continue;
            }

            var answers = Returned(function).ToLookup(r => IsBehind(function, function.BlockOf[r.At], isThere ? yes : no, block.Index), r => function.Instructions[r.Value] is { Op: Opcode.Constant, Text: ("true" or "false") and var answer } ? answer : "?");
            if (answers[true].Distinct().ToList() is [not "?" and var there] && answers[false].Distinct().ToList() is [not "?" and var otherwise] && there != otherwise)
            {
                return there == "true";
            }
        }

        return null;
    }

    private static IEnumerable<(int At, int Value)> Returned(IrFunction function) =>
        Enumerable.Range(0, function.Instructions.Length).Where(i => function.Instructions[i] is { Op: Opcode.Return, A: >= 0 }).Select(i => (i, function.Instructions[i].A));

    /// <summary>What the language's own question says where it holds: true if something is there.</summary>
    private static bool? Asks(IrFunction function, int test) => function.Instructions[test] switch
    {
        { Op: Opcode.Unary, Text: "!", A: >= 0 and var negated } => !Asks(function, negated),
        { Op: Opcode.Call, A: >= 0 and var called } when function.Instructions[called] is { Op: Opcode.Global, Text: ("isset" or "empty" or "array_key_exists") and var question } => question != "empty",
        _ => null,
    };

    /// <summary>A function of more instructions does more than look whether something is there.</summary>
    private const int MostOfQuestion = 40;

    private bool IsNothing(int value) => value >= 0 && Get(value) is { Constant: "" or "null" or "undefined" or "nil" or "None" } or { Name: "undefined" };
}
