using System.Collections.Concurrent;
using Bellator.Analysis.Ir;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Programs;

/// <summary>All files of a tree put together: functions, classes and modules can be found from any of them.</summary>
public sealed class ProgramModel
{
    private readonly Dictionary<string, List<IrFunction>> _functionsByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<IrFunction>> _methodsByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<IrClass>> _classesByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<IrClass>> _classesByShortName = new(StringComparer.OrdinalIgnoreCase);
    private readonly System.Collections.Concurrent.ConcurrentDictionary<IrClass, IrClass?> _bases = new();
    private readonly System.Collections.Concurrent.ConcurrentDictionary<IrClass, (string Name, IrClass Used)[]> _traits = new();

    private ProgramModel(SourceTree tree, IReadOnlyList<IrFile> files, int functionBound, int cellCount)
    {
        Tree = tree;
        Files = files;
        Functions = [.. files.SelectMany(f => f.Functions)];
        Classes = [.. files.SelectMany(f => f.Classes)];
        FunctionBound = functionBound;
        _hasNamedTypes = files.Any(f => f.NamedTypes.Count > 0);
        CellCount = cellCount;
        foreach (var function in Functions)
        {
            function.Restore();
        }

        foreach (var type in Classes)
        {
            type.Restore();
        }

        Modules = new ModuleResolver(files);
        IndexNames();
        _madeFor = new(() => Classes.Where(c => c is { Base: not null, BaseArguments: [_] })
            .GroupBy(c => (IrClass.ShortOf(c.Base!), IrClass.ShortOf(c.BaseArguments[0]))).ToDictionary(g => g.Key, g => g.First()));
        _marked = new(() => Functions.Where(f => f.Annotations.Count > 0).SelectMany(f => f.Annotations.Select(a => (Function: f,
            Name: (a.Arguments.FirstOrDefault(g => g.Name is null or "name")?.Value as Literal)?.Text ?? f.Name))).Distinct().ToLookup(m => m.Name, m => m.Function, StringComparer.Ordinal));
        _derived = new(() => Classes.Where(c => ReferenceEquals(c, c.Primary) && c.Base is not null).ToLookup(c => OutsideBase(c)?.TrimStart('\\') ?? "", StringComparer.OrdinalIgnoreCase));
    }

    /// <summary>The program's class that is derived from one of a library; null if there is none, or several.</summary>
    public IrClass? OnlyDerived(string library) => DerivedFrom(library).Take(2).ToList() is [var only] ? only : null;

    /// <summary>The program's classes that are derived from one of a library.</summary>
    public IEnumerable<IrClass> DerivedFrom(string library) => _derived.Value[library];

    private readonly Lazy<ILookup<string, IrClass>> _derived;

    /// <summary>The classes, in the language of the file, whose names end so: those of a framework that goes by names.</summary>
    public IEnumerable<IrClass> ClassesEndingWith(string suffix, IrFile from) =>
        OfLanguage(_ending.GetOrAdd(suffix, s => [.. Classes.Where(c => ReferenceEquals(c, c.Primary) && c.ShortName.EndsWith(s, StringComparison.Ordinal))]), from);

    private readonly ConcurrentDictionary<string, List<IrClass>> _ending = new(StringComparer.Ordinal);

    /// <summary>The function that is known to templates by a name: one with a mark of the kind, which may give it another name than its own.</summary>
    /// <param name="isMark">The last part of a mark's name says that templates may use the function.</param>
    public IrFunction? TemplateFunction(string name, Func<string, bool> isMark) =>
        _marked.Value[name].FirstOrDefault(f => f.Annotations.Any(a => isMark(IrClass.ShortOf(a.Name))));

    private readonly Lazy<ILookup<string, IrFunction>> _marked;

    public SourceTree Tree { get; }

    /// <summary>The innermost function around a place; null if the place is not known.</summary>
    /// <param name="named">Only functions that have a name: no closures, and not the top level of a file.</param>
    public IrFunction? FunctionAt(Location at, bool named = false) => at.IsKnown
        ? Files[at.File].Functions.Where(f => f.Span.Start <= at.Start && f.Span.End >= at.Start && (!named || (f.Name.Length > 0 && f.Name[0] != '<'))).MinBy(f => f.Span.End - f.Span.Start)
        : null;

    /// <summary>One for each file of the tree, in its order.</summary>
    public IReadOnlyList<IrFile> Files { get; }

    /// <summary>In the order of the files, and as they stand in them.</summary>
    public IReadOnlyList<IrFunction> Functions { get; }

