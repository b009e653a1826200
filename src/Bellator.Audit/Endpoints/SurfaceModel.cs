using System.Collections.Concurrent;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Audit.Tables;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>What an entry point reads of the request, does with records and gives back.</summary>
/// <param name="Inputs">Names of request values by part: <c>form email</c>.</param>
/// <param name="Answers">What the visitor gets, in a few words each.</param>
public sealed record EntryDetails(EntryPoint Entry, IReadOnlyList<(string Part, string Name)> Inputs, IReadOnlyList<TableAccess> Accesses, IReadOnlyList<string> Answers)
{
    /// <summary>The code that the entry comes to, with what stands on the way.</summary>
    public ReachableRanges Covered { get; init; } = new([]);
}

/// <summary>All addresses of an application, and all that happens there.</summary>
public sealed class SurfaceModel
{
    private readonly Dictionary<EntryPoint, EntryDetails> _details = new(ReferenceEqualityComparer.Instance);
    private readonly AccessReader _accesses;
    private readonly SharedCode _common;
    private readonly AuthorizationChecks _tests;
    private readonly InnerRefusals _refusals;
    private readonly ProgramModel _program;
    private readonly ProgramAnalysis _flow;

    internal SurfaceModel(ProgramModel program, ProgramAnalysis flow, DatabaseSchema schema, WorkerPool crew)
    {
        _program = program;
        _flow = flow;
        Accounts = new AccountTables(program, schema, flow.Vocabulary, flow.Events);
        _tests = new AuthorizationChecks(program, flow, Accounts);
        _refusals = new InnerRefusals(flow);
        Reach = new CallReachability(program, flow);
        _accesses = new AccessReader(program, schema, flow.Vocabulary);
        var names = new GuardClassifier(program, flow, _tests);
        var scopes = new RouteScopes(program, flow, names, flow.Events);
        var calls = new CallRoutes(program, flow, scopes, names);
        var found = calls.Read(flow.Events.Of(EventKind.Route).Where(e => e.Depth == 0)).ToList();
        found.AddRange(new RouteMaps(program, calls).Read());
        found.AddRange(new AnnotatedRoutes(program, flow, scopes, calls).Read());
        var dispatch = new FrontController(program, flow, _tests, calls);
        found.AddRange(dispatch.Read(found.Select(e => e.Handler).OfType<IrFunction>().ToHashSet()));
        var registered = new RegisteredRoutes(program, flow, names, _tests, calls);
        var own = registered.Read(found.Select(e => e.Handler).OfType<IrFunction>().ToHashSet());
        found.AddRange(own);
        found.AddRange(new FileRoutes(program, flow, calls).Read(found.Select(e => e.Handler).OfType<IrFunction>().Concat(dispatch.Dispatchers).Concat(registered.Dispatchers).ToHashSet()));

        // A page of the program's own takes the place of the library's.
        found.AddRange(ProvidedRoutes.Read(flow).Where(p => !found.Exists(e => e.Path.Equals(p.Path, StringComparison.OrdinalIgnoreCase))).ToList());
        var everywhere = new ApplicationGuards(program, flow, names, flow.Events);
        EntryPoint[] entries = [.. found.GroupBy(e => (e.Method, e.Path, e.Handler, e.At)).Select(g => everywhere.With(g.First()))];
        crew.ForEach(entries.Length, i => Precompute(entries[i]));
        var rules = new AddressRules(program, flow.Facts);
        _common = new SharedCode(Reach, flow, entries);
        crew.ForEach(entries.Length, i => _common.Precompute(entries[i].Handler));
        EntryPoints = [.. entries
            .Select(rules.With)
            .Select(WithTests)
            .OrderBy(e => e.Path, StringComparer.Ordinal).ThenBy(e => e.Method, StringComparer.Ordinal).ThenBy(e => e.At.File).ThenBy(e => e.At.Start)];
        if (own.Count > 0)
        {
            var reached = EntryPoints.SelectMany(e => e.Guards.Select(g => g.Function).Append(e.Handler)).OfType<IrFunction>().Distinct().SelectMany(Reach.From).ToHashSet();
            _before = new ReachableRanges(program.Functions.Where(f => !f.IsBrought && !reached.Contains(f)));
        }

        _byHandler = EntryPoints.Where(e => e.Handler is not null).ToLookup(e => e.Handler!);
        var details = new EntryDetails[EntryPoints.Count];
        crew.ForEach(details.Length, i => details[i] = Read(EntryPoints[i]));
        foreach (var entry in details)
        {
            _details[entry.Entry] = entry;
        }
    }

