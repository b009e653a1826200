using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Flow;
using Bellator.Core.Syntax;

namespace Bellator.Core.Application.Surface;

/// <summary>
/// What a function asks for whose answer lets in or not: every way to a yes must lie behind a test, or the answer itself must be one.
/// </summary>
internal sealed class GuardAnswers(GuardTests tests, ProgramFlow flow)
{
    private const int MaxDepth = 6;
    private readonly Dictionary<CodeFunction, GuardAsks> _known = [];
    private readonly HashSet<CodeFunction> _asked = [];
    private readonly Words _words = flow.Words;

    /// <summary>The least that a way to a yes asks for; perhaps, where one asks and another does not; open, where it always says yes.</summary>
    public GuardAsks Of(CodeFunction function, int depth = 0)
    {
        if (_known.TryGetValue(function, out var known))
        {
            return known;
        }

        // A function that comes back to itself has nothing new to say.
        if (depth > MaxDepth || !_asked.Add(function))
        {
            return GuardAsks.Other;
        }

        return _known[function] = Find(function, depth);
    }

    private GuardAsks Find(CodeFunction function, int depth)
    {
        var asked = new List<GuardAsks>();
        var certain = true;
        foreach (var block in function.Blocks.Where(b => b.IsReachable))
        {
            foreach (var index in block.Instructions.Where(i => function.Instructions[i] is { Op: Op.Return, A: >= 0 }))
            {
                foreach (var (value, at) in Answers(function, function.Instructions[index].A, block.Index, 0))
                {
                    if (IsRefusal(function, value, at))
                    {
                        continue;
                    }

                    var asks = Asks(function, value, at, depth);
                    asked.Add(asks);
                    certain &= asks != GuardAsks.Other || function.Instructions[value] is { Op: Op.Constant };
                }
            }
        }

        return asked.Count == 0 ? GuardAsks.Other
            : asked.TrueForAll(a => a == GuardAsks.Role) ? GuardAsks.Role
            : asked.TrueForAll(a => a is GuardAsks.Role or GuardAsks.SignIn) ? GuardAsks.SignIn
            : asked.TrueForAll(a => a is GuardAsks.Other or GuardAsks.Open) ? certain && function.Order.Length == 1 ? GuardAsks.Open : GuardAsks.Other
            : GuardAsks.Perhaps;
    }

    /// <summary>The values that may be answered, each with the block that it comes from.</summary>
    private static IEnumerable<(int Value, int Block)> Answers(CodeFunction function, int value, int block, int depth)
    {
        if (function.Instructions[value] is not { Op: Op.Phi } merged || depth > MaxDepth)
        {
            return [(value, block)];
        }

        return function.List(merged).ToArray().Where(o => o.Value >= 0 && o.Value < value).SelectMany(o => Answers(function, o.Value, o.Value < function.BlockOf.Length ? function.BlockOf[o.Value] : block, depth + 1));
    }

    private GuardAsks Asks(CodeFunction function, int value, int block, int depth)
    {
        var asks = tests.AskedBy(function, value);
        foreach (var test in function.Blocks.Where(b => b.IsReachable && b is { Condition: >= 0, Successors.Count: 2 }))
        {
            // The side on which somebody is there, or is the right one.
            var passing = test.Successors[GuardTests.IsPresence(function, test.Condition) ? 0 : 1];
            if (asks != GuardAsks.Role && test.Successors[0] != test.Successors[1] && GuardTests.Dominates(function, passing, block) && IsPassedBy(function, test, passing))
            {
                asks = GuardTests.Higher(asks, Asked(function, test.Condition, depth));
            }
        }

        return asks == GuardAsks.Other ? Asked(function, value, depth) : asks;
    }

    /// <summary>What a value tells of who is asking, and where it is the answer of another function, what that asks for.</summary>
    private GuardAsks Asked(CodeFunction function, int value, int depth)
    {
        var asks = tests.AskedBy(function, value);
        var instruction = function.Instructions[value];
        if (asks != GuardAsks.Other || depth > MaxDepth)
        {
            return asks;
        }

        if (instruction.Op is Op.Unary or Op.Cast)
        {
            return Asked(function, instruction.A, depth + 1);
        }

        foreach (var edge in flow.SummaryOf(function).Calls.Where(c => c.Instruction == value))
        {
            asks = Of(edge.Target, depth + 1) is var answered and (GuardAsks.Role or GuardAsks.SignIn) ? answered : asks;
        }

        return asks;
    }

    /// <summary>Whoever comes to the block has passed the test, or there is nothing that it could be asked about: <c>if (record &amp;&amp; !mayEdit(record))</c>.</summary>
    private static bool IsPassedBy(CodeFunction function, BasicBlock test, int passing)
    {
        var given = GivenTo(function, test.Condition, 0);
        return function.Blocks[passing].Predecessors.All(p => p == test.Index || (function.Blocks[p] is { Condition: >= 0 } other && given.Contains(other.Condition)));
    }

    private static List<int> GivenTo(CodeFunction function, int value, int depth) => function.Instructions[value] switch
    {
        { Op: Op.Unary or Op.Cast, A: var inner } when depth < MaxDepth => GivenTo(function, inner, depth + 1),
        { Op: Op.Call or Op.CallMethod or Op.CallStatic } call => [.. function.List(call).ToArray().Select(o => o.Value)],
        _ => [],
    };

    /// <summary>A no: nothing, an error object, or a value that was found to be an error.</summary>
    private bool IsRefusal(CodeFunction function, int value, int block)
    {
        var instruction = function.Instructions[value];
        if (instruction.Op == Op.Undefined || instruction is { Op: Op.Constant, A: (int)LiteralKind.Null } || instruction is { Op: Op.Constant, Text: "false" or "False" or "0" or "" })
        {
            return true;
        }

        if (instruction.Op == Op.New && function.Instructions[instruction.A].Text is { } type && _words.NamesError(CodeClass.ShortOf(type)))
        {
            return true;
        }

        return function.Blocks.Any(b => b.IsReachable && b is { Condition: >= 0, Successors.Count: 2 } && TestsError(function, b.Condition, value) && GuardTests.Dominates(function, b.Successors[0], block));
    }

    private bool TestsError(CodeFunction function, int condition, int value) =>
        function.Instructions[condition] is { Op: Op.Call or Op.CallMethod or Op.CallStatic } call
        && _words.NamesError(CodeClass.ShortOf((call.Op == Op.Call ? function.Instructions[call.A].Text : call.Text) ?? ""))
        && function.List(call).ToArray().Any(o => o.Value == value);
}
