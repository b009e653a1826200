using Bellator.Core.Code;
using Bellator.Core.Sources;
using Bellator.Core.Syntax;

namespace Bellator.Core.Checks.Sessions;

/// <summary>Signing in answers otherwise where there is no such account than where the password is wrong.</summary>
public sealed class AccountEnumeration : Check
{
    private const int MaxDepth = 6;
    private static readonly string[] Equal = ["==", "===", "is", "eq"];
    private static readonly string[] Unequal = ["!=", "!==", "is not", "<>", "ne"];

    public override string Id => "sessions/account-enumeration";

    public override string Title => "Sign-in tells which accounts exist";

    public override IReadOnlyList<int> Cwes => [204];

    public override IReadOnlyList<string> Asvs => ["V6.3.8"];

    public override string Vector => "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:L/I:N/A:N";

    public override string Why => "Whoever tries names learns which of them have an account: a list to guess passwords for, to send forged mail to, and in some services a secret by itself.";

    public override string FalseAlarm => "The names of all accounts are public anyway, or the two answers are made the same further on.";

    public override string Mend(string language) => "Give one answer for both, with the same status, text and way back; verify against a made-up hash where there is no such account, so that the time is the same too.";

    public override IEnumerable<Finding> Run(CheckContext context)
    {
        foreach (var function in context.Program.Functions.Where(f => f.Order.Length > 2))
        {
            if (Refusals(context, function) is var (missing, wrong) && IsSignIn(context, function) && Said(function, missing) is { Count: > 0 } first && Said(function, wrong) is { Count: > 0 } second && !first.SetEquals(second))
            {
                var at = PlaceOf(function, missing);
                yield return new Finding
                {
                    Check = this,
                    At = at,
                    Certainty = Certainty.Matched,
                    Message = $"Where there is no such account the answer is {Quote(first.Except(second))}, where the password is wrong {Quote(second.Except(first))}.",
                    Steps = [new FindingStep(Flow.StepKind.Checked, at, "no such account"), new FindingStep(Flow.StepKind.Checked, PlaceOf(function, wrong), "wrong password")],
                    Related = [PlaceOf(function, wrong)],
                };
            }
        }
    }

    /// <summary>The blocks that are reached where the record was not found, and where its password was not verified.</summary>
    private static (int Missing, int Wrong)? Refusals(CheckContext context, CodeFunction function)
    {
        foreach (var index in function.Order)
        {
            var block = function.Blocks[index];
            if (block.Condition < 0 || block.Successors.Count < 2 || Verified(context, function, block.Condition, true, 0) is not var (records, passes))
            {
                continue;
            }

            var wrong = block.Successors[passes ? 1 : 0];
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

    /// <summary>The objects whose passwords a call was given, the typed one's and the stored one's, and whether the condition holds where the call says yes.</summary>
    private static (IReadOnlyList<int> Records, bool Passes)? Verified(CheckContext context, CodeFunction function, int value, bool holds, int depth)
    {
        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Op.Unary or Op.Cast when depth < MaxDepth:
                return Verified(context, function, instruction.A, instruction is { Op: Op.Unary, Text: "!" or "not" } ? !holds : holds, depth + 1);
            case Op.Call or Op.CallMethod or Op.CallStatic:
                var records = function.List(instruction).ToArray().Select(o => function.Instructions[o.Value]).Where(IsPasswordOf).Select(i => i.A).ToList();
                return records.Count == 0 ? null : (records, holds);
            default:
                return null;
        }

        bool IsPasswordOf(Instruction given) =>
            (given.Op == Op.GetField && context.Words.IsPasswordColumn(given.Text))
            || (given.Op == Op.GetItem && given.B >= 0 && context.Words.IsPasswordColumn(function.Instructions[given.B].Text));
    }

    /// <summary>Whether the condition holds where there is a record; null if it asks for something else.</summary>
    private static bool? Exists(CodeFunction function, int value, int record, bool holds, int depth)
    {
        if (value == record)
        {
            return holds;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Op.Unary when depth < MaxDepth && instruction.Text is "!" or "not" => Exists(function, instruction.A, record, !holds, depth + 1),
            Op.Binary when IsNothing(function, instruction.B) && instruction.A == record => Equal.Contains(instruction.Text) ? !holds : Unequal.Contains(instruction.Text) ? holds : null,
            Op.Binary when IsNothing(function, instruction.A) && instruction.B == record => Equal.Contains(instruction.Text) ? !holds : Unequal.Contains(instruction.Text) ? holds : null,
            _ => null,
        };
    }

    private static bool IsNothing(CodeFunction function, int value) =>
        value >= 0 && function.Instructions[value] is { Op: Op.Undefined } or { Op: Op.Constant, A: (int)LiteralKind.Null } or { Op: Op.Constant, A: (int)LiteralKind.Boolean, Text: "false" };

    /// <summary>The texts and numbers that a block mentions.</summary>
    private static HashSet<string> Said(CodeFunction function, int block) =>
        [.. function.Blocks[block].Instructions.Select(i => function.Instructions[i]).Where(i => i.Op == Op.Constant && i.A is (int)LiteralKind.Text or (int)LiteralKind.Number && !string.IsNullOrEmpty(i.Text)).Select(i => i.Text!)];

    private static Location PlaceOf(CodeFunction function, int block) =>
        function.Blocks[block].Instructions.Where(i => function.Instructions[i].Op != Op.Phi).Select(function.LocationOf).FirstOrDefault(l => l.IsKnown && l.End > l.Start, function.LocationOf(0));

    /// <summary>The function, its file or the route it is given to is named for signing in.</summary>
    private static bool IsSignIn(CheckContext context, CodeFunction function)
    {
        if (context.Words.IsSignIn(function.Name) || context.Words.IsSignIn(function.File.Source.Path[(function.File.Source.Path.LastIndexOf('/') + 1)..]))
        {
            return true;
        }

        // A handler without a name stands beside its route.
        if (function.Outer is not { } outer)
        {
            return false;
        }

        var position = function.File.Functions.IndexOf(function);
        foreach (var call in outer.Instructions.Where(i => i.Op is Op.Call or Op.CallMethod))
        {
            var operands = outer.List(call).ToArray();
            if (operands.Any(o => outer.Instructions[o.Value] is { Op: Op.Function } handler && handler.A == position)
                && operands.Any(o => outer.Instructions[o.Value] is { Op: Op.Constant, Text: { } route } && context.Words.IsSignIn(route)))
            {
                return true;
            }
        }

        return false;
    }

    private static string Quote(IEnumerable<string> said) => string.Join(" and ", said.Take(2).Select(s => $"“{(s.Length > 60 ? s[..60] + "…" : s)}”")) is { Length: > 0 } text ? text : "another one";
}
