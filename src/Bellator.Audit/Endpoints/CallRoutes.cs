using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Addresses that calls declare: of routers, of route files, of minimal interfaces.</summary>
internal sealed class CallRoutes(ProgramModel program, ProgramAnalysis flow, RouteScopes scopes, GuardClassifier names)
{
    /// <summary>The path around the route that is looked at: classes are named after it.</summary>
    private string _prefix = "";

    private readonly ActionRules _rules = new(program, flow);
    private readonly Dictionary<IrFunction, IReadOnlyList<Middleware>> _surrounding = [];
    private readonly ILookup<string, IrClass> _byShortName = program.Classes.ToLookup(c => c.ShortName, StringComparer.Ordinal);

    public IEnumerable<EntryPoint> Read(IEnumerable<AnalysisEvent> events)
    {
        foreach (var route in events)
        {
            var fact = route.Fact!.Route!;
            var path = RoutePath.TextOf(route.Role("path")) ?? fact.Otherwise;
            if (path is null)
            {
                continue;
            }

            foreach (var (method, added, handler, name, guards) in Targets(route, fact, path).SelectMany(t => t.Method == "*" && Marked(t.Handler) is { } marked ? marked.Select(m => t with { Method = m }) : [t]))
            {
                foreach (var way in scopes.To(route))
                {
                    var own = RouteScopes.Objects(route.Role("self")).ToList();
                    IReadOnlyList<Middleware> said = own.Count == 0 ? [] : scopes.To(route.Function, own).SelectMany(w => w.Guards).ToList();
                    var prefix = route.Role("outside").Constant is not null && way.Prefix.EndsWith("/{id}", StringComparison.Ordinal) ? way.Prefix[..^5] : way.Prefix;
                    var whole = RoutePath.Below(RoutePath.Below(prefix, path), added);
                    yield return new EntryPoint(method, RoutePath.Normal(whole), handler, name, route.At, route.Fact!.Library,
                        [.. way.Guards, .. said, .. guards, .. Asked(route), .. handler is null ? [] : Surrounding(handler)]);
                }
            }
        }
    }

    /// <summary>The methods that the handler answers to, where a mark on it says so.</summary>
    private List<string>? Marked(IrFunction? handler)
    {
        foreach (var mark in handler?.Annotations ?? [])
        {
            if (flow.Facts.For(Languages.Family(handler!.File.Source.Language)).MethodMarks.TryGetValue(IrClass.ShortOf(mark.Name), out var method))
            {
                var listed = (mark.Arguments.FirstOrDefault()?.Value as ObjectLiteral)?.Entries.Select(e => (e.Value as Literal)?.Text.ToUpperInvariant()).OfType<string>().ToList();
                return method != "*" ? [method] : listed is { Count: > 0 } ? listed : null;
            }
        }

        return null;
    }

    /// <summary>What the route asks for by its options or its name.</summary>
    private IEnumerable<Middleware> Asked(AnalysisEvent route) =>
        route.Role("asks").Parts.Select(a => a.Constant).OfType<string>().Select(a => new Middleware(a == "open" ? "nothing is asked for" : "by the route", GuardClassifier.Named(a), route.At));

    /// <summary>Guards that stand at the handler's own declaration.</summary>
    public IReadOnlyList<Middleware> Surrounding(IrFunction handler)
    {
        if (!_surrounding.TryGetValue(handler, out var known))
        {
            _surrounding[handler] = known = FindSurrounding(handler);
        }

        return known;
    }

    /// <summary>Steps that calls in a list ask for, as marks would.</summary>
    public IEnumerable<Middleware> Listed(Expression? list, IrFile file) =>
        list is ObjectLiteral { IsList: true } steps
            ? names.OfMarks(steps.Entries.Select(e => e.Value).OfType<Call>().Where(c => c.Callee is Name or Member).Select(c => new Annotation(file.Source.Text(c.Callee.Span), c.Arguments, c.Span)), file)
            : [];

    private IReadOnlyList<Middleware> FindSurrounding(IrFunction handler)
    {
        List<Middleware> marks = [.. names.OfMarks(BelowRoute(handler), handler.File), .. names.OfParameters(handler)];
        if (handler.Class is not { } type)
        {
            return marks;
        }

        // What stands at the function itself says more than what stands at its class.
        IEnumerable<Middleware> ofClass = [];
        for (var at = type.Primary; at is not null; at = program.BaseOf(at)?.Primary)
        {
            ofClass = ofClass.Concat(names.OfMarks(at.Annotations.Where(a => IsOn(a, handler)), at.File));
        }

        if (type.Primary.Methods.TryGetValue("dispatch", out var dispatch) && dispatch.File.Source.Language == Language.Python)
        {
            marks.AddRange(names.OfMarks(dispatch.Annotations, dispatch.File));
        }

        ofClass = ofClass.Concat(names.OfClass(type.Primary)).Concat(scopes.OfActions(type, handler.Name)).Concat(_rules.Of(type, handler.Name));
        return [.. ofClass.Where(g => g.Asks != Requirement.Open || g.Overrides || marks.TrueForAll(m => m.Asks is not (Requirement.SignIn or Requirement.Role))), .. marks];
    }

