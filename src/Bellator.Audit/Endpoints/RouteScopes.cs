using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>One way by which a request comes to a route: the path before its own, and what stands on it.</summary>
internal sealed record RouteContext(string Prefix, IReadOnlyList<Middleware> Guards);

/// <summary>
/// Where routes are put: routers below paths, groups around functions, files that others take in. A scope is an object by the place
/// where it is made, a function, a file or a class.
/// </summary>
internal sealed class RouteScopes
{
    private const int MaxDepth = 6;
    private const int MaxWays = 6;
    private readonly ProgramModel _program;
    private readonly ProgramAnalysis _flow;
    private readonly GuardClassifier _names;
    private readonly Dictionary<string, List<AnalysisEvent>> _mounts = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<Placed>> _guards = new(StringComparer.Ordinal);
    private readonly Dictionary<string, Actions> _actions = new(StringComparer.Ordinal);

    public RouteScopes(ProgramModel program, ProgramAnalysis flow, GuardClassifier names, EventIndex happenings)
    {
        (_program, _flow, _names) = (program, flow, names);
        foreach (var happening in happenings.Of(EventKind.Route, EventKind.Mount))
        {
            if (ClassNamed(happening) is { } named)
            {
                _classes[happening.At] = named;
            }

            for (var function = happening.Function; function is not null && !function.IsTopLevel && _declaring.Add(function); function = function.Outer)
            {
            }
        }

        foreach (var happening in happenings.Of(EventKind.Mount))
        {
            // What was made and is put nowhere yet has no place.
            if (!happening.Fact!.Allocates || RoutePath.TextOf(happening.Role("path")) is not null || Objects(happening.Role("receiver")).Any())
            {
                AddMount(happening);
            }
        }

        // A caller may know what an object is put on where the function that does it does not.
        foreach (var list in _mounts.Values)
        {
            var known = list.Where(m => Objects(m.Role("receiver")).Any()).Select(m => m.At).ToHashSet();
            list.RemoveAll(m => !Objects(m.Role("receiver")).Any() && !known.Add(m.At));
        }

        var guards = happenings.Of(EventKind.Guard).Where(h => h.Fact?.Guard is { Everywhere: false }).ToList();
        var macros = new GuardMacros(program, guards);
        foreach (var happening in guards.Where(h => !macros.Contains(h.Function)))
        {
            AddGuard(happening);
        }

        foreach (var (type, happening, options) in macros.Calls())
        {
            AddGuard(happening, type, options);
        }
    }

    /// <param name="Path">The guard stands only before paths that begin like this.</param>
    /// <param name="Lifts">It takes away the guard of this name.</param>
    private sealed record Placed(Middleware Guard, string Path, IReadOnlySet<string>? Only, IReadOnlySet<string>? Except, bool Lifts)
    {
        /// <summary>It is said of the whole object, wherever in the code.</summary>
        public bool HoldsForAll { get; init; }
    }

    /// <summary>The only actions that a route of several has, and those it has not.</summary>
    public sealed record Actions(IReadOnlySet<string>? Only, IReadOnlySet<string>? Except)
    {
        public bool Has(string action) => (Only?.Contains(action) ?? true) && !(Except?.Contains(action) ?? false);
    }

    public static string OfFile(int file) => $"file:{file}";

    public static string OfFunction(IrFunction function) => $"function:{function.Id}";

    public static string OfClass(IrClass type) => $"class:{type.Primary.Id}";

    /// <summary>The objects that a value is, by the places where they are made.</summary>
    public static IEnumerable<string> Objects(AbstractValue value) => value.Types.Where(t => t[0] == FunctionAnalyzer.OwnMark);

    private void AddMount(AnalysisEvent mount)
    {
        var children = mount.Role("children").Fields?.Values.ToList() ?? [];
        for (var i = 0; i < children.Count; i++)
        {
            var child = children[i];
            var isScope = false;
            foreach (var scope in Objects(child).Concat(child.Module >= 0 ? [OfFile(child.Module)] : []).Concat(child.Targets.OfType<IrFunction>().Where(DeclaresRoutes).Select(OfFunction)))
            {
                isScope = true;
                (_mounts.TryGetValue(scope, out var list) ? list : _mounts[scope] = []).Add(mount);
            }

            // Where the same call also gives a route its handler, that is no step on the way to others.
            if (!isScope && !mount.Fact!.Mount!.RoutersOnly && mount.Fact.Route is null && i < mount.Places.Count && (child.Constant is null || i > 0))
            {
                // What is no router is something on the way.
                var text = _program.Tree.TextOf(mount.Places[i]);
                foreach (var scope in Scopes(mount, mount.Role("receiver")).Take(1))
                {
                    var function = child.Targets.OfType<IrFunction>().FirstOrDefault();
                    var asks = _names.Of(text, child, mount.Function.File);
                    if (asks == Requirement.Other && (function is { Parameters.Count: 4 } || (function is null && _names.IsOfLibrary(text, mount.Function.File))))
                    {
                        // A handler of errors, or a library's step that guards nothing.
                        continue;
                    }

                    Add(scope, new Placed(new Middleware(text, asks, mount.Places[i], function), (RoutePath.TextOf(mount.Role("path")) ?? "").TrimEnd('*', '/'), null, null, false));
                }
            }
        }
    }

