using System.Collections.Concurrent;
using Bellator.Core.Application.Accounts;
using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Flow;
using Bellator.Core.Programs;
using Bellator.Core.Sources;

namespace Bellator.Core.Application.Surface;

/// <summary>A test in code that turns away who is not signed in, or has not the role.</summary>
/// <param name="Block">The block that ends with the test; all that it dominates lies behind it.</param>
/// <param name="Ends">Who is turned away does not come back to the caller: the program or request ends, or an error is thrown.</param>
/// <param name="Halts">Who is turned away gets another answer, after which only a framework stops: true of filters, not of handlers.</param>
public sealed record GuardTest(int Block, GuardAsks Asks, bool Ends, Location At, string Text, bool Halts = false);

/// <summary>Finds tests on the way that look at who is asking, by what they read and what becomes of the others.</summary>
public sealed class GuardTests(ProgramCode program, ProgramFlow flow, AccountTables accounts)
{
    private const int MaxDepth = 7;
    private const int SmallFunction = 60;
    private readonly Dictionary<CodeFunction, IReadOnlyList<GuardTest>> _tests = [];
    private readonly ConcurrentDictionary<CodeFunction, GuardTest[]> _own = [];
    private readonly HashSet<CodeFunction> _asked = [];
    private readonly Words _words = flow.Words;

    /// <summary>Tests of the function itself, and calls of functions that end where a test fails.</summary>
    public IReadOnlyList<GuardTest> In(CodeFunction function)
    {
        if (_tests.TryGetValue(function, out var known))
        {
            return known;
        }

        // A function that comes back to itself has nothing new to say.
        if (!_asked.Add(function))
        {
            return [];
        }

        return _tests[function] = [.. OwnOf(function), .. ByCalls(function), .. ByIncludes(function)];
    }

    /// <summary>Looks for the tests that stand in the function itself, so that they are known when they are asked for; for several functions at once.</summary>
    internal void Digest(CodeFunction function) => OwnOf(function);

    private GuardTest[] OwnOf(CodeFunction function) => _own.GetOrAdd(function, f => [.. Own(f)]);

    private IEnumerable<GuardTest> Own(CodeFunction function)
    {
        foreach (var block in function.Blocks)
        {
            if (!block.IsReachable || block.Condition < 0 || block.Successors.Count != 2)
            {
                continue;
            }

            var asks = Asks(function, block.Condition, 0);
            if (asks == GuardAsks.Other)
            {
                continue;
            }

            if (asks == GuardAsks.SignIn && (program.Tree.TextOf(function.LocationOf(block.Condition), 200) is var text && (_words.TellsOfForgery(text) || Words.Parts(text).Contains("token"))))
            {
                asks = GuardAsks.Forgery;
            }

            // Whoever is not there, or is not the right one, is on the side where the condition says so.
            var side = IsPresence(function, block.Condition, 0) ? 1 : 0;
            if (TurnsAway(function, block.Successors[side], block.Successors[1 - side], out var ends, out var halts))
            {
                var at = function.LocationOf(block.Condition);
                yield return new GuardTest(block.Index, asks, ends, at, program.Tree.TextOf(at), halts);
            }
        }
    }

    private IEnumerable<GuardTest> ByCalls(CodeFunction function)
    {
        foreach (var edge in flow.SummaryOf(function).Calls)
        {
            if (edge.Instruction < function.BlockOf.Length && _words.DemandsPerson(edge.Target.Name) && edge.Target.Blocks.Any(b => b.IsReachable && (b.EndsHere || Stops(edge.Target, b))))
            {
                var at = function.LocationOf(edge.Instruction);
                yield return new GuardTest(function.BlockOf[edge.Instruction], GuardAsks.SignIn, true, at, program.Tree.TextOf(at));
            }
            else if (edge.Instruction < function.BlockOf.Length && In(edge.Target).Where(t => t.Ends && IsOnEveryWay(edge.Target, t)).OrderByDescending(t => t.Asks == GuardAsks.Role).FirstOrDefault() is { } test
                && function.Instructions[edge.Instruction].Op is Op.Call or Op.CallMethod or Op.CallStatic)
            {
                var at = function.LocationOf(edge.Instruction);
                yield return new GuardTest(function.BlockOf[edge.Instruction], test.Asks, true, at, program.Tree.TextOf(at));
            }
        }
    }

    /// <summary>A file that is included, and ends the program for those who are not signed in.</summary>
    private IEnumerable<GuardTest> ByIncludes(CodeFunction function)
    {
        foreach (var i in function.Leads)
        {
            if (function.Instructions[i].Op == Op.Include && program.Modules.IncludeTarget(function.File, function, function.Instructions[i].A) is >= 0 and var file)
            {
                var included = program.Files[file].Functions[0];
                if (In(included).Where(t => t.Ends && IsOnEveryWay(included, t)).OrderByDescending(t => t.Asks == GuardAsks.Role).FirstOrDefault() is { } test)
                {
                    var at = function.LocationOf(i);
                    yield return new GuardTest(function.BlockOf[i], test.Asks, true, at, program.Tree.TextOf(at));
                }
            }
        }
    }