    public IReadOnlyList<EntryPoint> EntryPoints { get; }

    /// <summary>What no address comes to, where the program has a router of its own: the code that calls it, and takes the request apart.</summary>
    private readonly ReachableRanges? _before;

    private readonly ILookup<IrFunction, EntryPoint> _byHandler;

    /// <summary>The entry points that a function handles, in the order of all of them.</summary>
    public IEnumerable<EntryPoint> HandledBy(IrFunction function) => _byHandler[function];

    /// <summary>The entry points that the function, or one around it, handles: a callback belongs to the handler in which it is written.</summary>
    public IEnumerable<EntryPoint> HandledAround(IrFunction function)
    {
        for (var at = function; at is not null; at = at.Outer)
        {
            foreach (var entry in _byHandler[at])
            {
                yield return entry;
            }
        }
    }

    /// <summary>What code in the function, or around it, asks of the person before it comes to the place.</summary>
    public Requirement AskedBefore(IrFunction function, Location at)
    {
        // What is known of functions is kept as it is asked for.
        lock (_tests)
        {
            return _tests.AskedBefore(function, at);
        }
    }

    public CallReachability Reach { get; }

    public AccountTables Accounts { get; }

    /// <summary>What is done to records on the way to most addresses, such as finding out who is there: no matter of any one of them.</summary>
    public IReadOnlyList<TableAccess> Everywhere => AccessReader.Merged(_common.Everywhere.SelectMany(f => DoneBy(f).Accesses));

    /// <summary>The table that a class stands for, by the names of the tables there are; its own name where there is none.</summary>
    public string TableOf(IrClass type) => _accesses.TableOf(type.ShortName, type.File);

    /// <summary>What a condition asks of the person.</summary>
    public Requirement AskedBy(IrFunction function, int condition)
    {
        lock (_tests)
        {
            return _tests.AskedBy(function, condition);
        }
    }

    /// <summary>What the function asks for, the marks of each handler say: those without one it lets through.</summary>
    public bool AsksByMarks(IrFunction guard) =>
        _flow.Facts.For(Languages.Family(guard.File.Source.Language)).MarkReaders is { Count: > 0 } readers
        && guard.OutgoingCalls.Any(i => GuardResults.ReadsMark(guard, i, readers));

    /// <summary>Records that the framework fetches for the handler by a part of the path.</summary>
    public IEnumerable<TableAccess> FetchedFor(EntryPoint entry) => _accesses.Bound(entry, _flow.Facts);

    /// <summary>Of several rows that the path names, each is looked for among those of the one before.</summary>
    public bool FetchesWithin(EntryPoint entry) => _accesses.BindsWithin(entry, _flow.Facts);

    /// <summary>What one happening does to records.</summary>
    public IReadOnlyList<TableAccess> AccessesOf(AnalysisEvent happening) => happening.Kind is EventKind.Query or EventKind.Run or EventKind.Access ? _accessesOf.GetOrAdd(happening, e => [.. _accesses.Of(e)]) : [];

    private readonly ConcurrentDictionary<AnalysisEvent, TableAccess[]> _accessesOf = new(ReferenceEqualityComparer.Instance);

    /// <summary>The handler and what it comes to, but for what is common to most handlers.</summary>
    public IReadOnlyList<IrFunction> OwnReach(IrFunction handler) => _common.OwnReach(handler);