    /// <summary>
    /// The marks that are put around the function before it gets its address: Python runs decorators from the last to the first, so what
    /// stands above the one with the path wraps a function that nobody calls.
    /// </summary>
    private static IEnumerable<Annotation> BelowRoute(IrFunction handler) => handler.File.Source.Language != Language.Python ? handler.Annotations
        : handler.Annotations.Skip(handler.Annotations.ToList().FindLastIndex(a => a.Arguments is [{ Name: null, Value: Literal { Kind: LiteralKind.Text, Text: ['/', ..] } }, ..] || a.Arguments is [{ Value: Literal { Kind: LiteralKind.Text } }, { Value: Literal { Kind: LiteralKind.Text, Text: ['/', ..] } }, ..]) + 1);

    /// <summary>A mark of a class may name the one method that it is for: <c>@method_decorator(login_required, name="get")</c>; before all of them runs what dispatches.</summary>
    private static bool IsOn(Annotation mark, IrFunction handler) =>
        mark.Arguments.FirstOrDefault(a => a.Name == "name")?.Value is not Literal { Text: { Length: > 0 } named } || handler.File.Source.Language != Language.Python || named == handler.Name || named is "dispatch";

    /// <summary>The name of a function as a reader knows it.</summary>
    public string Shown(IrFunction function) =>
        function.Name.Length == 0 ? $"function in line {program.Tree.LineOf(new Location(function.File.Index, function.Span.Start, function.Span.Start))}"
        : function.Class is { } type ? $"{type.ShortName}.{function.Name}" : function.Name;

    private IEnumerable<(string Method, string Added, IrFunction? Handler, string Name, IReadOnlyList<Middleware> Guards)> Targets(AnalysisEvent route, RouteModel fact, string path)
    {
        _prefix = fact.Named is null ? "" : scopes.To(route)[0].Prefix;
        var handlers = route.Role("handlers").Fields?.Values.ToList() ?? [];
        if (fact.Actions.Count > 0 && (handlers.Count == 0 || handlers.Exists(h => ClassIn(h, route.Function.File) is not null) || fact.Named is not null))
        {
            foreach (var found in Resource(route, fact, path, handlers))
            {
                yield return found;
            }

            foreach (var found in fact.Marked is { } marked && handlers.Select(h => ClassIn(h, route.Function.File)).FirstOrDefault(c => c is not null) is { } owner ? MarkedActions(owner, marked) : [])
            {
                yield return found;
            }

            yield break;
        }

        if (handlers.Count == 0)
        {
            // Ruby: a path alone names controller and action.
            if (fact.Named is not null && !path.Contains('/', StringComparison.Ordinal) && scopes.Enclosing(route) is { } resource && Named(fact, $"{resource}#{path}") is { } member)
            {
                yield return (Method(route, fact), "", member, Shown(member), []);
            }
            else if (fact.Named is not null && path.Trim('/').Split('/') is [var controller, var action] && Named(fact, $"{controller}#{action}") is { } conventional)
            {
                yield return (Method(route, fact), "", conventional, Shown(conventional), []);
            }

            yield break;
        }

        List<Middleware> guards = fact.Dispatched ? [new Middleware("the code that calls the router", Requirement.Perhaps, route.At)] : [];
        for (var i = 0; i < handlers.Count - 1; i++)
        {
            var at = i < route.Places.Count ? route.Places[i] : route.At;
            var function = handlers[i].Targets.OfType<IrFunction>().FirstOrDefault() ?? (fact.Named == "function" ? Named(fact, handlers[i], route.Function.File) : null);
            var text = handlers[i].Constant ?? (function is { Name.Length: > 0 } && at == route.At ? Shown(function) : program.Tree.TextOf(at));
            var asks = function is not null && fact.GuardFields.Count > 0 && names.OfAnswer(function) is var answer and not Requirement.Other ? answer
                : fact.Named == "function" ? names.Of(text, function, route.Function.File) : names.Of(text, handlers[i], route.Function.File);
            if (asks == Requirement.Other && fact.Named == "function")
            {
                // It is there to let in or not; by what could not be read.
                asks = Requirement.Perhaps;
            }

            if (asks != Requirement.Other || function is not null || !names.IsOfLibrary(text, route.Function.File))
            {
                guards.Add(new Middleware(text, asks, at, function));
            }
        }

        var last = handlers[^1];
        if ((last.Module >= 0 || RouteScopes.Objects(last).Any(scopes.IsMounted)) && fact.Named is null && last.Targets.Count == 0)
        {
            // Routes of another file or router come below this path.
            yield break;
        }

        var handler = last.Targets.OfType<IrFunction>().FirstOrDefault() ?? Named(fact, last, route.Function.File);
        while (handler is not null && last.Payload?.Targets.OfType<IrFunction>().FirstOrDefault() is { } wrapped)
        {
            // What a program's own function puts around the handler is a step on the way to it.
            var at = route.Places.Count > 0 ? route.Places[^1] : route.At;
            var asks = names.Of(handler.Outer?.Name ?? "", handler, route.Function.File);
            if (asks != Requirement.Other || handler.Blocks.Any(b => b is { IsReachable: true, Condition: >= 0 }))
            {
                // One that goes straight on asks for nothing: it waits for the handler, and hands on what it throws.
                guards.Add(new Middleware(handler.Outer is { Name.Length: > 0 } maker ? maker.Name : program.Tree.TextOf(at, 40), asks, at, handler));
            }

            (handler, last) = (wrapped, last.Payload);
        }

        var shown = handler is not null ? Shown(handler) : last.Constant ?? (route.Places.Count > 0 ? program.Tree.TextOf(route.Places[^1], 40) : "");
        foreach (var method in Method(route, fact).Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            yield return (method, "", handler, shown, guards);
        }
    }

