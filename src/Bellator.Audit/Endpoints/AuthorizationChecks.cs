using System.Collections.Concurrent;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Tables;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>A test in code that turns away who is not signed in, or has not the role.</summary>
/// <param name="Block">The block that ends with the test; all that it dominates lies behind it.</param>
/// <param name="Ends">Who is turned away does not come back to the caller: the program or request ends, or an error is thrown.</param>
/// <param name="Halts">Who is turned away gets another answer, after which only a framework stops: true of filters, not of handlers.</param>
public sealed record GuardTest(int Block, Requirement Asks, bool Ends, Location At, string Text, bool Halts = false);

/// <summary>Finds tests on the way that look at who is asking, by what they read and what becomes of the others.</summary>
public sealed partial class AuthorizationChecks(ProgramModel program, ProgramAnalysis flow, AccountTables accounts)
{
    private const int MaxDepth = 7;
    private const int SmallFunction = 60;
    private readonly Dictionary<IrFunction, IReadOnlyList<GuardTest>> _tests = [];
    private readonly ConcurrentDictionary<IrFunction, GuardTest[]> _own = [];
    private readonly HashSet<IrFunction> _asked = [];
    private readonly IdentifierClassifier _words = flow.Vocabulary;

    /// <summary>Tests of the function itself, and calls of functions that end where a test fails.</summary>
    public IReadOnlyList<GuardTest> In(IrFunction function)
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
    internal void Precompute(IrFunction function) => OwnOf(function);

    private GuardTest[] OwnOf(IrFunction function) => _own.GetOrAdd(function, f => [.. Own(f)]);

    private IEnumerable<GuardTest> Own(IrFunction function)
    {
        foreach (var block in function.Blocks)
        {
            if (!block.IsReachable || block.Condition < 0 || block.Successors.Count != 2)
            {
                continue;
            }

            var asks = Asks(function, block.Condition, 0);
            if (asks == Requirement.Other)
            {
                continue;
            }

            if (asks == Requirement.SignIn && IsAboutForgery(function, block.Condition))
            {
                asks = Requirement.Forgery;
            }

            // Whoever is not there, or is not the right one, is on the side where the condition says so.
            var side = IsPresence(function, block.Condition, 0) ? 1 : 0;
            if (asks == Requirement.SignIn && IsRight(function, block.Condition) && Forbids(function, function.Blocks[block.Successors[side]]))
            {
                asks = Requirement.Role;
            }

            if (TurnsAway(function, block.Successors[side], block.Successors[1 - side], out var ends, out var halts))
            {
                var at = function.LocationOf(block.Condition);
                yield return new GuardTest(block.Index, asks, ends, at, program.Tree.TextOf(at), halts);
            }
        }
    }

    /// <summary>What is held against the session is the token that shows where a form came from: it says nothing of who sends it.</summary>
    internal bool IsAboutForgery(IrFunction function, int condition) =>
        (program.Tree.TextOf(function.LocationOf(condition), 200) is var text && (_words.TellsOfForgery(text) || IdentifierClassifier.Parts(text).Contains("token"))) || HoldsSessionAgainstRequest(function);

    private IEnumerable<GuardTest> ByCalls(IrFunction function)
    {
        var calls = flow.SummaryOf(function).Calls;
        var shared = GivenFunctions.SharedIn(function, calls);
        foreach (var edge in calls.Where(c => !shared.Contains(c.Instruction)))
        {
            if (edge.Instruction < function.BlockOf.Length && (GivesPersonOrStops(edge.Target) || (_words.DemandsPerson(edge.Target.Name) && edge.Target.Blocks.Any(b => b.IsReachable && (b.NeverContinues || Stops(edge.Target, b))))))
            {
                var at = function.LocationOf(edge.Instruction);
                yield return new GuardTest(function.BlockOf[edge.Instruction], Requirement.SignIn, true, at, program.Tree.TextOf(at));
            }
            else if (edge.Instruction < function.BlockOf.Length && In(edge.Target).Where(t => t.Ends && IsOnEveryWay(edge.Target, t)).OrderByDescending(t => t.Asks == Requirement.Role).FirstOrDefault() is { } test
                && function.Instructions[edge.Instruction].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic)
            {
                var at = function.LocationOf(edge.Instruction);
                yield return new GuardTest(function.BlockOf[edge.Instruction], test.Asks, true, at, program.Tree.TextOf(at));
            }
        }
    }

