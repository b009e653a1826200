using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>What signing in says where there is no such account, and where the password is wrong.</summary>
/// <param name="Missing">Texts and numbers said where there is no such account, and not in the other case.</param>
/// <param name="Wrong">Those said where the password is wrong, and not in the other case.</param>
public sealed record SignInAnswers(Location MissingAt, Location WrongAt, IReadOnlyList<string> Missing, IReadOnlyList<string> Wrong)
{
    private const int MaxDepth = 6;
    private static readonly string[] Equal = ["==", "===", "is", "eq"];
    private static readonly string[] Unequal = ["!=", "!==", "is not", "<>", "ne"];

    public bool Differ => Missing.Count > 0 || Wrong.Count > 0;

    /// <summary>The two answers of a function that asks for both; null if it does not.</summary>
    public static SignInAnswers? In(IrFunction function, IdentifierClassifier words)
    {
        if (function.DerivedCache(f => new Refusals(f.Order.Length <= 2 ? null : FindRefusals(words, f))).Blocks is not var (missing, wrong) || Said(function, missing) is not { Count: > 0 } first || Said(function, wrong) is not { Count: > 0 } second)
        {
            return null;
        }

        return new SignInAnswers(PlaceOf(function, missing), PlaceOf(function, wrong), [.. first.Except(second)], [.. second.Except(first)]);
    }

    private sealed record Refusals((int Missing, int Wrong)? Blocks);

    /// <summary>The blocks that are reached where the record was not found, and where its password was not verified.</summary>
    private static (int Missing, int Wrong)? FindRefusals(IdentifierClassifier words, IrFunction function)
    {
        foreach (var index in function.Order)
        {
            if (RefusalOf(words, function, function.Blocks[index]) is not var (records, wrong))
            {
                continue;
            }

            foreach (var other in function.Order.Where(o => o != index))
            {
                var test = function.Blocks[other];
                if (test.Condition >= 0 && test.Successors.Count >= 2 && records.Select(r => Exists(function, test.Condition, r, true, 0)).FirstOrDefault(e => e is not null) is { } exists && test.Successors[exists ? 1 : 0] is var missing && missing != wrong)
                {
                    return (missing, wrong);
                }
            }
        }

        return null;
    }

    /// <summary>The objects whose passwords a block verifies, and the block that follows where that fails: on one side of a test, or where what the call throws is caught.</summary>
    private static (IReadOnlyList<int> Records, int Wrong)? RefusalOf(IdentifierClassifier words, IrFunction function, BasicBlock block)
    {
        if (block.Successors.Count < 2)
        {
            return null;
        }

        if (block.Condition >= 0)
        {
            return Verified(words, function, block.Condition, true, 0) is var (tested, passes) ? (tested, block.Successors[passes ? 1 : 0]) : null;
        }

        // Of several handlers it is not known which of them catches it.
        foreach (var call in block.Successors.Count > 2 ? [] : block.Instructions.Where(i => function.Instructions[i] is { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic, C: > 1 }))
        {
            if (Verified(words, function, call, true, 0) is var (records, _))
            {
                return (records, block.Successors[0]);
            }
        }

        return null;
    }

    /// <summary>The objects whose passwords a call was given, the typed one's and the stored one's, and whether the condition holds where the call says yes.</summary>
    private static (IReadOnlyList<int> Records, bool Passes)? Verified(IdentifierClassifier words, IrFunction function, int value, bool holds, int depth)
    {
        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Unary or Opcode.Cast when depth < MaxDepth:
                return Verified(words, function, instruction.A, instruction is { Op: Opcode.Unary, Text: "!" or "not" } ? !holds : holds, depth + 1);
            case Opcode.CallMethod when words.VerifiesPassword(instruction.Text!) && function.List(instruction).ToArray().Any(o => IsTyped(o.Value, 0)):
                // A function of a module is given the record's hash; a method of the record has it.
                return (function.List(instruction).ToArray().Select(o => function.Instructions[o.Value]).Where(IsPasswordOf).Select(i => i.A).ToList() is { Count: > 0 } given ? given : [instruction.A], holds);
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                var records = function.List(instruction).ToArray().Select(o => function.Instructions[o.Value]).Where(IsPasswordOf).Select(i => i.A).ToList();
                return records.Count == 0 ? null : (records, holds);
            case Opcode.Binary when instruction.B >= 0 && (Equal.Contains(instruction.Text) || Unequal.Contains(instruction.Text)) && !IsNothing(function, instruction.A) && !IsNothing(function, instruction.B):
                var kept = new[] { instruction.A, instruction.B }.Select(i => function.Instructions[i]).Where(IsPasswordOf).Select(i => i.A).ToList();
                return kept.Count == 1 ? (kept, Equal.Contains(instruction.Text) ? holds : !holds) : null;
            default:
                return null;
        }

        bool IsTyped(int value, int level)
        {
            var given = function.Instructions[value];
            return level < 3 && (given.Op is Opcode.GetItem && given.B >= 0 && words.IsPassword(function.Instructions[given.B].Text)
                || words.IsPassword(function.Names.GetValueOrDefault(value)?.TrimStart('$'))
                || (given.Op is Opcode.CallMethod or Opcode.GetField && (words.IsPassword(given.Text) || (given.A >= 0 && IsTyped(given.A, level + 1)))));
        }

        bool IsPasswordOf(Instruction given) =>
            (given.Op == Opcode.GetField && words.IsPasswordColumn(given.Text))
            || (given.Op == Opcode.GetItem && given.B >= 0 && words.IsPasswordColumn(function.Instructions[given.B].Text));
    }

    /// <summary>Whether the condition holds where there is a record; null if it asks for something else.</summary>
    private static bool? Exists(IrFunction function, int value, int record, bool holds, int depth)
    {
        if (value == record)
        {
            return holds;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Opcode.Unary when depth < MaxDepth && instruction.Text is "!" or "not" => Exists(function, instruction.A, record, !holds, depth + 1),
            Opcode.Binary when IsNothing(function, instruction.B) && instruction.A == record => Equal.Contains(instruction.Text) ? !holds : Unequal.Contains(instruction.Text) ? holds : null,
            Opcode.Binary when IsNothing(function, instruction.A) && instruction.B == record => Equal.Contains(instruction.Text) ? !holds : Unequal.Contains(instruction.Text) ? holds : null,
            Opcode.CallMethod when instruction.A == record && instruction.Text is "nil?" or "blank?" or "empty?" => !holds,
            Opcode.CallMethod when instruction.A == record && instruction.Text is "present?" => holds,
            _ => null,
        };
    }

    private static bool IsNothing(IrFunction function, int value) =>
        value >= 0 && function.Instructions[value] is { Op: Opcode.Undefined } or { Op: Opcode.Constant, A: (int)LiteralKind.Null } or { Op: Opcode.Constant, A: (int)LiteralKind.Boolean, Text: "false" };

    /// <summary>The texts and numbers that a block mentions.</summary>
    private static HashSet<string> Said(IrFunction function, int block) =>
        [.. function.Blocks[block].Instructions.Select(i => function.Instructions[i]).Where(i => i.Op == Opcode.Constant && i.A is (int)LiteralKind.Text or (int)LiteralKind.Number && !string.IsNullOrEmpty(i.Text)).Select(i => i.Text!)];

    private static Location PlaceOf(IrFunction function, int block) =>
        function.Blocks[block].Instructions.Where(i => function.Instructions[i].Op != Opcode.Phi).Select(function.LocationOf).FirstOrDefault(l => l.IsKnown && l.End > l.Start, function.LocationOf(0));
}
