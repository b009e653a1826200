using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// What a function asks for whose answer lets in or not: every way to a yes must lie behind a test, or the answer itself must be one.
/// </summary>
internal sealed class GuardResults(AuthorizationChecks tests, ProgramAnalysis flow)
{
    private const int MaxDepth = 6;
    private readonly Dictionary<IrFunction, Requirement> _known = [];
    private readonly HashSet<IrFunction> _asked = [];
    private readonly IdentifierClassifier _words = flow.Vocabulary;

    /// <summary>The least that a way to a yes asks for; perhaps, where one asks and another does not; open, where it always says yes.</summary>
    public Requirement Of(IrFunction function, int depth = 0)
    {
        if (_known.TryGetValue(function, out var known))
        {
            return known;
        }

        // A function that comes back to itself has nothing new to say.
        if (depth > MaxDepth || !_asked.Add(function))
        {
            return Requirement.Other;
        }

        return _known[function] = Find(function, depth);
    }

    private Requirement Find(IrFunction function, int depth)
    {
        var asked = new List<Requirement>();
        var certain = true;
        foreach (var block in function.Blocks.Where(b => b.IsReachable))
        {
            foreach (var index in block.Instructions.Where(i => function.Instructions[i] is { Op: Opcode.Return, A: >= 0 }))
            {
                foreach (var (value, at) in Answers(function, function.Instructions[index].A, block.Index, 0))
                {
                    if (IsRefusal(function, value, at) || IsForMarked(function, at))
                    {
                        continue;
                    }

                    var asks = Asks(function, value, at, depth);
                    asked.Add(asks);
                    certain &= asks != Requirement.Other || function.Instructions[value] is { Op: Opcode.Constant };
                }
            }
        }

        return asked.Count == 0 ? Requirement.Other
            : asked.TrueForAll(a => a == Requirement.Role) ? Requirement.Role
            : asked.TrueForAll(a => a is Requirement.Role or Requirement.SignIn) ? Requirement.SignIn
            : asked.TrueForAll(a => a is Requirement.Other or Requirement.Open) ? certain && function.Order.Length == 1 ? Requirement.Open : Requirement.Other
            : Requirement.Perhaps;
    }

    /// <summary>The way is for handlers that are marked so: their own marks say what it means for them.</summary>
    private bool IsForMarked(IrFunction function, int block)
    {
        var readers = flow.Facts.For(Languages.Family(function.File.Source.Language)).MarkReaders;
        return readers.Count > 0 && function.Blocks.Any(test => test is { IsReachable: true, Condition: >= 0, Successors.Count: 2 } && AuthorizationChecks.IsPresence(function, test.Condition)
            && ReadsMark(function, test.Condition, readers) && AuthorizationChecks.Dominates(function, test.Successors[0], block));
    }

    internal static bool ReadsMark(IrFunction function, int value, List<string> readers) =>
        function.Instructions[value] is { Op: Opcode.CallMethod, Text: { } name } call && (readers.Contains(name) || readers.Contains($"{function.Instructions[call.A].Text}.{name}"));

    /// <summary>The values that may be answered, each with the block that it comes from.</summary>
    private static IEnumerable<(int Value, int Block)> Answers(IrFunction function, int value, int block, int depth)
    {
        if (function.Instructions[value] is not { Op: Opcode.Phi } merged || depth > MaxDepth)
        {
            return [(value, block)];
        }

        return function.List(merged).ToArray().Where(o => o.Value >= 0 && o.Value < value).SelectMany(o => Answers(function, o.Value, o.Value < function.BlockOf.Length ? function.BlockOf[o.Value] : block, depth + 1));
    }

    private Requirement Asks(IrFunction function, int value, int block, int depth)
    {
        var asks = tests.AskedBy(function, value);
        foreach (var test in function.Blocks.Where(b => b.IsReachable && b is { Condition: >= 0, Successors.Count: 2 }))
        {
            // The side on which somebody is there, or is the right one.
            var passing = test.Successors[AuthorizationChecks.IsPresence(function, test.Condition) ? 0 : 1];
            if (asks != Requirement.Role && test.Successors[0] != test.Successors[1] && AuthorizationChecks.Dominates(function, passing, block) && IsPassedBy(function, test, passing))
            {
                asks = AuthorizationChecks.Higher(asks, Asked(function, test.Condition, depth));
            }
        }

        return asks == Requirement.Other ? Asked(function, value, depth) : asks;
    }

    /// <summary>What a value tells of who is asking, and where it is the answer of another function, what that asks for.</summary>
    private Requirement Asked(IrFunction function, int value, int depth)
    {
        var asks = tests.AskedBy(function, value);
        var instruction = function.Instructions[value];
        if (asks != Requirement.Other || depth > MaxDepth)
        {
            return asks;
        }

        if (instruction.Op is Opcode.Unary or Opcode.Cast)
        {
            return Asked(function, instruction.A, depth + 1);
        }

        foreach (var edge in flow.SummaryOf(function).Calls.Where(c => c.Instruction == value))
        {
            asks = Of(edge.Target, depth + 1) is var answered and (Requirement.Role or Requirement.SignIn) ? answered : asks;
        }

        return asks;
    }

    /// <summary>Whoever comes to the block has passed the test, or there is nothing that it could be asked about: <c>if (record &amp;&amp; !mayEdit(record))</c>.</summary>
    private static bool IsPassedBy(IrFunction function, BasicBlock test, int passing)
    {
        var given = GivenTo(function, test.Condition, 0);
        return function.Blocks[passing].Predecessors.All(p => p == test.Index || (function.Blocks[p] is { Condition: >= 0 } other && given.Contains(other.Condition)));
    }

    private static List<int> GivenTo(IrFunction function, int value, int depth) => function.Instructions[value] switch
    {
        { Op: Opcode.Unary or Opcode.Cast, A: var inner } when depth < MaxDepth => GivenTo(function, inner, depth + 1),
        { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic } call => [.. function.List(call).ToArray().Select(o => o.Value)],
        _ => [],
    };

    /// <summary>A no: nothing, an error object, or a value that was found to be an error.</summary>
    private bool IsRefusal(IrFunction function, int value, int block)
    {
        var instruction = function.Instructions[value];
        if (instruction.Op == Opcode.Undefined || instruction is { Op: Opcode.Constant, A: (int)LiteralKind.Null } || instruction is { Op: Opcode.Constant, Text: "false" or "False" or "0" or "" })
        {
            return true;
        }

        if (instruction.Op == Opcode.New && function.Instructions[instruction.A].Text is { } type && _words.NamesError(IrClass.ShortOf(type)))
        {
            return true;
        }

        return function.Blocks.Any(b => b.IsReachable && b is { Condition: >= 0, Successors.Count: 2 } && TestsError(function, b.Condition, value) && AuthorizationChecks.Dominates(function, b.Successors[0], block));
    }

    private bool TestsError(IrFunction function, int condition, int value) =>
        function.Instructions[condition] is { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic } call
        && _words.NamesError(IrClass.ShortOf((call.Op == Opcode.Call ? function.Instructions[call.A].Text : call.Text) ?? ""))
        && function.List(call).ToArray().Any(o => o.Value == value);
}