    /// <summary>Whoever comes to the end of the function has passed the test.</summary>
    public static bool IsOnEveryWay(CodeFunction function, GuardTest test) =>
        function.Blocks.Where(b => b.IsReachable && b.Successors.Count == 0 && !b.EndsHere && !Stops(function, b)).All(b => Dominates(function, test.Block, b.Index));

    private static bool Stops(CodeFunction function, BasicBlock block) => block.Instructions.Any(i => function.Instructions[i].Op is Op.Throw or Op.Exit);

    public static bool Dominates(CodeFunction function, int dominator, int block)
    {
        for (var at = block; at >= 0; at = function.Blocks[at].Dominator)
        {
            if (at == dominator)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>The condition holds where somebody is there, or is the right one; otherwise it holds where not.</summary>
    internal static bool IsPresence(CodeFunction function, int value, int depth = 0)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return true;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Op.Unary when instruction.Text is "!" or "not":
                return !IsPresence(function, instruction.A, depth + 1);
            case Op.Binary when instruction.Text is "==" or "===" or "is" or "eq":
                return !(IsNothing(function, instruction.A) || IsNothing(function, instruction.B));
            case Op.Binary when instruction.Text is "!=" or "!==" or "<>" or "is not":
                return IsNothing(function, instruction.A) || IsNothing(function, instruction.B);
            case Op.Binary when instruction.Text is "not in":
                return false;
            case Op.Call:
                return function.Instructions[instruction.A].Text is not ("empty" or "is_null");
            case Op.CallMethod:
                return instruction.Text is not ("nil?" or "blank?" or "empty?" or "isEmpty" or "IsNullOrEmpty" or "IsNullOrWhiteSpace" or "guest");
            case Op.CallStatic:
                return instruction.Text is not ("guest" or "IsNullOrEmpty" or "IsNullOrWhiteSpace");
            default:
                return true;
        }
    }

    private static bool IsNothing(CodeFunction function, int value) =>
        value >= 0 && (function.Instructions[value].Op == Op.Undefined || (function.Instructions[value] is { Op: Op.Constant } constant && ((Syntax.LiteralKind)constant.A == Syntax.LiteralKind.Null || constant.Text is "" or "0" or "false" or "False" or "null" or "undefined")));

    /// <summary>From the block all ways soon end, while the other side goes on.</summary>
    private bool TurnsAway(CodeFunction function, int start, int other, out bool ends, out bool halts)
    {
        ends = false;
        halts = false;
        var at = start;
        var calls = false;
        for (var steps = 0; steps < 4; steps++)
        {
            var block = function.Blocks[at];
            if (at == other || (at != start && !Dominates(function, start, at)))
            {
                // Both sides go on here.
                return halts;
            }

            calls |= block.Instructions.Any(i => function.Instructions[i].Op is Op.Call or Op.CallMethod or Op.CallStatic or Op.New);
            halts |= block.Instructions.Any(i => function.Instructions[i] is { Op: Op.Call or Op.CallMethod } call && _words.HaltsChain((call.Op == Op.Call ? function.Instructions[call.A].Text : call.Text) ?? ""));
            if (block.EndsHere || Stops(function, block))
            {
                ends = true;
                halts = false;
                return true;
            }

            if (block.Successors.Count == 0)
            {
                halts = false;
                return calls && block.Instructions.Any(i => function.Instructions[i].Op == Op.Return);
            }

            if (block.Successors.Count > 1)
            {
                return false;
            }

            at = block.Successors[0];
        }

        return false;
    }

