using System.Text.RegularExpressions;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Queries;
using Bellator.Analysis.Scheduling;
using Bellator.Text;

namespace Bellator.Audit.Endpoints;

/// <summary>
/// Addresses that are told, one call or mark each, to a router of the application's own: a function of the program is given a path and the
/// function that answers there, and keeps both. What stands around the call, a group with a prefix and steps of its own, holds for it.
/// </summary>
internal sealed partial class RegisteredRoutes(ProgramModel program, ProgramAnalysis flow, GuardClassifier names, AuthorizationChecks tests, CallRoutes surroundings)
{
    private const string ByRouter = "the application's own router";

    /// <summary>Groups within groups; further ones are not read.</summary>
    private const int MostGroups = 6;

    private static readonly string[] Methods = ["GET", "POST", "PUT", "PATCH", "DELETE", "HEAD"];

    private readonly WrittenValues _written = new(program);
    private readonly StoredArguments _stored = new(flow);
    private readonly HandlerNames _handlers = new(program);
    private readonly StepRefusals _refusals = new(tests, flow);

    /// <summary>Pages that only hand the request to the router.</summary>
    public HashSet<IrFunction> Dispatchers { get; } = [];

    /// <param name="taken">Functions that have addresses already.</param>
    public IReadOnlyList<EntryPoint> Read(IReadOnlySet<IrFunction> taken)
    {
        var found = new List<(EntryPoint Entry, IrFunction Registrar)>();
        foreach (var function in program.Functions.Where(f => !f.IsBrought))
        {
            foreach (var edge in flow.SummaryOf(function).Calls.Where(c => !c.Target.IsBrought && !c.Target.IsTopLevel))
            {
                if (function.Instructions[edge.Instruction] is { C: >= 2, Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic } && OfCall(function, edge.Instruction, edge.Target, taken) is { } entry)
                {
                    found.Add((entry, edge.Target));
                }
            }

            if (OfMark(function, taken) is var (marked, by))
            {
                found.Add((marked, by));
            }
        }

        return [.. found.GroupBy(f => Home(f.Registrar)).Where(g => IsOfServer(g.Select(e => e.Entry.Handler!))).SelectMany(g => WithDispatch(g.Key, [.. g.Select(e => e.Entry)]))];
    }

    /// <summary>Some handler reads a request or a record: in a page of a browser addresses are told to routers, too.</summary>
    private bool IsOfServer(IEnumerable<IrFunction> handlers) => handlers.Any(h => Languages.Family(h.File.Source.Language) == "php"
        || flow.EntryFactOf(h) is not null || flow.SummaryOf(h) is var done && (done.Reads.Any() || done.Events.Any(e => e.Kind is EventKind.Query or EventKind.Run or EventKind.Access)));

    private static object Home(IrFunction registrar) => (object?)registrar.Class ?? registrar.File;

    private EntryPoint? OfCall(IrFunction function, int call, IrFunction registrar, IReadOnlySet<IrFunction> taken)
    {
        var given = function.List(function.Instructions[call]).ToArray().Select(o => (o.Name, Value: ValueOf(function, o.Value), At: o.At == default ? function.LocationOf(o.Value) : new Location(function.File.Index, o.At.Start, o.At.End))).ToList();
        // The path of a group itself may be empty.
        var path = given.FindIndex(g => g.Value is string text && (Path().IsMatch(text) || (text.Length == 0 && Groups(function).Any(o => o.Prefix is not null))));
        if (path < 0 || path > 2)
        {
            return null;
        }

        // A class and its method say more than a name, which may be that of a step.
        bool IsHandler(object? value) => !ReferenceEquals(value, given[path].Value) && HandlerIn(value, function) is not null;
        var handler = given.FindLastIndex(g => g.Value is WrittenTable && IsHandler(g.Value)) is >= 0 and var pair ? pair : given.FindLastIndex(g => IsHandler(g.Value));
        if (handler < 0 || HandlerIn(given[handler].Value, function) is not { IsBrought: false } answers || taken.Contains(answers) || answers == function || !_stored.KeepsOne(registrar))
        {
            return null;
        }

        var method = MethodOf(registrar, [.. given.Select(g => g.Value).OfType<string>()]);
        if (method is null)
        {
            return null;
        }

        var guards = given.Where((_, i) => i != path && i != handler).SelectMany(g => Steps(g.Value, g.Name, g.At, function)).ToList();
        guards.AddRange(OfRegistrar(registrar, function.LocationOf(call)));
        return Entry(function, method, (string)given[path].Value!, answers, function.LocationOf(call), guards);
    }