    /// <summary>The functions' numbers are below this. A program that was renewed has numbers that no function bears any more.</summary>
    public int FunctionBound { get; }

    public IReadOnlyList<IrClass> Classes { get; }

    public int CellCount { get; }

    public ModuleResolver Modules { get; }

    /// <summary>Puts files together and numbers what is in them.</summary>
    public static ProgramModel Build(SourceTree tree, IReadOnlyList<IrFile> files)
    {
        var functions = 0;
        var classes = 0;
        var cells = 0;
        for (var i = 0; i < files.Count; i++)
        {
            var file = files[i];
            file.Index = i;
            file.FirstCell = cells;
            cells += file.CellCount;
            file.Functions.ForEach(f => f.Id = functions++);
            file.Classes.ForEach(c => c.Id = classes++);
        }

        return new ProgramModel(tree, files, functions, cells);
    }

    /// <summary>The same program after some of its files were renewed; what stayed keeps its number.</summary>
    /// <param name="files">All files, those that changed as they are read now; a renewed file takes its place here.</param>
    /// <returns>Null if a file declares other things than before: then the program has to be put together anew.</returns>
    public ProgramModel? UpdatedWith(SourceTree tree, IrFile[] files)
    {
        var functions = FunctionBound;
        var cells = CellCount;
        for (var i = 0; i < files.Length; i++)
        {
            if (!ReferenceEquals(files[i], Files[i]))
            {
                if (!IncrementalFileUpdate.TryApply(Files[i], files[i], ref functions, ref cells))
                {
                    return null;
                }

                files[i] = Files[i];
            }
        }

        return new ProgramModel(tree, files, functions, cells);
    }

    /// <summary>A function that is known everywhere by its name (PHP); of several, the one in the nearest folder.</summary>
    public IrFunction? FindFunction(string name, IrFile from)
    {
        var shortName = name[(name.LastIndexOf('\\') + 1)..];
        return _functionsByName.TryGetValue(shortName, out var found) ? Nearest(found, from, f => f.File) : null;
    }

    /// <summary>The function that a name in a file's code means: one known by its name, or one of another file that the name is imported from.</summary>
    public IrFunction? FindNamedFunction(string name, IrFile from)
    {
        var parts = name.Split('.');
        return FindFunction(name, from)
            ?? (from.Imports.TryGetValue(parts[0], out var import) && Modules.Resolve(from.Source.Path, import.Module) is >= 0 and var module
                ? Files[module].Functions.FirstOrDefault(f => f.Name == (parts.Length > 1 ? parts[^1] : import.Name) && f.Outer is { IsTopLevel: true }) : null)
            ?? (parts.Length > 1 && ModuleNamed(parts[0], from) is { } home ? home.Functions.FirstOrDefault(f => f.Name == parts[^1] && f.Outer is { IsTopLevel: true }) : null);
    }

    /// <summary>The file that a name stands for which was taken from a package: <c>from .. import security</c>.</summary>
    private IrFile? ModuleNamed(string name, IrFile from) =>
        from.Imports.TryGetValue(name, out var import) && import.Name is { Length: > 0 } part && Modules.Resolve(from.Source.Path, import.Module.EndsWith('.') ? import.Module + part : import.Module + "." + part) is >= 0 and var module ? Files[module] : null;

    private readonly System.Collections.Concurrent.ConcurrentDictionary<IrFunction, bool> _keeping = [];

    /// <summary>The decorator, or what it makes, puts something that it was given into a list or table.</summary>
    public bool KeepsDecorated(IrFunction decorator) => _keeping.GetOrAdd(decorator, d => d.File.Functions.Where(f => f == d || f.Outer == d).Any(PutsAway));

    private static bool PutsAway(IrFunction function)
    {
        bool IsGiven(int value) => value >= 0 && (function.Instructions[value].Op == Opcode.Parameter || (function.Instructions[value].Op is Opcode.List or Opcode.Object or Opcode.New or Opcode.Call && function.List(function.Instructions[value]).ToArray().Any(o => o.Value >= 0 && function.Instructions[o.Value].Op == Opcode.Parameter)));
        return function.Instructions.Any(i => i switch
        {
            { Op: Opcode.SetItem or Opcode.WithItem } => IsGiven(i.C),
            { Op: Opcode.CallMethod, Text: "append" or "add" or "insert" or "setdefault" or "register" or "add_route" or "add_url_rule" } => function.List(i).ToArray().Any(o => IsGiven(o.Value)),
            _ => false,
        });
    }

    private HashSet<string>? _marks;