    /// <summary>What the function gives is found by what the person is known by, and where there is none it throws, whichever way was taken: whoever goes on has one.</summary>
    private bool GivesPersonOrStops(IrFunction function)
    {
        if (flow.SummaryOf(function).Returns is not { } given || !given.Taints.Any(t => t.Origin.Kind == OriginKind.Subject))
        {
            return false;
        }

        var returns = function.Blocks.Where(b => b.IsReachable).SelectMany(b => b.Instructions).Where(i => function.Instructions[i].Op == Opcode.Return).ToList();
        return returns.Select(i => Bare(function, function.Instructions[i].A)).Distinct().ToList() is [>= 0 and var answer]
            && function.Blocks.Any(b => b is { IsReachable: true, Condition: >= 0, Successors.Count: 2 } && Bare(function, b.Condition) == answer
                && returns.TrueForAll(r => function.BlockOf[r] != b.Index && Dominates(function, b.Index, function.BlockOf[r]))
                && IsPresence(function, b.Condition) is var present && TurnsAway(function, b.Successors[present ? 1 : 0], b.Successors[present ? 0 : 1], out var ends, out _) && ends);
    }

    /// <summary>The value that a test of presence is about.</summary>
    private static int Bare(IrFunction function, int value) =>
        value >= 0 && function.Instructions[value] is { Op: Opcode.Cast or Opcode.Unary, A: var inner } && function.Instructions[value].Text is not "-" ? Bare(function, inner) : value;

    /// <summary>A file that is included, and ends the program for those who are not signed in.</summary>
    private IEnumerable<GuardTest> ByIncludes(IrFunction function)
    {
        foreach (var i in function.OutgoingCalls)
        {
            if (function.Instructions[i].Op == Opcode.Include && program.Modules.IncludeTarget(function.File, function, function.Instructions[i].A) is >= 0 and var file)
            {
                var included = program.Files[file].Functions[0];
                if (In(included).Where(t => t.Ends && IsOnEveryWay(included, t)).OrderByDescending(t => t.Asks == Requirement.Role).FirstOrDefault() is { } test)
                {
                    var at = function.LocationOf(i);
                    yield return new GuardTest(function.BlockOf[i], test.Asks, true, at, program.Tree.TextOf(at));
                }
            }
        }
    }

    /// <summary>Whoever comes to the end of the function has passed the test.</summary>
    public static bool IsOnEveryWay(IrFunction function, GuardTest test) => Passing(function) is { Count: > 0 } passing
        ? passing.TrueForAll(b => b != test.Block && Dominates(function, test.Block, b))
        : function.Blocks.Where(b => b.IsReachable && b.Successors.Count == 0 && !b.NeverContinues && !Stops(function, b)).All(b => Dominates(function, test.Block, b.Index));

    /// <summary>The blocks in which a step on the way hands the request on, by calling what it was given for that.</summary>
    internal static List<int> Passing(IrFunction function) =>
        function.Parameters.Count < 2 ? [] : [.. function.OutgoingCalls.Where(i => function.Instructions[i] is { Op: Opcode.Call, C: 0 } call && function.Instructions[call.A] is { Op: Opcode.Parameter, A: >= 1 }).Select(i => function.BlockOf[i]).Where(b => function.Blocks[b].IsReachable).Distinct()];

    /// <summary>A step asks of the person, and on one of its ways does not hand the request on: it may refuse, though under which condition was not understood.</summary>
    public bool MayRefuse(IrFunction step)
    {
        return Passing(step).Count > 0 && step.Blocks.Any(b => b.IsReachable && b.Condition >= 0 && (Asks(step, b.Condition, 0) is var asks && (asks == Requirement.Role || (asks == Requirement.SignIn && !IsAboutForgery(step, b.Condition))))) && EndsWithoutPassing(step);
    }

    /// <summary>It hands every request on: no way through it ends before.</summary>
    public static bool LetsEverybodyBy(IrFunction step) => Passing(step).Count > 0 && !EndsWithoutPassing(step);

    /// <summary>It asks for nothing and puts nothing on the request that a later step could ask for.</summary>
    public static bool OnlyHandsOn(IrFunction step) =>
        LetsEverybodyBy(step) && step.Blocks.Count(b => b.IsReachable) == 1 && !step.Instructions.Any(i => i.Op is Opcode.SetField or Opcode.WithField or Opcode.SetItem or Opcode.WithItem);