    private EntryPoint Entry(IrFunction around, string method, string path, IrFunction handler, Location at, IReadOnlyList<Middleware> guards)
    {
        var groups = Groups(around).ToList();
        var whole = groups.Select(g => g.Prefix).OfType<string>().Aggregate(Bare(path), (below, prefix) => RoutePath.Below(prefix, below));
        return new EntryPoint(method, RoutePath.Normal(RouteTable.Plain(whole)), handler, surroundings.Shown(handler), at, ByRouter, [.. groups.AsEnumerable().Reverse().SelectMany(g => g.Guards), .. guards, .. surroundings.Surrounding(handler)]);
    }

    /// <summary>The function that a value is or names: not a text that is only one word, which may be any name.</summary>
    private IrFunction? HandlerIn(object? value, IrFunction home) => value switch
    {
        IrFunction function => function,
        WrittenTable table when table.Entries() is { Length: 2 } pair && pair.All(p => p.Name is null or "0" or "1") => _written.Of(table.In, pair[1].Value) is string && !(_written.Of(table.In, pair[0].Value) is string first && program.FindNamedFunction(first, home.File) is not null) ? _handlers.HandlerOf([table], home) : null,
        string text when text.IndexOfAny(['@', ':', '#', '.']) > 0 || Languages.Family(home.File.Source.Language) == "php" => _handlers.HandlerOf([text], home),
        _ => null,
    };

    /// <summary>The method that is said, in an argument, by the name of what is called, or by a text in that; null where the call is for something else.</summary>
    private static string? MethodOf(IrFunction registrar, IReadOnlyList<string> given)
    {
        if (given.Select(g => g.Split(' ')[0].ToUpperInvariant()).FirstOrDefault(Methods.Contains) is { } said)
        {
            return said;
        }

        var name = registrar.Name.ToUpperInvariant();
        if (Methods.FirstOrDefault(m => name == m || name.EndsWith('_' + m, StringComparison.Ordinal) || name.StartsWith(m + '_', StringComparison.Ordinal) || name == "ON" + m || name == "MAP" + m) is { } named)
        {
            return named;
        }

        var texts = registrar.Instructions.Where(i => i is { Op: Opcode.Constant, Text: not null }).Select(i => i.Text!.Trim(' ', '/', ':').ToUpperInvariant()).Where(Methods.Contains).Distinct().ToList();
        return texts is [var only] ? only
            : name is "ROUTE" or "MAP" or "ADD" or "ANY" or "ALL" or "MATCH" or "ON" or "HANDLE" or "PAGE" or "ACTION" or "REGISTER" or "ENDPOINT" or "ADDROUTE" or "ADD_ROUTE" or "URL" or "AT" or "SERVE" or "HOOK" or "RPC" || texts.Count > 1 ? "*"
            : null;
    }

    /// <summary>A value that the code says by itself, or the function that a call makes: <c>only('office')</c>.</summary>
    private object? ValueOf(IrFunction function, int value) => _written.Of(function, value)
        ?? flow.SummaryOf(function).Calls.Where(c => c.Instruction == value).SelectMany(c => c.Target.Instructions.Where(i => i is { Op: Opcode.Return, A: >= 0 }).Select(r => _written.Of(c.Target, r.A))).OfType<IrFunction>().FirstOrDefault()
        ?? (value >= 0 && function.Instructions[value].Op is Opcode.Import or Opcode.GetField or Opcode.LoadCell or Opcode.Global ? program.FindNamedFunction(program.Tree.TextOf(function.LocationOf(value)), function.File) ?? NamedAt(function, value) : null)
        ?? (value >= 0 && function.Instructions[value].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New ? Unknown : null);