    /// <summary>The class that a handler is, or is named by.</summary>
    private IrClass? ClassIn(AbstractValue handler, IrFile file) =>
        handler.Targets.OfType<IrClass>().FirstOrDefault() ?? (file.Source.Language == Language.Php && handler.Constant is { Length: > 0 } name && !name.Contains('@', StringComparison.Ordinal) ? program.FindClass(name, file) : null);

    private IEnumerable<(string, string, IrFunction?, string, IReadOnlyList<Middleware>)> Resource(AnalysisEvent route, RouteModel fact, string path, List<AbstractValue> handlers)
    {
        var type = handlers.Select(h => ClassIn(h, route.Function.File)).LastOrDefault(c => c is not null);
        type ??= fact.Named is null ? null : RouteScopes.ClassNamed(route) is { } named ? ControllerOf(fact, named, asWritten: true) : ControllerOf(fact, path.Trim('/').Split('/')[^1]);

        // Code that is not there may ask for anything.
        IReadOnlyList<Middleware> unseen = fact.Named is not null && type is null ? [new Middleware("the controller, which was not found", Requirement.Perhaps, route.At)] : [];
        var only = RouteScopes.NamesIn(route.Role("only"));
        var except = RouteScopes.NamesIn(route.Role("except"));
        // Of two methods for one kind of request the class's own counts, not the one it inherits.
        var own = type is null ? [] : fact.Actions.Where(a => type.Primary.Methods.ContainsKey(a.Key)).Select(a => a.Value).ToHashSet(StringComparer.Ordinal);
        foreach (var (action, means) in fact.Actions)
        {
            if (type is not null && own.Contains(means) && !type.Primary.Methods.ContainsKey(action) && fact.Named is null)
            {
                continue;
            }

            if ((only is not null && !only.Contains(action)) || (except?.Contains(action) ?? false) || !scopes.HasAction(route, action))
            {
                continue;
            }

            var method = type is null ? null : program.FindMethod(type.Primary, action);
            if (method is null && type is not null && fact.Named is null && !Inherits(type, action))
            {
                continue;
            }

            // A library's action asks the class for the records.
            method ??= type is null || fact.Named is not null ? null : fact.AskedOf.Select(k => program.FindMethod(type.Primary, k)).FirstOrDefault(m => m is not null);

            var parts = means.Split(' ', 2);
            yield return (parts[0], parts.Length > 1 ? parts[1] : "", method, type is null ? action : $"{type.ShortName}.{action}", type is not null && (method is null || !ReferenceEquals(method.Class?.Primary, type.Primary)) ? [.. OfConcrete(type.Primary, method), .. scopes.OfActions(type, action)] : unseen);
        }
    }

    /// <summary>What stands at the class itself, where the method is one that it inherits: its guards hold for that too.</summary>
    private IEnumerable<Middleware> OfConcrete(IrClass type, IrFunction? method)
    {
        IEnumerable<Middleware> marks = [];
        for (var at = type; at is not null && !ReferenceEquals(at, method?.Class?.Primary); at = program.BaseOf(at)?.Primary)
        {
            marks = marks.Concat(names.OfMarks(at.Annotations, at.File));
        }

        return marks.Concat(names.OfClass(type));
    }