    /// <summary>What runs before a page by the files that many pages include.</summary>
    public IEnumerable<IrFunction> OnTheWay(IrFunction handler) => _common.OnTheWay(handler);

    /// <summary>The guards that stand in the handler itself, before it does anything with records.</summary>
    private EntryPoint WithTests(EntryPoint entry)
    {
        if (entry.Handler is not { } handler)
        {
            return entry;
        }

        var accesses = OwnReach(handler).SelectMany(f => DoneBy(f).Accesses).ToList();
        var blocks = BlocksAt(handler, [.. accesses.Select(a => a.At)]);
        var passed = _tests.In(handler).Where(t => !t.Halts).Where(t => blocks.Count == 0 ? AuthorizationChecks.Dominates(handler, t.Block, handler.Order.Length > 0 ? handler.Order[^1] : 0) || t.Ends
            : blocks.All(b => AuthorizationChecks.Dominates(handler, t.Block, b)) || OnlyReadsBefore(handler, t, accesses)).ToList();
        var asked = passed.Count == 0 ? entry : entry with { Guards = [.. entry.Guards, .. passed.Select(t => new Middleware(t.Text, t.Asks, t.At, handler))] };
        var words = _flow.Vocabulary;
        return asked.SignIn == SignInNeed.NotNeeded && !words.IsSignIn(entry.Path) && !words.IsSignIn(entry.HandlerName) && _refusals.Within(handler) is { } refusal
            ? asked with { Guards = [.. asked.Guards, refusal] } : asked;
    }

    private static HashSet<int> BlocksAt(IrFunction function, HashSet<Location> places)
    {
        var blocks = new HashSet<int>();
        for (var i = 0; i < Math.Min(function.Instructions.Length, function.BlockOf.Length); i++)
        {
            if (places.Contains(function.LocationOf(i)))
            {
                blocks.Add(function.BlockOf[i]);
            }
        }

        return blocks;
    }

    /// <summary>
    /// What is done before the test only finds the record that it is about, and whoever leaves before it is told that there is none:
    /// <c>if (!hive || hive.ownerId !== me.id) return notFound()</c>.
    /// </summary>
    private bool OnlyReadsBefore(IrFunction handler, GuardTest test, List<TableAccess> accesses)
    {
        bool IsBehind(int block) => AuthorizationChecks.Dominates(handler, test.Block, block);
        var changes = BlocksAt(handler, [.. accesses.Where(a => a.Action is not (RecordAction.View or RecordAction.List)).Select(a => a.At)]);
        var answers = BlocksAt(handler, [.. _flow.SummaryOf(handler).Events.Where(e => e.Kind == EventKind.Sink && e.Sink!.Kind is "response" or "page" && IsOfRecord(e.Role("value"))).SelectMany(e => new[] { e.At, e.Place })]);
        return changes.Count + answers.Count > 0 && changes.All(IsBehind) && answers.All(IsBehind)
            && handler.Blocks.Where(b => b.IsReachable && b.Successors.Count == 0 && !IsBehind(b.Index)).All(b => IsShortRefusal(handler, b));
    }

    private static bool IsOfRecord(AbstractValue value) => value.Types.Any(t => t is "row" or "rows" or "result" || t[0] == FunctionAnalyzer.WholeMark) || FieldAccess.DeepTaints(value).Any(t => t.Origin.Kind == OriginKind.Stored);