    private IrFunction? NamedAt(IrFunction function, int value) => function.Names.GetValueOrDefault(value) is { } name ? program.FindNamedFunction(name, function.File) : null;

    /// <summary>Something that a call gives, and that was not understood.</summary>
    private static readonly object Unknown = new();

    /// <summary>What a step asks of those who come by it.</summary>
    private Requirement Asks(string name, IrFunction step, IrFile file)
    {
        var asks = names.Of(name, step, file);
        return asks is Requirement.Other or Requirement.Perhaps && _refusals.Of(step) is var refused and not Requirement.Other ? refused : asks;
    }

    /// <summary>What a value asks for that is given beside path and handler: a step, a list of steps, the name of one, or options.</summary>
    private IEnumerable<Middleware> Steps(object? value, string? name, Location at, IrFunction home)
    {
        switch (value)
        {
            case IrFunction step:
                yield return new Middleware(step.Name.Length > 0 ? surroundings.Shown(step) : program.Tree.TextOf(at, 40), Asks(step.Name.Length > 0 ? step.Name : step.Outer?.Name ?? "", step, home.File), at, step);
                break;
            case string text when name is not null || Word().IsMatch(text):
                var function = program.FindNamedFunction(text, home.File);
                var asks = function is null ? names.Of(text, function, home.File) : Asks(text, function, home.File);
                if (asks != Requirement.Other || function is not null)
                {
                    yield return new Middleware(text, asks, at, function);
                }
                else if (name is not null && Speaks(name))
                {
                    yield return new Middleware($"{name}: {text}", Requirement.Perhaps, at);
                }

                break;
            case not null when ReferenceEquals(value, Unknown) && program.Tree.TextOf(at, 60) is var made && !names.IsOfLibrary(made, home.File):
                yield return new Middleware(made, names.Of(made, (IrFunction?)null, home.File) is var said and not Requirement.Other ? said : Requirement.Perhaps, at);
                break;
            case true when name is not null && Speaks(name):
                yield return new Middleware(name, Requirement.Perhaps, at);
                break;
            case WrittenTable pair when HandlerIn(pair, home) is { } method:
                yield return new Middleware(surroundings.Shown(method), Asks(method.Name, method, home.File), at, method);
                break;
            case WrittenTable table:
                foreach (var entry in table.Entries())
                {
                    foreach (var step in Steps(_written.Of(table.In, entry.Value), entry.Name ?? name, at, home))
                    {
                        yield return step;
                    }
                }

                break;
        }
    }

    private bool Speaks(string option) => flow.Vocabulary.TellsOfSignIn(option) || flow.Vocabulary.TellsOfRole(option) || flow.Vocabulary.DemandsRole(option);

    /// <summary>Steps that the registering function adds by itself, named in a text.</summary>
    private IEnumerable<Middleware> OfRegistrar(IrFunction registrar, Location at) =>
        registrar.Instructions.Where(i => i is { Op: Opcode.Constant, Text: { Length: > 2 } text } && Word().IsMatch(text)).Select(i => program.FindNamedFunction(i.Text!, registrar.File)).OfType<IrFunction>().Distinct()
            .Select(f => new Middleware(f.Name, Asks(f.Name, f, registrar.File), at, f)).Where(m => m.Asks != Requirement.Other);

    /// <summary>The calls that the code around a route is given to, the nearest first: each may say a prefix and steps.</summary>
    private IEnumerable<(string? Prefix, IReadOnlyList<Middleware> Guards)> Groups(IrFunction around)
    {
        for (var (inner, count) = (around, 0); inner.Outer is { } outer && count < MostGroups; inner = outer, count++)
        {
            var made = Array.FindIndex(outer.Instructions, i => i.Op == Opcode.Function && i.A < outer.File.Functions.Count && outer.File.Functions[i.A] == inner);
            var call = made < 0 ? -1 : outer.OutgoingCalls.FirstOrDefault(i => outer.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && outer.List(outer.Instructions[i]).ToArray().Any(o => o.Value == made), -1);
            if (call < 0)
            {
                continue;
            }

            var others = outer.List(outer.Instructions[call]).ToArray().Where(o => o.Value != made).Select(o => (o.Name, Value: ValueOf(outer, o.Value), At: outer.LocationOf(o.Value))).ToList();
            var prefix = others.Select(o => o.Value).OfType<string>().FirstOrDefault(t => Path().IsMatch(t));
            yield return (prefix, [.. others.Where(o => !ReferenceEquals(o.Value, prefix)).SelectMany(o => Steps(o.Value, o.Name, o.At, outer))]);
        }
    }