    private static bool EndsWithoutPassing(IrFunction step)
    {
        var passing = Passing(step);
        var seen = new HashSet<int>();
        var open = new Stack<int>([step.Order[0]]);
        while (open.TryPop(out var at))
        {
            if (passing.Contains(at) || !seen.Add(at))
            {
                continue;
            }

            if (step.Blocks[at].Successors.Count == 0)
            {
                return true;
            }

            foreach (var next in step.Blocks[at].Successors)
            {
                open.Push(next);
            }
        }

        return false;
    }

    private static bool Stops(IrFunction function, BasicBlock block) => block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit);

    public static bool Dominates(IrFunction function, int dominator, int block)
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
    internal static bool IsPresence(IrFunction function, int value, int depth = 0)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return true;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Unary when instruction.Text is "!" or "not":
                return !IsPresence(function, instruction.A, depth + 1);
            case Opcode.Binary when instruction.Text is "==" or "===" or "is" or "eq":
                return !(IsNothing(function, instruction.A) || IsNothing(function, instruction.B));
            case Opcode.Binary when instruction.Text is "!=" or "!==" or "<>" or "is not":
                return IsNothing(function, instruction.A) || IsNothing(function, instruction.B);
            case Opcode.Binary when instruction.Text is "not in":
                return false;
            case Opcode.Call:
                return function.Instructions[instruction.A].Text is not ("empty" or "is_null");
            case Opcode.CallMethod:
                return instruction.Text is not ("nil?" or "blank?" or "empty?" or "isEmpty" or "IsNullOrEmpty" or "IsNullOrWhiteSpace" or "guest");
            case Opcode.CallStatic:
                return instruction.Text is not ("guest" or "IsNullOrEmpty" or "IsNullOrWhiteSpace");
            default:
                return true;
        }
    }

    private static bool IsNothing(IrFunction function, int value) =>
        value >= 0 && (function.Instructions[value].Op == Opcode.Undefined || (function.Instructions[value] is { Op: Opcode.Constant } constant && ((LiteralKind)constant.A == LiteralKind.Null || constant.Text is "" or "0" or "false" or "False" or "null" or "undefined")));

    /// <summary>From the block all ways soon end, while the other side goes on.</summary>
    private bool TurnsAway(IrFunction function, int start, int other, out bool ends, out bool halts)
    {
        ends = false;
        halts = false;
        if (function.Blocks[start].Predecessors.Count > 1 && AlwaysLeadsTo(function, other, start))
        {
            return false;
        }

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

            calls |= block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New);
            halts |= block.Instructions.Any(i => function.Instructions[i] is { Op: Opcode.Call or Opcode.CallMethod } call && _words.HaltsChain((call.Op == Opcode.Call ? function.Instructions[call.A].Text : call.Text) ?? ""));
            if (block.NeverContinues || Stops(function, block))
            {
                ends = true;
                halts = false;
                return true;
            }

            if (block.Successors.Count == 0)
            {
                halts = false;
                return calls && block.Instructions.Any(i => function.Instructions[i].Op == Opcode.Return);
            }

            if (block.Successors.Count > 1)
            {
                return false;
            }

            at = block.Successors[0];
        }

        return false;
    }

    /// <summary>Whatever way is taken from the block, it comes to the other one: what is in between is done beside it.</summary>
    private static bool AlwaysLeadsTo(IrFunction function, int from, int to)
    {
        var seen = new HashSet<int> { to };
        var open = new Stack<int>([from]);
        while (open.TryPop(out var at))
        {
            if (seen.Add(at))
            {
                if (function.Blocks[at].Successors.Count == 0)
                {
                    return false;
                }

                foreach (var next in function.Blocks[at].Successors)
                {
                    open.Push(next);
                }
            }
        }

        return true;
    }

    /// <summary>What a value tells of who is asking, by the names it is read under.</summary>
    private Requirement Asks(IrFunction function, int value, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return Requirement.Other;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Unary or Opcode.Cast:
                return Asks(function, instruction.A, depth);
            case Opcode.Binary:
                return Higher(Asks(function, instruction.A, depth + 1), Asks(function, instruction.B, depth + 1));
            case Opcode.List:
                // The values of a statement: a row that is looked up by the person is there only for somebody.
                return function.List(instruction).ToArray().Select(o => Asks(function, o.Value, depth + 1) == Requirement.Other ? Requirement.Other : Requirement.SignIn).Aggregate(Requirement.Other, Higher);
            case Opcode.Phi:
                return function.List(instruction).ToArray().Where(o => o.Value < value).Select(o => Asks(function, o.Value, depth + 1)).Aggregate(Requirement.Other, Higher);
            case Opcode.GetField or Opcode.GetStatic:
                return IsRequestData(function, instruction.A) ? Requirement.Other : OfPart(instruction.Text!, IsPersonOfRequest(function, instruction, instruction.Text!) ? Requirement.SignIn : Asks(function, instruction.A, depth + 1));
            case Opcode.GetItem:
                var key = instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } text } ? text : "";
                return IsRequestData(function, instruction.A) ? Requirement.Other : OfPart(key, IsPersonOfRequest(function, instruction, key) ? Requirement.SignIn : Asks(function, instruction.A, depth + 1));
            case Opcode.Parameter when IsProvidedPerson(function, instruction.A):
                return Requirement.SignIn;
            case Opcode.LoadShared when _words.TellsOfRole(instruction.Text!) && !IsRequestData(function, value):
                // What the whole program knows under such a name, a step before has found out.
                return Requirement.Role;
            case Opcode.Global or Opcode.LoadShared or Opcode.Parameter or Opcode.LoadCell or Opcode.Import:
                return IsRequestData(function, value) ? Requirement.Other : OfName(instruction.Text ?? function.Names.GetValueOrDefault(value) ?? "");
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic:
                return OfCall(function, value, instruction, depth);
            default:
                return Requirement.Other;
        }
    }

    /// <summary>One of the people, kept with the request: <c>g.member</c>, <c>res.locals.keeper</c>, <c>request["person"]</c>.</summary>
    private bool IsPersonOfRequest(IrFunction function, Instruction read, string name) => read.A >= 0 && name.Length > 0 && accounts.IsPerson(name) && _words.KeepsForRequest((function.Instructions[read.A].Text ?? function.Names.GetValueOrDefault(read.A)) ?? "");

    private Requirement OfCall(IrFunction function, int value, Instruction call, int depth)
    {
        var name = call.Op == Opcode.Call ? function.Instructions[call.A].Text ?? "" : call.Text ?? "";
        if (flow.SummaryOf(function).Calls.Any(c => c.Instruction == value && GivesPerson(c.Target)) && !Changes(function, value))
        {
            return StatesRole(function, call) ? Requirement.Role : Requirement.SignIn;
        }

        foreach (var operand in function.List(call))
        {
            if (!_words.TellsOfOwnRole(IrClass.ShortOf(name)) && BringsRequestData(function, operand.Value, 0))
            {
                // It is about what was sent, not about who sends it.
                return Requirement.Other;
            }
        }

        var asks = OfPart(IrClass.ShortOf(name), call.Op == Opcode.Call ? Requirement.Other : Asks(function, call.A, depth + 1));
        if (call.C == 0 && accounts.IsPerson(name) && (call.Op == Opcode.Call || function.Instructions[call.A].Op == Opcode.This))
        {
            // What gives one of the people without being told which: the one who asks.
            asks = Higher(asks, Requirement.SignIn);
        }

        if (_words.TellsOfSignIn(IrClass.ShortOf(name)))
        {
            asks = Higher(asks, Requirement.SignIn);
        }

        foreach (var operand in function.List(call))
        {
            asks = Higher(asks, Asks(function, operand.Value, depth + 2));
        }

        if (asks == Requirement.Other && depth < 3)
        {
            foreach (var edge in flow.SummaryOf(function).Calls.Where(c => c.Instruction == value && c.Target.Instructions.Length <= SmallFunction))
            {
                for (var i = 0; i < edge.Target.Instructions.Length && asks == Requirement.Other; i++)
                {
                    if (edge.Target.Instructions[i].Op == Opcode.Return)
                    {
                        asks = Asks(edge.Target, edge.Target.Instructions[i].A, depth + 3);
                    }
                }
            }
        }

        if (asks == Requirement.SignIn && (StatesRole(function, call) || flow.SummaryOf(function).Calls.Any(c => c.Instruction == value && c.Target.Class is not null && LooksAtRole(c.Target))))
        {
            // What a method of the person's answers from a role: keeper.office?
            return Requirement.Role;
        }

        return asks == Requirement.SignIn && Changes(function, value) ? Requirement.Other : asks;
    }

    /// <summary>The call writes a record: whether that went well says nothing of who is there, though the record may be an account.</summary>
    private bool Changes(IrFunction function, int call) =>
        function.LocationOf(call) is var at && flow.SummaryOf(function).Events.Any(e => e is { Kind: EventKind.Access, Depth: 0, Fact.Access.Action: "create" or "edit" or "delete" } && e.At == at);

    /// <summary>What was asked, and answered with a yes, wherever the block is reached: the block lies on that side of the test.</summary>
    internal Requirement AskedBefore(IrFunction function, int block)
    {
        var asks = Requirement.Other;
        for (var at = block; at >= 0 && asks != Requirement.Role; at = function.Blocks[at].Dominator)
        {
            if (function.Blocks[at].Dominator is >= 0 and var before && function.Blocks[before] is { Condition: >= 0, Successors.Count: 2 } test && function.Blocks[at].Predecessors.Count == 1
                && test.Successors[0] != test.Successors[1] && test.Successors[IsPresence(function, test.Condition, 0) ? 0 : 1] == at)
            {
                asks = Higher(asks, Asks(function, test.Condition, 0) is var asked && asked == Requirement.SignIn && IsAboutForgery(function, test.Condition) ? Requirement.Other : asked);
            }
        }

        return asks;
    }

    /// <summary>What was asked before a place, in its function and in those around it up to where each was written.</summary>
    internal Requirement AskedBefore(IrFunction function, Location at)
    {
        var asks = Requirement.Other;
        var index = Array.FindIndex(function.Instructions, i => i.Span.Start == at.Start && i.Span.End == at.End);
        for (var inner = function; inner is not null && index >= 0 && asks != Requirement.Role;)
        {
            asks = Higher(asks, AskedBefore(inner, inner.BlockOf[index]));
            var position = inner.File.Functions.IndexOf(inner);
            inner = inner.Outer;
            index = inner is null ? -1 : Array.FindIndex(inner.Instructions, i => i.Op == Opcode.Function && i.A == position);
        }

        return asks;
    }

    /// <summary>What a value of the function tells of who is asking.</summary>
    internal Requirement AskedBy(IrFunction function, int value) => Asks(function, value, 0);

    private Requirement OfPart(string name, Requirement whole) =>
        whole != Requirement.Other || _words.HoldsPerson(name) || OfName(name) != Requirement.Other ? _words.TellsOfRole(name) || (whole != Requirement.Other && accounts.IsTrait(name, _words)) ? Requirement.Role : Requirement.SignIn : Requirement.Other;

    private bool BringsRequestData(IrFunction function, int value, int depth)
    {
        if (value < 0 || depth > 4)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        return IsRequestData(function, value)
            || (instruction.Op is Opcode.GetField or Opcode.GetItem or Opcode.CallMethod or Opcode.Cast && BringsRequestData(function, instruction.A, depth + 1))
            || (instruction.Op is Opcode.Phi && function.List(instruction).ToArray().Any(o => o.Value < value && BringsRequestData(function, o.Value, depth + 1)))
            || (instruction.Op is Opcode.Binary && (BringsRequestData(function, instruction.A, depth + 1) || BringsRequestData(function, instruction.B, depth + 1)))
            || (instruction.Op is Opcode.Call or Opcode.CallStatic or Opcode.Object or Opcode.List or Opcode.CallMethod or Opcode.Concat && function.List(instruction).ToArray().Any(o => BringsRequestData(function, o.Value, depth + 1)));
    }

    /// <summary>It is what the visitor sent in a form or address: a name in there tells nothing of who is asking.</summary>
    private bool IsRequestData(IrFunction function, int value)
    {
        if (value < 0)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        var name = NameOf(instruction);
        if (instruction.Op == Opcode.GetField && _words.HoldsConnection(NameOf(function.Instructions[instruction.A])))
        {
            return false;
        }

        return _words.IsRequestPart(name.TrimStart('$', '_')) || (instruction.Op is Opcode.GetField or Opcode.GetItem or Opcode.CallMethod && IsRequestData(function, instruction.A));
    }

    private static string NameOf(in Instruction instruction) =>
        instruction.Op is Opcode.GetField or Opcode.Global or Opcode.LoadShared or Opcode.CallMethod or Opcode.Parameter ? instruction.Text ?? "" : "";

    private Requirement OfName(string name) => accounts.IsPerson(name) && name.Contains("current", StringComparison.OrdinalIgnoreCase) ? Requirement.SignIn : _words.HoldsPerson(name.TrimStart('$', '_')) ? _words.TellsOfRole(name) ? Requirement.Role : Requirement.SignIn : Requirement.Other;

    internal static Requirement Higher(Requirement left, Requirement right) => left == Requirement.Role || right == Requirement.Role ? Requirement.Role : left == Requirement.SignIn || right == Requirement.SignIn ? Requirement.SignIn : Requirement.Other;
}
