using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Scheduling;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>Addresses that marks on functions declare, or the names of classes and functions by convention.</summary>
internal sealed class AnnotatedRoutes(ProgramModel program, ProgramAnalysis flow, RouteScopes scopes, CallRoutes surroundings)
{
    public IEnumerable<EntryPoint> Read()
    {
        foreach (var function in program.Functions)
        {
            if (flow.EntryFactOf(function) is { Route: { } route } entry)
            {
                foreach (var found in Of(function, entry, route))
                {
                    yield return found;
                }
            }
        }
    }

    private IEnumerable<EntryPoint> Of(IrFunction function, EntryModel entry, EntryRouteModel route)
    {
        if (function.Annotations.Any(a => route.Not.Contains(IrClass.ShortOf(a.Name))))
        {
            yield break;
        }

        var by = Languages.Family(function.File.Source.Language);
        var prefixes = Prefixes(function, route);
        var guards = surroundings.Surrounding(function).ToList();
        var marks = function.Annotations.Where(a => route.Methods.ContainsKey(IrClass.ShortOf(a.Name))).ToList();
        var withPath = marks.Where(m => PathOf(m, route) is not null).ToList();
        foreach (var mark in marks)
        {
            // One mark may give the path and another the method.
            var path = PathOf(mark, route);
            if (path is null && withPath.Count > 0)
            {
                continue;
            }

            var methods = path is not null && route.Methods[IrClass.ShortOf(mark.Name)] == "*" && marks.Find(m => route.Methods[IrClass.ShortOf(m.Name)] != "*") is { } other ? Methods(other, route) : Methods(mark, route);
            foreach (var method in methods)
            {
                foreach (var (prefix, way) in prefixes.SelectMany(p => Ways(function, mark).Select(w => (p, w))))
                {
                    var own = path ?? "";
                    var declared = own.StartsWith('/') && by == "csharp" ? own : RoutePath.Below(prefix ?? (path is null ? route.Otherwise ?? "" : ""), own);
                    yield return Made(method, RoutePath.Below(way.Prefix, Filled(declared, function, route)), function, [.. way.Guards, .. guards, .. surroundings.Listed(route.GuardsField is { } field ? mark.Arguments.FirstOrDefault(a => a.Name == field)?.Value : null, function.File)], new Location(function.File.Index, mark.Span.Start, mark.Span.End));
                }
            }
        }

        if (marks.Count == 0 && (route.Otherwise is { Length: > 0 } || prefixes.Exists(p => p is not null)) && IsNamed(function, route, out var given))
        {
            foreach (var prefix in prefixes)
            {
                yield return Made(given, Filled(prefix ?? route.Otherwise!, function, route), function, guards, new Location(function.File.Index, function.Span.Start, function.Span.Start + 1));
            }
        }
    }

    private EntryPoint Made(string method, string path, IrFunction function, IReadOnlyList<Middleware> guards, Location at) =>
        new(method, RoutePath.Normal(path), function, surroundings.Shown(function), at, Languages.Family(function.File.Source.Language), guards);

    private static bool IsNamed(IrFunction function, EntryRouteModel route, out string method)
    {
        method = route.Method;
        if (route.Names.Count == 0)
        {
            return true;
        }

        foreach (var (name, means) in route.Names)
        {
            if (name.EndsWith('*') ? function.Name.StartsWith(name[..^1], StringComparison.Ordinal) && function.Name.Length > name.Length - 1 : function.Name == name)
            {
                method = means;
                return true;
            }
        }

        return false;
    }

    /// <summary>Ways through the objects that a decorator is called on: <c>@members.route</c>.</summary>
    private IReadOnlyList<RouteContext> Ways(IrFunction function, Annotation mark)
    {
        var dot = mark.Name.LastIndexOf('.');
        if (dot <= 0 || flow.Shared(function.File, mark.Name[..dot].Split('.')[0]) is not { } holder)
        {
            return [new RouteContext("", [])];
        }

        return scopes.To(function, RouteScopes.Objects(holder));
    }

    private static List<string?> Prefixes(IrFunction function, EntryRouteModel route)
    {
        var found = function.Class?.Primary.Annotations.Where(a => route.Prefix.Contains(IrClass.ShortOf(a.Name))).Select(a => PathOf(a, route) ?? "").Cast<string?>().ToList() ?? [];
        return found.Count == 0 ? [null] : found;
    }

    private static string? PathOf(Annotation mark, EntryRouteModel route)
    {
        foreach (var argument in mark.Arguments)
        {
            if ((argument.Name is null or "template" or "path" || route.PathFields.Contains(argument.Name)) && TextIn(argument.Value, route) is { } text)
            {
                return text;
            }
        }

        return null;
    }

    private static string? TextIn(Expression value, EntryRouteModel route) => value switch
    {
        Literal { Kind: LiteralKind.Text } literal => literal.Text,
        ObjectLiteral { IsList: true } list => list.Entries.Select(e => e.Value).OfType<Literal>().FirstOrDefault()?.Text,
        ObjectLiteral options => options.Entries.Where(e => route.PathFields.Contains(e.Name ?? (e.Key as Literal)?.Text ?? "")).Select(e => e.Value).OfType<Literal>().FirstOrDefault()?.Text,
        _ => null,
    };

    private static IReadOnlyList<string> Methods(Annotation mark, EntryRouteModel route)
    {
        var listed = mark.Arguments.FirstOrDefault(a => a.Name is not null && a.Name == route.MethodsField)?.Value;
        var said = listed is ObjectLiteral list ? list.Entries.Select(e => e.Value).OfType<Literal>().Select(l => l.Text.ToUpperInvariant()).ToList() : listed is Literal one ? [one.Text.ToUpperInvariant()] : [];
        return said.Count > 0 ? said : [route.Methods[IrClass.ShortOf(mark.Name)]];
    }

    private static string Filled(string path, IrFunction function, EntryRouteModel route)
    {
        var controller = function.Class?.ShortName ?? "";
        var action = function.Name;
        foreach (var part in route.Strip)
        {
            controller = controller.EndsWith(part, StringComparison.Ordinal) && controller.Length > part.Length ? controller[..^part.Length] : controller;
            action = action.StartsWith(part, StringComparison.Ordinal) && action.Length > part.Length ? action[part.Length..] : action.EndsWith(part, StringComparison.Ordinal) && action.Length > part.Length ? action[..^part.Length] : action;
        }

        if (route.Hyphens)
        {
            (controller, action) = (RoutePath.Hyphened(controller), RoutePath.Hyphened(action));
        }

        return path.Replace("[controller]", controller, StringComparison.OrdinalIgnoreCase).Replace("[action]", action, StringComparison.OrdinalIgnoreCase);
    }
}
