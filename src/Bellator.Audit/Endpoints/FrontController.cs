using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Addresses that an application's own router has: code that looks the address up in a table which is written out, and calls what it finds there.
/// The code is followed for each row of the table, so that what it asks of the person on the way is known for each address by itself: an address
/// that is among the open ones, a row with a level of nought.
/// </summary>
internal sealed class FrontController(ProgramModel program, ProgramAnalysis flow, AuthorizationChecks tests, CallRoutes surroundings)
{
    private const string ByTable = "the application's own router";

    /// <summary>Functions in which a table is looked up: no addresses by themselves.</summary>
    public HashSet<IrFunction> Dispatchers { get; } = [];

    /// <param name="taken">Functions that have addresses already.</param>
    public IEnumerable<EntryPoint> Read(IReadOnlySet<IrFunction> taken)
    {
        var found = new List<EntryPoint>();
        var reading = new KnownRun(program, flow.Facts, new WrittenTable(program.Functions.Count > 0 ? program.Functions[0] : null!, -1), null, null);
        foreach (var function in program.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i].Op is Opcode.Object or Opcode.List && RouteTable.Of(program, reading, function, i) is { } table && !table.Rows.Any(r => taken.Contains(r.Handler)))
                {
                    found.AddRange(Entries(table));
                }
            }
        }

        return found;
    }

    private IEnumerable<EntryPoint> Entries(RouteTable table)
    {
        foreach (var dispatcher in program.Functions.Where(f => MayDispatch(f, table)).ToList())
        {
            var reached = table.Rows.Select(r => (Row: r, Ways: WaysTo(dispatcher, table, r))).Where(w => w.Ways is { Count: > 0 }).ToList();
            if (reached.Count * 2 < table.Rows.Count || !IsOfRequests(dispatcher, reached.Select(r => r.Row.Handler)))
            {
                continue;
            }

            Dispatchers.Add(dispatcher);
            var guards = tests.In(dispatcher);
            var usual = UsualArguments(dispatcher, guards, [.. reached.SelectMany(r => r.Ways!.Take(1))]);
            return reached.Select(r => new EntryPoint(r.Row.Method ?? MethodOf(r.Row.Handler), r.Row.Path, r.Row.Handler, surroundings.Shown(r.Row.Handler), r.Row.At, ByTable,
                [.. GuardsOn(dispatcher, r.Ways!, guards, usual), .. surroundings.Surrounding(r.Row.Handler)])).ToList();
        }

        return [];
    }

    /// <summary>It calls something that is not named there, and the table is in its file or in one that it brings in.</summary>
    private bool MayDispatch(IrFunction function, RouteTable table)
    {
        var home = table.At.In.File;
        var isNear = function.File == home
            || function.Instructions.Any(i => i.Op == Opcode.Include && program.Modules.IncludeTarget(function.File, function, i.A) == home.Index)
            || function.File.Functions.Any(f => f.Instructions.Any(i => i is { Op: Opcode.Import, Text: { } module } && program.Modules.Resolve(function.File.Source.Path, module) == home.Index));
        return isNear && function.OutgoingCalls.Any(i => function.Instructions[i] is var call && (call.Op is Opcode.CallMethod or Opcode.CallStatic or Opcode.New || (call.Op == Opcode.Call && function.Instructions[call.A].Op is not (Opcode.Function or Opcode.Import))));
    }

    /// <summary>The ways on which the dispatcher comes to call what the row names; null where not all were followed.</summary>
    private IReadOnlyList<KnownWay>? WaysTo(IrFunction dispatcher, RouteTable table, RouteRow row)
    {
        var run = new KnownRun(program, flow.Facts, table.At, row.Value, row.Key);
        var ways = run.WaysTo(dispatcher, (_, given) => given.Any(g => IsHandler(g, row)));
        return run.IsCut ? null : ways;
    }

    private static bool IsHandler(object? given, RouteRow row) => given switch
    {
        IrFunction function => function == row.Handler,
        string text => text != row.Key && (text == row.Handler.Name || text.EndsWith(":" + row.Handler.Name, StringComparison.Ordinal) || text.EndsWith("@" + row.Handler.Name, StringComparison.Ordinal) || text.EndsWith("#" + row.Handler.Name, StringComparison.Ordinal)),
        WrittenTable pair => row.Value is not WrittenTable whole || whole != pair ? pair.In.List(pair.In.Instructions[pair.Instruction]).ToArray().Any(o => pair.In.Instructions[o.Value].Text == row.Handler.Name) : false,
        _ => false,
    };

    /// <summary>Something on the way reads a request: in a page of a browser there are such tables too.</summary>
    private bool IsOfRequests(IrFunction dispatcher, IEnumerable<IrFunction> handlers) =>
        Languages.Family(dispatcher.File.Source.Language) == "php" || AndOuter(dispatcher).Concat(handlers).Any(f => flow.SummaryOf(f).Reads.Any());

    private static IEnumerable<IrFunction> AndOuter(IrFunction function)
    {
        for (var at = function; at is not null; at = at.Outer)
        {
            yield return at;
        }
    }

    /// <summary>What every way asks for; where one asks for less than another, that it depends.</summary>
    private IEnumerable<Middleware> GuardsOn(IrFunction dispatcher, IReadOnlyList<KnownWay> ways, IReadOnlyList<GuardTest> guards, Dictionary<int, object> usual)
    {
        var passed = ways.Select(w => guards.Where(g => w.Blocks.Contains(g.Block) && g.Asks is Requirement.SignIn or Requirement.Role or Requirement.Perhaps).Select(g => (Guard: g, Asks: AskedOn(dispatcher, w, g, usual))).OrderByDescending(g => g.Asks == Requirement.Role).ThenByDescending(g => g.Asks == Requirement.SignIn).FirstOrDefault()).ToList();
        if (passed.Find(p => p.Guard is not null) is { Guard: { } shown })
        {
            var asks = passed.TrueForAll(p => p.Guard is not null && p.Asks == Requirement.Role) ? Requirement.Role
                : passed.TrueForAll(p => p.Guard is not null && p.Asks is Requirement.Role or Requirement.SignIn) ? Requirement.SignIn
                : Requirement.Perhaps;
            yield return new Middleware(shown.Text, asks, shown.At);
        }

        if (guards.FirstOrDefault(g => g.Asks == Requirement.Forgery && ways.All(w => w.Blocks.Contains(g.Block))) is { } forgery)
        {
            yield return new Middleware(forgery.Text, Requirement.Forgery, forgery.At);
        }
    }

    /// <summary>What is asked for at most addresses alike is what everybody has who is signed in; what the row says otherwise is a role.</summary>
    private static Requirement AskedOn(IrFunction dispatcher, KnownWay way, GuardTest guard, Dictionary<int, object> usual) =>
        CallOf(dispatcher, guard) is >= 0 and var call && usual.TryGetValue(call, out var most) && way.Calls.GetValueOrDefault(call) is { } given && guard.Asks != Requirement.Perhaps
            ? given.Contains(most) ? Requirement.SignIn : Requirement.Role
            : guard.Asks;

    /// <summary>What the calls that ask of the person are given at most addresses, where they are given something that the row says.</summary>
    private static Dictionary<int, object> UsualArguments(IrFunction dispatcher, IReadOnlyList<GuardTest> guards, IReadOnlyList<KnownWay> ways)
    {
        var found = new Dictionary<int, object>();
        foreach (var call in guards.Where(g => g.Asks is Requirement.Role or Requirement.SignIn).Select(g => CallOf(dispatcher, g)).Where(c => c >= 0).Distinct())
        {
            var given = ways.Where(w => w.Calls.ContainsKey(call)).Select(w => w.Calls[call].Skip(1).FirstOrDefault(a => a is string or double)).OfType<object>().ToList();
            if (given.GroupBy(g => g).OrderByDescending(g => g.Count()).FirstOrDefault() is { } most && given.Distinct().Skip(1).Any() && most.Count() * 2 > given.Count)
            {
                found[call] = most.Key;
            }
        }

        return found;
    }

    private static int CallOf(IrFunction dispatcher, GuardTest guard) =>
        dispatcher.OutgoingCalls.Where(i => dispatcher.BlockOf[i] == guard.Block && dispatcher.LocationOf(i) == guard.At).DefaultIfEmpty(-1).First();

    /// <summary>A handler that reads a form alone answers to POST, one that reads none to GET.</summary>
    private string MethodOf(IrFunction handler)
    {
        var parts = flow.ReadsOf(handler).Select(r => r.Part).ToHashSet(StringComparer.Ordinal);
        return !parts.Contains("form") && !parts.Contains("input") ? "GET" : parts.Contains("query") || parts.Contains("input") ? "*" : "POST";
    }
}
