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

    /// <summary>Instructions that are followed for all rows of a program together: an application has some hundred addresses, and a short router.</summary>
    private const int MostSteps = 4_000_000;

    private readonly WrittenValues _written = new(program);
    private int _steps;

    /// <summary>Functions in which a table is looked up: no addresses by themselves.</summary>
    public HashSet<IrFunction> Dispatchers { get; } = [];

    /// <param name="taken">Functions that have addresses already.</param>
    public IEnumerable<EntryPoint> Read(IReadOnlySet<IrFunction> taken)
    {
        var found = new List<EntryPoint>();
        var names = new HandlerNames(program);
        foreach (var function in program.Functions)
        {
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i].Op is Opcode.Object or Opcode.List && RouteTable.Of(names, _written, function, i) is { } table && !table.Rows.Any(r => taken.Contains(r.Handler)))
                {
                    found.AddRange(Entries(table, taken));
                }
            }
        }

        return found;
    }

    private IEnumerable<EntryPoint> Entries(RouteTable table, IReadOnlySet<IrFunction> taken)
    {
        // What a handler looks up by some part of its request has no address of its own.
        foreach (var dispatcher in Candidates(table).Where(f => !AndOuter(f).Any(taken.Contains)))
        {
            // What is too much for one row is too much for the others.
            var keys = new HashSet<int>();
            if (WaysTo(dispatcher, table, table.Rows[0], keys) is null)
            {
                continue;
            }

            var reached = table.Rows.Select(r => (Row: r, Ways: WaysTo(dispatcher, table, r, keys))).Where(w => w.Ways is { Count: > 0 }).ToList();
            if (reached.Count * 2 < table.Rows.Count || reached.Exists(r => PathOf(dispatcher, r.Row, keys) is null) || !IsOfRequests(dispatcher, reached.Select(r => r.Row.Handler)))
            {
                continue;
            }

            Dispatchers.Add(dispatcher);
            var guards = tests.In(dispatcher);
            var refusing = reached.Select(r => Refusing(dispatcher, r.Ways!)).ToList();
            var usual = UsualArguments(dispatcher, guards, [.. reached.SelectMany(r => r.Ways!.Take(1))]);
            return reached.Select((r, i) => new EntryPoint(r.Row.Method ?? MethodOf(r.Row.Handler), PathOf(dispatcher, r.Row, keys)!, r.Row.Handler, surroundings.Shown(r.Row.Handler), r.Row.At, ByTable,
                [.. GuardsOn(dispatcher, r.Ways!, guards, usual, refusing[i].FirstOrDefault(b => Refuses(dispatcher, b) || reached.Any(o => o.Ways!.All(w => !w.Blocks.Contains(b))), -1)), .. surroundings.Surrounding(r.Row.Handler)])).ToList();
        }

        return [];
    }

    /// <summary>
    /// The functions that call something which is not named there, of the table's file or of one that brings it in. Rows with no path for a key
    /// are only looked up by the parameter of a page.
    /// </summary>
    private IEnumerable<IrFunction> Candidates(RouteTable table)
    {
        var home = table.At.In.File;
        var isOfPages = table.Rows.Any(r => r.Key is not null && !r.Key.Contains('/', StringComparison.Ordinal));
        _near ??= NearFiles();
        return _near[home.Index].Prepend(home.Index).Distinct().SelectMany(f => program.Files[f].Functions)
            .Where(f => (!isOfPages || f.IsTopLevel) && f.OutgoingCalls.Any(i => f.Instructions[i] is var call && (call.Op is Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Include || (call.Op == Opcode.Call && f.Instructions[call.A].Op is not (Opcode.Function or Opcode.Import)))));
    }

    private ILookup<int, int>? _near;

    /// <summary>The files that include or import each file.</summary>
    private ILookup<int, int> NearFiles()
    {
        var found = new List<(int Of, int By)>();
        foreach (var function in program.Functions)
        {
            foreach (ref readonly var instruction in function.Instructions.AsSpan())
            {
                var brought = instruction.Op switch
                {
                    Opcode.Include => program.Modules.IncludeTarget(function.File, function, instruction.A),
                    Opcode.Import when instruction.Text is { } module => program.Modules.Resolve(function.File.Source.Path, module),
                    _ => -1,
                };
                if (brought >= 0)
                {
                    found.Add((brought, function.File.Index));
                }
            }
        }

        return found.Distinct().ToLookup(f => f.Of, f => f.By);
    }

    /// <param name="keys">Gets the values by which rows are looked up.</param>
    private IReadOnlyList<KnownWay>? WaysTo(IrFunction dispatcher, RouteTable table, RouteRow row, HashSet<int> keys)
    {
        if (_steps > MostSteps)
        {
            return null;
        }

        List<(WrittenTable, object, string?)> lookedUp = [(table.At, row.Value, row.Key)];
        if (row is { OfMethod: { } inner, Value: WrittenTable methods })
        {
            lookedUp.Add((methods, inner, row.Method));
        }

        var run = new KnownRun(_written, flow.Facts, lookedUp);
        var ways = run.WaysTo(dispatcher, (_, given) => ReferenceEquals(given[0], KnownRun.OfRow) || given.Any(g => IsHandler(g, row)));
        _steps += run.Steps;
        keys.UnionWith(run.Keys.Where(k => k.Function == dispatcher).Select(k => k.Value));
        return run.IsCut ? null : ways;
    }

    /// <summary>The path by which the row is looked up; where that is a parameter of a page, the page with it. Null where it is looked up by something else.</summary>
    private string? PathOf(IrFunction dispatcher, RouteRow row, HashSet<int> keys)
    {
        if (row.Key is null || row.Key.Contains('/', StringComparison.Ordinal))
        {
            return row.Path;
        }

        if (!dispatcher.IsTopLevel)
        {
            return null;
        }

        foreach (var value in keys.SelectMany(k => dispatcher.Instructions[k].Op == Opcode.Phi ? dispatcher.List(dispatcher.Instructions[k]).ToArray().Select(o => o.Value) : [k]))
        {
            if (dispatcher.Instructions[value] is { Op: Opcode.GetItem, A: >= 0 and var of, B: >= 0 and var named } && dispatcher.Instructions[named] is { Op: Opcode.Constant, Text: { Length: > 0 } name }
                && dispatcher.Instructions[of].Text is { } global && flow.Facts.For(Languages.Family(dispatcher.File.Source.Language)).Global(global)?.Source is "query" or "input")
            {
                return $"/{dispatcher.File.Source.Path}?{name}={row.Key}";
            }
        }

        return null;
    }

    /// <summary>The blocks that every way passes and that end with a test which is not understood, of which one side leads nowhere near the handler.</summary>
    private static List<int> Refusing(IrFunction dispatcher, IReadOnlyList<KnownWay> ways)
    {
        var passed = ways.SelectMany(w => w.Blocks).ToHashSet();
        return [.. ways[0].Unsettled.Where(b => ways.All(w => w.Unsettled.Contains(b)) && dispatcher.Blocks[b].Successors.Any(s => !passed.Contains(s)))];
    }

    /// <summary>The answer on the other side is that of RFC 9110, 15.5.2 and 15.5.4: not signed in, or not allowed.</summary>
    private static bool Refuses(IrFunction dispatcher, int test) =>
        dispatcher.Blocks[test].Successors.Any(s => dispatcher.Blocks[s].Instructions.Any(i => dispatcher.Instructions[i] is { Op: Opcode.Constant, Text: { } text } && text.AsSpan().TrimStart() is ['4', '0', '1' or '3'] or ['4', '0', '1' or '3', ' ', ..]));

    private static bool IsHandler(object? given, RouteRow row) => given switch
    {
        IrFunction function => function == row.Handler,
        string text => text != row.Key && (text == row.Handler.Name || text.EndsWith(":" + row.Handler.Name, StringComparison.Ordinal) || text.EndsWith("@" + row.Handler.Name, StringComparison.Ordinal) || text.EndsWith("#" + row.Handler.Name, StringComparison.Ordinal)),
        WrittenTable pair => row.Value is WrittenTable whole && whole.Entries().Any(o => pair == new WrittenTable(whole.In, o.Value)) && pair.Entries().Any(o => pair.In.Instructions[o.Value].Text == row.Handler.Name),
        _ => false,
    };

    /// <summary>Something on the way reads a request: in a page of a browser there are such tables too.</summary>
    private bool IsOfRequests(IrFunction dispatcher, IEnumerable<IrFunction> handlers) =>
        Languages.Family(dispatcher.File.Source.Language) == "php" || AndOuter(dispatcher).Concat(handlers).Any(f => flow.SummaryOf(f).Reads.Any() || flow.EntryFactOf(f) is not null);

    private static IEnumerable<IrFunction> AndOuter(IrFunction function)
    {
        for (var at = function; at is not null; at = at.Outer)
        {
            yield return at;
        }
    }

    /// <summary>What every way asks for; where one asks for less than another, that it depends.</summary>
    /// <param name="refusing">A block that ends with a test which was not understood, and which turns some away; negative for none.</param>
    private IEnumerable<Middleware> GuardsOn(IrFunction dispatcher, IReadOnlyList<KnownWay> ways, IReadOnlyList<GuardTest> guards, Dictionary<int, object> usual, int refusing)
    {
        var passed = ways.Select(w => guards.Where(g => w.Blocks.Contains(g.Block) && g.Asks is Requirement.SignIn or Requirement.Role or Requirement.Perhaps).Select(g => (Guard: g, Asks: AskedOn(dispatcher, w, g, usual))).OrderByDescending(g => g.Asks == Requirement.Role).ThenByDescending(g => g.Asks == Requirement.SignIn).FirstOrDefault()).ToList();
        if (passed.Find(p => p.Guard is not null) is { Guard: { } shown })
        {
            var asks = passed.TrueForAll(p => p.Guard is not null && p.Asks == Requirement.Role) ? Requirement.Role
                : passed.TrueForAll(p => p.Guard is not null && p.Asks is Requirement.Role or Requirement.SignIn) ? Requirement.SignIn
                : Requirement.Perhaps;
            yield return new Middleware(shown.Text, asks, shown.At);
        }
        else if (refusing >= 0 && dispatcher.LocationOf(dispatcher.Blocks[refusing].Condition) is var at)
        {
            yield return new Middleware(program.Tree.TextOf(at), Requirement.Perhaps, at);
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
        var facts = flow.Facts.For(Languages.Family(handler.File.Source.Language));
        var parts = flow.ReadsOf(handler).Select(r => r.Part).Concat(handler.Instructions.Where(i => i is { Op: Opcode.Global or Opcode.LoadShared, Text: not null }).Select(i => facts.Global(i.Text!)?.Source).OfType<string>()).ToHashSet(StringComparer.Ordinal);
        if (Languages.Family(handler.File.Source.Language) != "php")
        {
            return "*";
        }

        return !parts.Contains("form") && !parts.Contains("input") ? "GET" : parts.Contains("query") || parts.Contains("input") ? "*" : "POST";
    }
}
