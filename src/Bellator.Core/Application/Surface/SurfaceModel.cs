using System.Collections.Concurrent;
using Bellator.Core.Application.Accounts;
using Bellator.Core.Code;
using Bellator.Core.Flow;
using Bellator.Core.Programs;
using Bellator.Core.Sources;

namespace Bellator.Core.Application.Surface;

/// <summary>What an entry point reads of the request, does with records and gives back.</summary>
/// <param name="Inputs">Names of request values by part: <c>form email</c>.</param>
/// <param name="Answers">What the visitor gets, in a few words each.</param>
public sealed record EntryDetails(EntryPoint Entry, IReadOnlyList<(string Part, string Name)> Inputs, IReadOnlyList<TableAccess> Accesses, IReadOnlyList<string> Answers)
{
    /// <summary>The code that the entry comes to, with what stands on the way.</summary>
    public CodeCovered Covered { get; init; } = new([]);
}

/// <summary>All addresses of an application, and all that happens there.</summary>
public sealed class SurfaceModel
{
    private readonly Dictionary<EntryPoint, EntryDetails> _details = new(ReferenceEqualityComparer.Instance);
    private readonly AccessReader _accesses;
    private readonly CommonWays _common;
    private readonly GuardTests _tests;
    private readonly ProgramCode _program;
    private readonly ProgramFlow _flow;

    internal SurfaceModel(ProgramCode program, ProgramFlow flow, Schema.DatabaseSchema schema, Crew crew)
    {
        _program = program;
        _flow = flow;
        Accounts = new AccountTables(program, schema, flow.Words, flow.Happenings);
        _tests = new GuardTests(program, flow, Accounts);
        Reach = new Reach(program, flow);
        _accesses = new AccessReader(program, schema, flow.Words);
        var names = new GuardNames(program, flow, _tests);
        var scopes = new RouteScopes(program, flow, names, flow.Happenings);
        var calls = new CallRoutes(program, flow, scopes, names);
        var found = calls.Read(flow.Happenings.Of(EventKind.Route).Where(e => e.Depth == 0)).ToList();
        found.AddRange(new TableRoutes(program, calls).Read());
        found.AddRange(new MarkRoutes(program, flow, scopes, calls).Read());
        found.AddRange(new FileRoutes(program, flow, calls).Read(found.Select(e => e.Handler).OfType<CodeFunction>().ToHashSet()));

        // A page of the program's own takes the place of the library's.
        found.AddRange(ProvidedRoutes.Read(flow).Where(p => !found.Exists(e => e.Path.Equals(p.Path, StringComparison.OrdinalIgnoreCase))).ToList());
        EntryPoint[] entries = [.. found.GroupBy(e => (e.Method, e.Path, e.Handler, e.At)).Select(g => g.First())];
        crew.ForEach(entries.Length, i => Digest(entries[i]));
        var rules = new AddressRules(program, flow.Facts);
        _common = new CommonWays(Reach, flow, entries);
        crew.ForEach(entries.Length, i => _common.Digest(entries[i].Handler));
        EntryPoints = [.. entries
            .Select(rules.With)
            .Select(WithTests)
            .OrderBy(e => e.Path, StringComparer.Ordinal).ThenBy(e => e.Method, StringComparer.Ordinal).ThenBy(e => e.At.File).ThenBy(e => e.At.Start)];
        var details = new EntryDetails[EntryPoints.Count];
        crew.ForEach(details.Length, i => details[i] = Read(EntryPoints[i]));
        foreach (var entry in details)
        {
            _details[entry.Entry] = entry;
        }
    }

    public IReadOnlyList<EntryPoint> EntryPoints { get; }

    public Reach Reach { get; }

    public AccountTables Accounts { get; }

    /// <summary>What is done to records on the way to most addresses, such as finding out who is there: no matter of any one of them.</summary>
    public IReadOnlyList<TableAccess> Everywhere => AccessReader.Merged(_common.Everywhere.SelectMany(f => DoneBy(f).Accesses));

    /// <summary>The table that a class stands for, by the names of the tables there are; its own name where there is none.</summary>
    public string TableOf(CodeClass type) => _accesses.TableOf(type.ShortName, type.File);