    /// <summary>Further methods of a class that are marked as actions: <c>@action(detail=False)</c>.</summary>
    private IEnumerable<(string, string, IrFunction?, string, IReadOnlyList<Middleware>)> MarkedActions(IrClass type, MarkedActionModel fact)
    {
        foreach (var method in type.Primary.Methods.Values)
        {
            if (method.Annotations.FirstOrDefault(a => IrClass.ShortOf(a.Name) == fact.Mark) is not { } mark)
            {
                continue;
            }

            var path = (mark.Arguments.FirstOrDefault(a => a.Name == fact.PathField)?.Value as Literal)?.Text ?? method.Name;
            var ofOne = mark.Arguments.FirstOrDefault(a => a.Name == fact.OfOne)?.Value is Literal { Text: "true" or "True" };
            var methods = (mark.Arguments.FirstOrDefault(a => a.Name == fact.MethodsField)?.Value as ObjectLiteral)?.Entries.Select(e => (e.Value as Literal)?.Text.ToUpperInvariant()).OfType<string>().ToList();
            foreach (var verb in methods is { Count: > 0 } ? methods : ["GET"])
            {
                yield return (verb, (ofOne ? "/{id}/" : "/") + path.Trim('/'), method, Shown(method), []);
            }
        }
    }

    /// <summary>A library's base class brings the action.</summary>
    private bool Inherits(IrClass type, string action) => program.Kinds(type).Any(k => flow.Vocabulary.BringsActions(IrClass.ShortOf(k), action));

    private static string Method(AnalysisEvent route, RouteModel fact)
    {
        var given = route.Role("method");
        var said = given.Constant ?? (given.Fields is { Count: > 0 } several ? string.Join(',', several.Values.Select(v => v.Constant).OfType<string>()) : null);
        return said is null or "" ? fact.Method : said.ToUpperInvariant().Replace("ANY", "*", StringComparison.Ordinal);
    }

    private IrFunction? Named(RouteModel fact, AbstractValue handler, IrFile file)
    {
        if (fact.Named is not null && handler.Constant is { } text)
        {
            return fact.Named == "function" ? program.FindFunction(text, file) : Named(fact, text);
        }

        // A class or one of its objects and the name of its method: [MemberController::class, 'join']
        if (handler.Fields is { Count: 2 } pair && (OfObject(pair.Values.First()) ?? pair.Values.First().Targets.OfType<IrClass>().FirstOrDefault() ?? (pair.Values.First().Constant is { } name ? program.FindClass(name, file) : null)) is { } type && pair.Values.Last().Constant is { } method)
        {
            return program.FindMethod(type.Primary, method);
        }

        // Slim: 'HiveActions:show'
        if (file.Source.Language == Language.Php && handler.Constant?.Split(':', StringSplitOptions.RemoveEmptyEntries) is [var of, var called] && program.FindClass(of, file) is { } owner)
        {
            return program.FindMethod(owner.Primary, called);
        }

        return ClassIn(handler, file) is { } invoked ? program.FindMethod(invoked.Primary, "__invoke") : null;
    }

    private IrClass? OfObject(AbstractValue value) =>
        value.Types.FirstOrDefault(t => t[0] == '#') is { } type ? program.Classes[int.Parse(type.AsSpan(1), System.Globalization.CultureInfo.InvariantCulture)] : null;

    private IrFunction? Named(RouteModel fact, string text)
    {
        var sign = fact.Named!.Replace("controller", "", StringComparison.Ordinal).Replace("action", "", StringComparison.Ordinal);
        return text.Split(sign, 2) is [var controller, var action] && ControllerOf(fact, controller) is { } type ? program.FindMethod(type.Primary, action) : null;
    }

    /// <param name="asWritten">The name is that of the class, not of what it is for.</param>
    private IrClass? ControllerOf(RouteModel fact, string name, bool asWritten = false)
    {
        var last = name[(name.LastIndexOfAny(['/', '\\']) + 1)..];
        var camel = string.Concat(last.Split('_').Select(p => p.Length == 0 ? "" : char.ToUpperInvariant(p[0]) + p[1..]));
        var wanted = asWritten ? fact.Class.Replace("*s", "*", StringComparison.Ordinal).Replace("*", camel, StringComparison.Ordinal) : fact.Class.Replace("*", camel, StringComparison.Ordinal);
        var plural = fact.Class.Replace("*", camel.TrimEnd('s') + "s", StringComparison.Ordinal);

        // Of several classes of the name, the one whose namespace is in the path.
        var around = IdentifierClassifier.Parts(_prefix + "/" + name[..Math.Max(0, name.LastIndexOfAny(['/', '\\']))]);
        return _byShortName[wanted].Concat(plural == wanted ? [] : _byShortName[plural])
            .OrderByDescending(c => c.ShortName == wanted)
            .ThenBy(c => IdentifierClassifier.Parts(c.Name[..^c.ShortName.Length]) is var space && space.Count == 0 ? around.Count : space.Except(around).Any() ? int.MaxValue : Math.Abs(around.Count - space.Count))
            .FirstOrDefault();
    }
}