    /// <summary>What the code asks that calls the handlers: of all of them, or of some.</summary>
    private List<EntryPoint> WithDispatch(object home, List<EntryPoint> entries)
    {
        var calling = program.Functions.Where(f => (home is IrClass type ? f.Class?.Primary == type.Primary : f.File == home) && StoredArguments.CallsOfKept(f).Any()).ToList();
        foreach (var page in program.Functions.Where(f => f.IsTopLevel && flow.SummaryOf(f).Calls.Any(c => calling.Contains(c.Target))))
        {
            Dispatchers.Add(page);
        }

        List<Middleware> common = [];
        foreach (var function in calling)
        {
            var last = function.BlockOf[StoredArguments.CallsOfKept(function).Last()];
            var handed = StoredArguments.CallsOfKept(function).Select(function.LocationOf).ToHashSet();
            foreach (var test in tests.In(function).Where(t => !handed.Contains(t.At) && t.Asks is Requirement.SignIn or Requirement.Role or Requirement.Perhaps or Requirement.Forgery))
            {
                var always = AuthorizationChecks.Dominates(function, test.Block, last);
                common.Add(new Middleware(test.Text, always ? test.Asks : test.Asks == Requirement.Forgery ? Requirement.Other : Requirement.Perhaps, test.At, function));
            }
        }

        return common.Count == 0 ? entries : entries.ConvertAll(e => e with { Guards = [.. common, .. e.Guards] });
    }

    /// <summary>A decorator of the program's own that is given a path, and keeps the function on which it stands.</summary>
    private (EntryPoint Entry, IrFunction By)? OfMark(IrFunction function, IReadOnlySet<IrFunction> taken)
    {
        foreach (var mark in taken.Contains(function) || function.File.Source.Language != Language.Python ? [] : function.Annotations)
        {
            var texts = mark.Arguments.Select(a => (a.Value as Syntax.Literal)?.Text).OfType<string>().ToList();
            if (texts.Find(t => Path().IsMatch(t)) is not { } path || Decorator(mark.Name, function.File) is not { } maker || MethodOf(maker, texts) is not { } method)
            {
                continue;
            }

            var at = new Location(function.File.Index, mark.Span.Start, mark.Span.End);
            return (Entry(function, method, path, function, at, []), maker);
        }

        return null;
    }

    /// <summary>The function that makes the decorator, where what it makes keeps the function that it is put on.</summary>
    private IrFunction? Decorator(string name, IrFile file)
    {
        _makers ??= program.Functions.Where(f => !f.IsBrought && f.File.Source.Language == Language.Python && f.File.Functions.Any(i => i.Outer == f && _stored.KeepsOne(i))).ToLookup(f => f.Name, StringComparer.Ordinal);
        var makers = _makers[IrClass.ShortOf(name)].ToList();
        return program.FindNamedFunction(name, file) is { } named && makers.Contains(named) ? named : name.Contains('.', StringComparison.Ordinal) ? makers.FirstOrDefault() : null;
    }

    private ILookup<string, IrFunction>? _makers;

    private static string Bare(string path) => path.IndexOf(' ', StringComparison.Ordinal) is > 0 and var space ? path[(space + 1)..] : path;

    [GeneratedRegex(@"^(?:(?:GET|POST|PUT|PATCH|DELETE|HEAD|ANY) )?[#~@!%]?\^?/[^\s,;]*$", RegexOptions.IgnoreCase, 200)]
    private static partial Regex Path();

    [GeneratedRegex(@"^[A-Za-z_][\w.:-]*$", RegexOptions.None, 200)]
    private static partial Regex Word();
}