    /// <summary>It, or a function written within it, declares routes.</summary>
    private bool DeclaresRoutes(IrFunction function) => _declaring.Contains(function) || _flow.SummaryOf(function).Events.Any(e => e.Kind is EventKind.Route or EventKind.Mount);

    private readonly HashSet<IrFunction> _declaring = [];

    /// <param name="caller">The class whose body calls the method in which the guard stands; null where it stands in a body itself.</param>
    private void AddGuard(AnalysisEvent guard, IrClass? caller = null, GuardMacros.Options? options = null)
    {
        var fact = guard.Fact!.Guard!;
        if (caller is null && fact.Removes && guard.Function is { Class: not null, Name: not "<body>" })
        {
            // A method that takes guards away where it is called, not where it stands.
            return;
        }

        List<AbstractValue> names = fact.Guards.Count > 0 ? fact.Guards.ConvertAll(s => AbstractValue.OfConstant(LiteralKind.Text, s)) : guard.Role("names").Fields?.Values.ToList() ?? [];
        var only = NamesIn(guard.Role("only")) ?? options?.Only;
        var except = NamesIn(guard.Role("except")) ?? options?.Except;
        if (fact.Asks is "only" or "except")
        {
            var actions = names.SelectMany(n => NamesIn(n) ?? []).ToHashSet(StringComparer.Ordinal);
            foreach (var scope in Objects(guard.Role("receiver")))
            {
                _actions[scope] = fact.Asks == "only" ? new Actions(actions, null) : new Actions(null, actions);
            }

            return;
        }

        string[] scopes = caller is not null ? [OfClass(caller)] : OwnerOf(guard.Function) is { } type && !Objects(guard.Role("receiver")).Any() ? [OfClass(type)] : [.. Scopes(guard, guard.Role("receiver")).Take(1)];
        if (fact.Asks != "named")
        {
            var said = new Middleware(_program.Tree.TextOf(guard.At), GuardClassifier.Named(fact.Asks), guard.At);
            Array.ForEach(scopes, s => Add(s, new Placed(said, "", only, except, fact.Removes)));
            return;
        }

        for (var i = 0; i < names.Count; i++)
        {
            var at = i < guard.Places.Count ? guard.Places[i] : guard.At;
            var name = names[i].Constant ?? _program.Tree.TextOf(at);
            var function = _names.StepOf(names[i], guard.Function.File) ?? (names[i].Constant is { } method && OwnerOf(guard.Function) is { } owner ? _program.FindMethod(owner.Primary, method) : null);
            foreach (var scope in scopes)
            {
                Add(scope, new Placed(new Middleware(name, _names.Of(name, function, guard.Function.File), at, function), "", only, except, fact.Removes) { HoldsForAll = fact.On is not null });
            }
        }
    }

    private static IrClass? OwnerOf(IrFunction? function) => function is null ? null : function.Class ?? OwnerOf(function.Outer);

    private void Add(string scope, Placed guard) => (_guards.TryGetValue(scope, out var list) ? list : _guards[scope] = []).Add(guard);

    /// <summary>The names that an option lists, one or several; null if it is not given.</summary>
    public static HashSet<string>? NamesIn(AbstractValue value) =>
        value.Constant is { } one ? [one] : value.Fields is { Count: > 0 } several ? [.. several.Values.Select(v => v.Constant).OfType<string>()] : null;

    /// <summary>The scopes in which something happens, the closest first.</summary>
    private static IEnumerable<string> Scopes(AnalysisEvent happening, AbstractValue receiver)
    {
        foreach (var scope in Objects(receiver))
        {
            yield return scope;
        }

        for (var function = happening.Function; function is not null; function = function.Outer)
        {
            yield return OfFunction(function);
        }

        yield return OfFile(happening.Function.File.Index);
    }

    /// <summary>Guards that a class's functions have on their way, those of its base classes included.</summary>
    public IEnumerable<Middleware> OfActions(IrClass type, string action)
    {
        var placed = new List<Placed>();
        for (var at = type.Primary; at is not null; at = _program.BaseOf(at)?.Primary)
        {
            placed.InsertRange(0, at.Traits.Select(t => _program.FindClass(t, at.File)).OfType<IrClass>().Append(at).SelectMany(c => _guards.GetValueOrDefault(OfClass(c)) ?? []));
        }

        var held = placed.Where(p => (p.Only?.Contains(action) ?? true) && !(p.Except?.Contains(action) ?? false)).ToList();
        var lifted = held.Where(p => p.Lifts).Select(p => p.Guard.Name).ToHashSet(StringComparer.Ordinal);
        return held.Where(p => !p.Lifts && !lifted.Contains(p.Guard.Name)).Select(p => p.Guard);
    }

    /// <summary>The object is put below a path somewhere.</summary>
    public bool IsMounted(string scope) => _mounts.ContainsKey(scope);