    /// <summary>The way ends there with a refusal; a page that comes to its end was shown.</summary>
    private static bool IsShortRefusal(IrFunction function, BasicBlock block) =>
        block.NeverContinues || block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Throw or Opcode.Exit)
        || (function.Outer is not null || function.File.Functions[0] != function) && block.Instructions.Count <= LongestRefusal && block.Instructions.Any(i => function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New);

    /// <summary>Instructions of a refusal with its status and a sentence; what is longer does more than refuse.</summary>
    private const int LongestRefusal = 16;

    public EntryDetails Of(EntryPoint entry) => _details.TryGetValue(entry, out var details) ? details : Read(entry);

    private EntryDetails Read(EntryPoint entry)
    {
        if (entry.Handler is not { } handler)
        {
            return new EntryDetails(entry, [], [], []);
        }

        var guards = entry.Guards.Select(g => g.Function).OfType<IrFunction>().ToList();
        var done = guards.Where(g => !_common.Guards.Contains(g)).Prepend(handler).Distinct().SelectMany(OwnReach).Distinct().Select(DoneBy).ToList();
        var inputs = new HashSet<(string, string)>();
        var covered = new ReachableRanges(Reach.From(handler).Concat(guards.SelectMany(Reach.From)), _before);
        foreach (var (part, name, at) in done.SelectMany(d => d.Inputs))
        {
            if (!inputs.Contains((part, name)) && covered.Has(at))
            {
                inputs.Add((part, name));
            }
        }

        foreach (var name in RoutePath.Parameters(entry.Path))
        {
            inputs.Add(("path", name));
        }

        return new EntryDetails(entry, [.. inputs.OrderBy(i => i.Item1, StringComparer.Ordinal).ThenBy(i => i.Item2, StringComparer.Ordinal)], AccessReader.Merged(_accesses.Bound(entry, _flow.Facts).Concat(done.SelectMany(d => d.Accesses))), Answers(Reach.Events(handler))) { Covered = covered };
    }

    /// <summary>What one function does by itself: many addresses come to it.</summary>
    private sealed record Done(TableAccess[] Accesses, (string Part, string Name, Location? At)[] Inputs);

    private readonly ConcurrentDictionary<IrFunction, Done> _done = [];

    private Done DoneBy(IrFunction function) => _done.GetOrAdd(function, f =>
        new Done([.. _flow.SummaryOf(f).Events.SelectMany(_accesses.Of)], [.. _flow.SummaryOf(f).Events.SelectMany(InputsOf).Concat(_flow.ReadsOf(f).Select(r => (r.Part, r.Name, (Location?)null))).Distinct()]));

    /// <summary>Reads all that the entry comes to, so that it is known when it is asked for.</summary>
    private void Precompute(EntryPoint entry)
    {
        foreach (var function in entry.Handler is { } handler ? Reach.From(handler) : [])
        {
            DoneBy(function);
            _tests.Precompute(function);
        }
    }

    private static IEnumerable<(string, string, Location?)> InputsOf(AnalysisEvent happening) =>
        happening.Roles.Values.SelectMany(v => FieldAccess.DeepTaints(v)).Where(t => t.Origin.Kind == OriginKind.Request).Select(t => (t.Origin.Part, t.Origin.Name is null or Origin.AnyName ? "" : t.Origin.Name, (Location?)ReachableRanges.SourceOf(t)));

    private List<string> Answers(IEnumerable<AnalysisEvent> events)
    {
        var answers = new List<string>();
        foreach (var happening in events.Where(e => e.Kind == EventKind.Sink))
        {
            var value = happening.Role("value");
            var said = happening.Sink!.Kind switch
            {
                "response" when value.Fields is { Count: > 0 } fields => "data: " + string.Join(", ", fields.Keys.Select(k => k is "*" or "+" ? "…" : k).Distinct().Take(8)),
                "response" => "data",
                "redirect" when !ReferenceEquals(value, AbstractValue.Unknown) => "redirect" + (value.Constant is { } to ? " to " + LocationIn(to) : ""),
                "page" => "page",
                _ => null,
            };
            if (said is not null && !answers.Contains(said) && answers.Count < 6)
            {
                answers.Add(said);
            }
        }

        return answers;
    }

    /// <summary>The address in a header that is written out.</summary>
    private static string LocationIn(string header) => header.StartsWith("Location:", StringComparison.OrdinalIgnoreCase) ? header[9..].Trim() : header;

    /// <summary>The text of a place, for showing.</summary>
    public string TextOf(Location at) => _program.Tree.TextOf(at);
}