    /// <summary>The handler and what it comes to, but for what is common to most handlers.</summary>
    public IReadOnlyList<CodeFunction> OwnReach(CodeFunction handler) => _common.OwnReach(handler);

    /// <summary>The guards that stand in the handler itself, before it does anything with records.</summary>
    private EntryPoint WithTests(EntryPoint entry)
    {
        if (entry.Handler is not { } handler)
        {
            return entry;
        }

        var uses = OwnReach(handler).SelectMany(f => DoneBy(f).Accesses).Select(a => a.At).ToHashSet();
        var blocks = new HashSet<int>();
        for (var i = 0; i < handler.Instructions.Length; i++)
        {
            if (uses.Contains(handler.LocationOf(i)) && i < handler.BlockOf.Length)
            {
                blocks.Add(handler.BlockOf[i]);
            }
        }

        var passed = _tests.In(handler).Where(t => !t.Halts).Where(t => blocks.Count == 0 ? GuardTests.Dominates(handler, t.Block, handler.Order.Length > 0 ? handler.Order[^1] : 0) || t.Ends : blocks.All(b => GuardTests.Dominates(handler, t.Block, b))).ToList();
        return passed.Count == 0 ? entry : entry with { Guards = [.. entry.Guards, .. passed.Select(t => new WayGuard(t.Text, t.Asks, t.At, handler))] };
    }

    public EntryDetails Of(EntryPoint entry) => _details.TryGetValue(entry, out var details) ? details : Read(entry);

    private EntryDetails Read(EntryPoint entry)
    {
        if (entry.Handler is not { } handler)
        {
            return new EntryDetails(entry, [], [], []);
        }

        var guards = entry.Guards.Select(g => g.Function).OfType<CodeFunction>().ToList();
        var done = guards.Where(g => !_common.Guards.Contains(g)).Prepend(handler).Distinct().SelectMany(OwnReach).Distinct().Select(DoneBy).ToList();
        var inputs = new HashSet<(string, string)>();
        var covered = new CodeCovered(Reach.From(handler).Concat(guards.SelectMany(Reach.From)));
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

    private readonly ConcurrentDictionary<CodeFunction, Done> _done = [];

    private Done DoneBy(CodeFunction function) => _done.GetOrAdd(function, f =>
        new Done([.. _flow.SummaryOf(f).Events.SelectMany(_accesses.Of)], [.. _flow.SummaryOf(f).Events.SelectMany(InputsOf).Concat(_flow.ReadsOf(f).Select(r => (r.Part, r.Name, (Location?)null))).Distinct()]));

    /// <summary>Reads all that the entry comes to, so that it is known when it is asked for.</summary>
    private void Digest(EntryPoint entry)
    {
        foreach (var function in entry.Handler is { } handler ? Reach.From(handler) : [])
        {
            DoneBy(function);
            _tests.Digest(function);
        }
    }

    private static IEnumerable<(string, string, Location?)> InputsOf(FlowEvent happening) =>
        happening.Roles.Values.SelectMany(v => FieldAccess.DeepTaints(v)).Where(t => t.Origin.Kind == OriginKind.Request).Select(t => (t.Origin.Part, t.Origin.Name is null or Origin.AnyName ? "" : t.Origin.Name, (Location?)CodeCovered.SourceOf(t)));

    private List<string> Answers(IEnumerable<FlowEvent> events)
    {
        var answers = new List<string>();
        foreach (var happening in events.Where(e => e.Kind == EventKind.Sink))
        {
            var value = happening.Role("value");
            var said = happening.Sink!.Kind switch
            {
                "response" when value.Fields is { Count: > 0 } fields => "data: " + string.Join(", ", fields.Keys.Select(k => k is "*" or "+" ? "…" : k).Distinct().Take(8)),
                "response" => "data",
                "redirect" when !ReferenceEquals(value, Value.Unknown) => "redirect" + (value.Constant is { } to ? " to " + LocationIn(to) : ""),
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
    public string TextOf(Sources.Location at) => _program.Tree.TextOf(at);
}