    /// <summary>What was said afterwards of the actions of a route.</summary>
    public bool HasAction(AnalysisEvent route, string action) => Objects(route.Role("self")).All(s => !_actions.TryGetValue(s, out var said) || said.Has(action));

    /// <summary>All ways to what is declared by the event.</summary>
    public IReadOnlyList<RouteContext> To(AnalysisEvent route) => WaysTo([.. Scopes(route, route.Role("receiver"))], route.At, RoutePath.TextOf(route.Role("path")) ?? "", 0);

    public IReadOnlyList<RouteContext> To(IrFunction function, IEnumerable<string> objects) => WaysTo([.. objects, OfFile(function.File.Index)], new Location(function.File.Index, function.Span.Start, function.Span.End), "", 0);

    /// <summary>The class that an option of a resource names.</summary>
    public static string? ClassNamed(AnalysisEvent route) => route.Role("class").Constant is { Length: > 0 } named ? named.TrimStart(':') : null;

    private readonly Dictionary<Location, string> _classes = [];

    /// <summary>The class that the closest mount around an event names, or else its path, as it is written there.</summary>
    public string? Enclosing(AnalysisEvent route) =>
        Scopes(route, route.Role("receiver")).Select(s => _mounts.GetValueOrDefault(s)?.Find(m => m.At != route.At && !m.Fact!.Mount!.Outside)).FirstOrDefault(m => m is not null) is { } mount ? _classes.GetValueOrDefault(mount.At) ?? RoutePath.TextOf(mount.Role("path")) : null;

    /// <param name="below">The path below the scopes.</param>
    private IReadOnlyList<RouteContext> WaysTo(IReadOnlyList<string> scopes, Location at, string below, int depth)
    {
        // What stands in the same call stands before it.
        var guards = scopes.SelectMany(s => _guards.GetValueOrDefault(s) ?? [])
            .Where(g => (g.Guard.At.File != at.File || g.Guard.At.Start < at.End || (scopes[0][0] == FunctionAnalyzer.OwnMark && !IsStep(g))) && IsBelow(below, g.Path)).ToList();
        // A path that an object was made with comes after those below which it is put.
        var made = scopes.SelectMany(s => _mounts.GetValueOrDefault(s) ?? []).FirstOrDefault(m => m.Fact!.Allocates && m.Fact.Mount!.From is null && !Objects(m.Role("receiver")).Any() && m.At != at);
        var inner = made is null ? "" : RoutePath.TextOf(made.Role("path")) ?? "";
        var mounted = scopes.FirstOrDefault(s => _mounts.TryGetValue(s, out var list) && list.Exists(m => m.At != at && m != made));
        if (mounted is null || depth >= MaxDepth)
        {
            return [new RouteContext(RoutePath.Below(Conventional(at.File), inner), [.. guards.Select(g => g.Guard)])];
        }

        var ways = new List<RouteContext>();
        foreach (var mount in _mounts[mounted].Where(m => m.At != at && m != made))
        {
            var own = RoutePath.TextOf(mount.Role("path")) is { } text ? mount.Fact!.Mount!.Adds.Replace("*", text.Trim('/'), StringComparison.Ordinal) : "";
            var isOwn = Objects(mount.Role("receiver")).Contains(mounted);

            // What the call gives stands for all that was put there: $app->group(…)->add($guard).
            var said = mount.Fact!.Mount!.From is null ? [] : Objects(mount.Role("self")).SelectMany(o => _guards.GetValueOrDefault(o) ?? []).Select(g => g.Guard);

            // An object that is put below a path itself has its surroundings where that happens.
            foreach (var outer in WaysTo(isOwn ? [.. Scopes(mount, AbstractValue.Unknown)] : [.. Scopes(mount, mount.Role("receiver")).Where(s => s != mounted)], mount.At, RoutePath.Below(own, below), depth + 1))
            {
                var around = mount.Fact!.Mount!.Outside && outer.Prefix.EndsWith("/{id}", StringComparison.Ordinal) ? outer.Prefix[..^"/{id}".Length] : outer.Prefix;
                ways.Add(new RouteContext(RoutePath.Below(RoutePath.Below(around, own), inner), [.. outer.Guards, .. said, .. guards.Select(g => g.Guard)]));
            }

            if (ways.Count >= MaxWays)
            {
                break;
            }
        }

        return ways;
    }

    /// <summary>The path begins with all parts of the other.</summary>
    private static bool IsBelow(string path, string other) =>
        other.Trim('/') is var begin && (begin.Length == 0 || path.Trim('/') is var whole && (whole == begin || whole.StartsWith(begin + "/", StringComparison.Ordinal)));

    /// <summary>Steps on the way run in the order of the code; what is said of an object holds for all of it.</summary>
    private static bool IsStep(Placed guard) => !guard.HoldsForAll && (guard.Guard.Function is not null || guard.Path.Length > 0);

    private string Conventional(int file)
    {
        var source = _program.Files[file].Source;
        return _flow.Facts.For(Languages.Family(source.Language)).Mounted.FirstOrDefault(m => ("/" + source.Path).EndsWith(m.Key, StringComparison.Ordinal)).Value ?? "";
    }
}
