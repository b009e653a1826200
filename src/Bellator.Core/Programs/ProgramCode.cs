using Bellator.Core.Code;
using Bellator.Core.Sources;

namespace Bellator.Core.Programs;

/// <summary>All files of a tree put together: functions, classes and modules can be found from any of them.</summary>
public sealed class ProgramCode
{
    private readonly Dictionary<string, List<CodeFunction>> _functionsByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<CodeFunction>> _methodsByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<CodeClass>> _classesByName = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<CodeClass>> _classesByShortName = new(StringComparer.OrdinalIgnoreCase);
    private readonly System.Collections.Concurrent.ConcurrentDictionary<CodeClass, CodeClass?> _bases = new();

    private ProgramCode(SourceTree tree, IReadOnlyList<FileCode> files, List<CodeFunction> functions, List<CodeClass> classes, int cellCount)
    {
        Tree = tree;
        Files = files;
        Functions = functions;
        Classes = classes;
        CellCount = cellCount;
        Modules = new ModuleIndex(files);
    }

    public SourceTree Tree { get; }

    /// <summary>One for each file of the tree, in its order.</summary>
    public IReadOnlyList<FileCode> Files { get; }

    public IReadOnlyList<CodeFunction> Functions { get; }

    public IReadOnlyList<CodeClass> Classes { get; }

    public int CellCount { get; }

    public ModuleIndex Modules { get; }

    public static ProgramCode Build(SourceTree tree, IReadOnlyList<FileCode> files)
    {
        var functions = new List<CodeFunction>();
        var classes = new List<CodeClass>();
        var cells = 0;
        for (var i = 0; i < files.Count; i++)
        {
            var file = files[i];
            file.Index = i;
            file.FirstCell = cells;
            cells += file.CellCount;
            foreach (var function in file.Functions)
            {
                function.Id = functions.Count;
                functions.Add(function);
            }

            foreach (var type in file.Classes)
            {
                type.Id = classes.Count;
                classes.Add(type);
            }
        }

        var program = new ProgramCode(tree, files, functions, classes, cells);
        program.IndexNames();
        return program;
    }

    /// <summary>A function that is known everywhere by its name (PHP); of several, the one in the nearest folder.</summary>
    public CodeFunction? FindFunction(string name, FileCode from)
    {
        var shortName = name[(name.LastIndexOf('\\') + 1)..];
        return _functionsByName.TryGetValue(shortName, out var found) ? Nearest(found, from, f => f.File) : null;
    }

    /// <summary>A class by its qualified name, or by the last part of it if only one class has that.</summary>
    public CodeClass? FindClass(string name, FileCode from)
    {
        if (_classesByName.TryGetValue(name, out var found))
        {
            return Nearest(found, from, c => c.File);
        }

        if (!_classesByShortName.TryGetValue(CodeClass.ShortOf(name), out found))
        {
            return null;
        }

        return found.Count == 1 ? found[0] : LanguageRules.For(from.Source.Language).ShortClassNames ? Nearest(found, from, c => c.File) : null;
    }

    /// <summary>The base class, if it is part of the program.</summary>
    public CodeClass? BaseOf(CodeClass type)
    {
        if (type.Base is null)
        {
            return null;
        }

        return _bases.GetOrAdd(type, t => FindClass(t.Base!, t.File) is { } parent && !ReferenceEquals(parent, t) ? parent : null);
    }

    /// <summary>The method as the class has it: its own, from a trait, or inherited. Where the class only promises it, the first implementation.</summary>
    public CodeFunction? FindMethod(CodeClass type, string name)
    {
        var at = type;
        for (var depth = 0; at is not null && depth < 20; depth++)
        {
            at = at.Primary;
            if (at.Methods.TryGetValue(name, out var method) && at.Kind != Syntax.ClassKind.Interface)
            {
                return method;
            }

            foreach (var trait in at.Traits)
            {
                if (FindClass(trait, at.File) is { } used && used.Methods.TryGetValue(name, out method))
                {
                    return method;
                }
            }

            at = BaseOf(at);
        }

        return type.Kind == Syntax.ClassKind.Interface ? FindImplementation(type, name) : null;
    }

    /// <summary>The only method of this name in the whole program, if there is just one.</summary>
    public CodeFunction? FindOnlyMethod(string name) => _methodsByName.TryGetValue(name, out var found) && found.Count == 1 ? found[0] : null;

    /// <summary>Name of the first base class that is not part of the program.</summary>
    public string? OutsideBase(CodeClass type)
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

    private CodeFunction? FindImplementation(CodeClass contract, string name)
    {
        lock (_bases)
        {
            if (_implementations is null)
            {
                _implementations = [];
                foreach (var type in Classes.Where(c => c.Kind == Syntax.ClassKind.Class))
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

        return _implementations.TryGetValue(contract, out var candidates)
            ? candidates.Select(c => c.Methods.GetValueOrDefault(name)).FirstOrDefault(m => m is not null)
            : null;
    }

    private Dictionary<CodeClass, List<CodeClass>>? _implementations;

    /// <summary>The class, those it is based on and the traits and interfaces it names, nearest first, also those outside of the program.</summary>
    public IEnumerable<string> Kinds(CodeClass type)
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

    private static T Nearest<T>(List<T> found, FileCode from, Func<T, FileCode> file)
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

            Add(function.Class is null || function.Class.Methods.GetValueOrDefault(function.Name) != function ? _functionsByName : _methodsByName, function.Name, function);
        }

        JoinParts();
        foreach (var type in Classes.Where(c => ReferenceEquals(c.Primary, c)))
        {
            Add(_classesByName, type.Name, type);
            Add(_classesByShortName, type.ShortName, type);
        }
    }

    /// <summary>A class declared in several places (partial, or opened again) is one.</summary>
    private void JoinParts()
    {
        foreach (var group in Classes.Where(c => c.Name.Length > 0 && (LanguageRules.For(c.File.Source.Language).ReopensClasses || c.Annotations.Any(a => a.Name == "<partial>"))).GroupBy(c => (c.Name, c.File.Source.Language)))
        {
            var parts = group.ToList();
            var first = parts[0];
            foreach (var part in parts.Skip(1))
            {
                part.Primary = first;
                first.Base ??= part.Base;
                first.Fields = [.. first.Fields, .. part.Fields];
                first.Interfaces = [.. first.Interfaces, .. part.Interfaces];
                first.Traits = [.. first.Traits, .. part.Traits];
                first.Annotations = [.. first.Annotations, .. part.Annotations];
                foreach (var (name, method) in part.Methods)
                {
                    first.Methods.TryAdd(name, method);
                }
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