    /// <summary>Some function of the program has a mark of this function's name.</summary>
    public bool IsDecorator(IrFunction function) => (_marks ??= [.. Functions.SelectMany(f => f.Annotations).Select(a => IrClass.ShortOf(a.Name))]).Contains(function.Name);

    private readonly bool _hasNamedTypes;

    /// <summary>What a name for a type stands for in a file, and the file that says so; null if it is none.</summary>
    public (IrFile Home, NamedType Type)? NamedType(string name, IrFile file)
    {
        if (!_hasNamedTypes)
        {
            return null;
        }

        return file.NamedTypes.TryGetValue(name, out var own) ? (file, own)
            : name.Split('.') is [var of, var inner] && ModuleNamed(of, file) is { } home && home.NamedTypes.TryGetValue(inner, out var there) ? (home, there)
            : file.Imports.TryGetValue(name, out var import) && Modules.Resolve(file.Source.Path, import.Module) is >= 0 and var module && Files[module].NamedTypes.TryGetValue(import.Name, out var other) ? (Files[module], other)
            : null;
    }

    /// <summary>A class by its qualified name, or by the last part of it if only one class has that.</summary>
    public IrClass? FindClass(string name, IrFile from)
    {
        if (_classesByName.TryGetValue(name, out var found) && OfLanguage(found, from) is { Count: > 0 } named)
        {
            return Nearest(named, from, c => c.File);
        }

        if (!_classesByShortName.TryGetValue(IrClass.ShortOf(name), out found) || OfLanguage(found, from) is not { Count: > 0 } called)
        {
            return null;
        }

        return called.Count == 1 ? called[0] : LanguageSemantics.For(from.Source.Language).ShortClassNames ? Nearest(called, from, c => c.File) : null;
    }

    /// <summary>Several applications in one tree may call a class by one name, each in its language.</summary>
    private static List<IrClass> OfLanguage(List<IrClass> found, IrFile from)
    {
        var family = Languages.Family(from.Source.Language);
        return found.TrueForAll(c => Languages.Family(c.File.Source.Language) == family) ? found : found.FindAll(c => Languages.Family(c.File.Source.Language) == family);
    }

    /// <summary>The base class, if it is part of the program.</summary>
    public IrClass? BaseOf(IrClass type)
    {
        if (type.Base is null)
        {
            return null;
        }

        return _bases.GetOrAdd(type, t => FindClass(t.Base!, t.File) is { } parent && !ReferenceEquals(parent, t) ? parent : null);
    }

    /// <summary>The traits or modules of a class that are part of the program, by the names it gives them.</summary>
    private (string Name, IrClass Used)[] TraitsOf(IrClass type) =>
        _traits.GetOrAdd(type, t => [.. t.Traits.Select(n => (Name: n, Used: FindClass(n, t.File))).Where(n => n.Used is not null).Select(n => (n.Name, n.Used!))]);

    /// <summary>The method as the class has it: its own, from a trait, or inherited. Where the class only promises it, the first implementation.</summary>
    public IrFunction? FindMethod(IrClass type, string name)
    {
        var at = type;
        IrClass? brought = null;
        for (var depth = 0; at is not null && depth < 20; depth++)
        {
            at = at.Primary;
            brought ??= at.ActsFor?.Brought ?? at.Brought;
            if (at.Methods.TryGetValue(name, out var method) && at.Kind != ClassKind.Interface)
            {
                return method;
            }

            foreach (var (trait, used) in at.Traits.Count == 0 ? [] : TraitsOf(at))
            {
                if (used.Methods.TryGetValue(name, out method))
                {
                    // The framework's own stands before what is put behind it.
                    return at.Brought is { } own && own.BasesBehind.Contains(trait) && own.Methods.TryGetValue(name, out var first) ? first : method;
                }
            }

            at = BaseOf(at);
        }

        return type.Kind == ClassKind.Interface ? FindImplementation(type, name) : brought?.Methods.GetValueOrDefault(name);
    }

    /// <summary>The type by which a framework's facts know the objects of a class that has methods of the framework.</summary>
    internal string? BroughtKind(IrClass type)
    {
        var at = type;
        for (var depth = 0; at is not null && depth < 20; depth++)
        {
            if ((at.ActsFor ?? at).Brought?.BroughtKind is { } kind)
            {
                return kind;
            }

            at = BaseOf(at);
        }

        return null;
    }

    /// <summary>The only method of this name in the whole program, if there is just one.</summary>
    public IrFunction? FindOnlyMethod(string name) => _methodsByName.TryGetValue(name, out var found) && found.Count == 1 ? found[0] : null;