    /// <summary>What a value tells of who is asking, by the names it is read under.</summary>
    private GuardAsks Asks(CodeFunction function, int value, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return GuardAsks.Other;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Op.Unary or Op.Cast:
                return Asks(function, instruction.A, depth + 1);
            case Op.Binary:
                return Higher(Asks(function, instruction.A, depth + 1), Asks(function, instruction.B, depth + 1));
            case Op.Phi:
                return function.List(instruction).ToArray().Where(o => o.Value < value).Select(o => Asks(function, o.Value, depth + 1)).Aggregate(GuardAsks.Other, Higher);
            case Op.GetField or Op.GetStatic:
                return IsRequestData(function, instruction.A) ? GuardAsks.Other : OfPart(instruction.Text!, Asks(function, instruction.A, depth + 1));
            case Op.GetItem:
                var key = instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Op.Constant, Text: { } text } ? text : "";
                return IsRequestData(function, instruction.A) ? GuardAsks.Other : OfPart(key, Asks(function, instruction.A, depth + 1));
            case Op.Global or Op.LoadShared or Op.Parameter or Op.LoadCell or Op.Import:
                return IsRequestData(function, value) ? GuardAsks.Other : OfName(instruction.Text ?? function.Names.GetValueOrDefault(value) ?? "");
            case Op.Call or Op.CallMethod or Op.CallStatic:
                return OfCall(function, value, instruction, depth);
            default:
                return GuardAsks.Other;
        }
    }

    private GuardAsks OfCall(CodeFunction function, int value, Instruction call, int depth)
    {
        var name = call.Op == Op.Call ? function.Instructions[call.A].Text ?? "" : call.Text ?? "";
        foreach (var operand in function.List(call))
        {
            if (!_words.TellsOfOwnRole(CodeClass.ShortOf(name)) && BringsRequestData(function, operand.Value, 0))
            {
                // It is about what was sent, not about who sends it.
                return GuardAsks.Other;
            }
        }

        var asks = OfPart(CodeClass.ShortOf(name), call.Op == Op.Call ? GuardAsks.Other : Asks(function, call.A, depth + 1));
        if (call.C == 0 && accounts.IsPerson(name) && (call.Op == Op.Call || function.Instructions[call.A].Op == Op.This))
        {
            // What gives one of the people without being told which: the one who asks.
            asks = Higher(asks, GuardAsks.SignIn);
        }

        if (_words.TellsOfSignIn(CodeClass.ShortOf(name)))
        {
            asks = Higher(asks, GuardAsks.SignIn);
        }

        foreach (var operand in function.List(call))
        {
            asks = Higher(asks, Asks(function, operand.Value, depth + 2));
        }

        if (asks == GuardAsks.Other && depth < 3)
        {
            foreach (var edge in flow.SummaryOf(function).Calls.Where(c => c.Instruction == value && c.Target.Instructions.Length <= SmallFunction))
            {
                for (var i = 0; i < edge.Target.Instructions.Length && asks == GuardAsks.Other; i++)
                {
                    if (edge.Target.Instructions[i].Op == Op.Return)
                    {
                        asks = Asks(edge.Target, edge.Target.Instructions[i].A, depth + 3);
                    }
                }
            }
        }

        return asks;
    }

    /// <summary>What a value of the function tells of who is asking.</summary>
    internal GuardAsks AskedBy(CodeFunction function, int value) => Asks(function, value, 0);

    private GuardAsks OfPart(string name, GuardAsks whole) =>
        whole != GuardAsks.Other || _words.HoldsPerson(name) || OfName(name) != GuardAsks.Other ? _words.TellsOfRole(name) ? GuardAsks.Role : GuardAsks.SignIn : GuardAsks.Other;

    private bool BringsRequestData(CodeFunction function, int value, int depth)
    {
        if (value < 0 || depth > 4)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        return IsRequestData(function, value)
            || (instruction.Op is Op.GetField or Op.GetItem or Op.CallMethod or Op.Cast && BringsRequestData(function, instruction.A, depth + 1))
            || (instruction.Op is Op.Phi && function.List(instruction).ToArray().Any(o => o.Value < value && BringsRequestData(function, o.Value, depth + 1)))
            || (instruction.Op is Op.Binary && (BringsRequestData(function, instruction.A, depth + 1) || BringsRequestData(function, instruction.B, depth + 1)))
            || (instruction.Op is Op.Call or Op.CallStatic or Op.Object or Op.CallMethod or Op.Concat && function.List(instruction).ToArray().Any(o => BringsRequestData(function, o.Value, depth + 1)));
    }

    /// <summary>It is what the visitor sent in a form or address: a name in there tells nothing of who is asking.</summary>
    private bool IsRequestData(CodeFunction function, int value)
    {
        if (value < 0)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        var name = instruction.Op is Op.GetField or Op.Global or Op.LoadShared or Op.CallMethod or Op.Parameter ? instruction.Text ?? "" : "";
        return _words.IsRequestPart(name.TrimStart('$', '_')) || (instruction.Op is Op.GetField or Op.GetItem or Op.CallMethod && IsRequestData(function, instruction.A));
    }

    private GuardAsks OfName(string name) => accounts.IsPerson(name) && name.Contains("current", StringComparison.OrdinalIgnoreCase) ? GuardAsks.SignIn : _words.HoldsPerson(name.TrimStart('$', '_')) ? _words.TellsOfRole(name) ? GuardAsks.Role : GuardAsks.SignIn : GuardAsks.Other;

    internal static GuardAsks Higher(GuardAsks left, GuardAsks right) => left == GuardAsks.Role || right == GuardAsks.Role ? GuardAsks.Role : left == GuardAsks.SignIn || right == GuardAsks.SignIn ? GuardAsks.SignIn : GuardAsks.Other;
}