    /// <summary>Name of the first base class that is not part of the program.</summary>
    public string? OutsideBase(IrClass type)
    {
        var at = type;
        for (var depth = 0; depth < 20; depth++)
        {
            if (BaseOf(at) is not { } parent)
            {
                return at.Base;
            }

            at = parent;
        }

        return null;
    }

    /// <summary>The class of the program that is based on a library's generic class, made for another class.</summary>
    public IrClass? RulesFor(string library, string type) =>
        _madeFor.Value.GetValueOrDefault((library, type));

    private readonly Lazy<Dictionary<(string, string), IrClass>> _madeFor;

    /// <summary>The class of the program that the type of a value stands for, as <c>#12</c>; null for types of libraries.</summary>
    public IrClass? ClassOfType(string type) => type is ['#', ..] ? Classes[int.Parse(type.AsSpan(1), System.Globalization.CultureInfo.InvariantCulture)] : null;

    private IrFunction? FindImplementation(IrClass contract, string name) =>
        ImplementationsOf(contract).Select(c => c.Methods.GetValueOrDefault(name)).FirstOrDefault(m => m is not null);

    /// <summary>The classes of the program that name the interface among what they implement.</summary>
    public IReadOnlyList<IrClass> ImplementationsOf(IrClass contract)
    {
        lock (_bases)
        {
            if (_implementations is null)
            {
                _implementations = [];
                foreach (var type in Classes.Where(c => c.Kind == ClassKind.Class))
                {
                    foreach (var promised in type.Interfaces)
                    {
                        if (FindClass(promised, type.File) is { } found)
                        {
                            (_implementations.TryGetValue(found, out var list) ? list : _implementations[found] = []).Add(type);
                        }
                    }
                }
            }
        }

        return _implementations.TryGetValue(contract, out var candidates) ? candidates : [];
    }

    private Dictionary<IrClass, List<IrClass>>? _implementations;

    /// <summary>The class, those it is based on and the traits and interfaces it names, nearest first, also those outside of the program.</summary>
    public IEnumerable<string> Kinds(IrClass type)
    {
        var at = type.Primary;
        for (var depth = 0; depth < 12; depth++)
        {
            yield return at.Name;
            foreach (var name in at.Traits.Concat(at.Interfaces))
            {
                yield return name;
            }

            if (BaseOf(at) is not { } parent)
            {
                if (at.Base is not null)
                {
                    yield return at.Base;
                }

                yield break;
            }

            at = parent;
        }
    }

    private static T Nearest<T>(List<T> found, IrFile from, Func<T, IrFile> file)
    {
        if (found.Count == 1)
        {
            return found[0];
        }

        var path = from.Source.Path;
        return found.OrderByDescending(f => CommonPrefix(file(f).Source.Path, path)).First();
    }

    private static int CommonPrefix(string a, string b)
    {
        var i = 0;
        while (i < a.Length && i < b.Length && a[i] == b[i])
        {
            i++;
        }

        return i == 0 ? 0 : a.LastIndexOf('/', i - 1) + 1;
    }

    private void IndexNames()
    {
        foreach (var function in Functions)
        {
            if (function.Name.Length == 0 || function.Name[0] == '<')
            {
                continue;
            }

            if (function.Class?.ActsFor is not null)
            {
                continue;
            }

            Add(function.Class is null || function.Class.Methods.GetValueOrDefault(function.Name) != function ? _functionsByName : _methodsByName, function.Name, function);
        }

        JoinParts();
        foreach (var type in Classes.Where(c => ReferenceEquals(c.Primary, c) && c.ActsFor is null))
        {
            Add(_classesByName, type.Name, type);
            Add(_classesByShortName, type.ShortName, type);
        }
    }

    /// <summary>A class declared in several places (partial, or opened again) is one.</summary>
    private void JoinParts()
    {
        foreach (var group in Classes.Where(c => c.Name.Length > 0 && (LanguageSemantics.For(c.File.Source.Language).OpenClasses || c.Annotations.Any(a => a.Name == "<partial>"))).GroupBy(c => (c.Name, c.File.Source.Language)))
        {
            var parts = group.ToList();
            foreach (var part in parts.Skip(1))
            {
                parts[0].Join(part);
            }
        }
    }

    private static void Add<T>(Dictionary<string, List<T>> index, string name, T item)
    {
        if (!index.TryGetValue(name, out var list))
        {
            index[name] = list = [];
        }

        list.Add(item);
    }
}
