using System.Diagnostics;
using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Programs;
using Bellator.Core.Sources;

namespace Bellator.Core.Flow;

/// <summary>
/// Follows values through a whole program. Functions are analysed one at a time against summaries of those they call; taint goes
/// up through summaries, so each call sees its own arguments, while types and callables go down and are joined over all calls.
/// Rounds repeat for those functions whose inputs changed, until nothing changes or the bound is reached.
/// </summary>
public sealed class ProgramFlow
{
    private const int MaxRounds = 14;

    /// <summary>Visits shorter than this are not counted against the limit: nearly all are.</summary>
    private static readonly TimeSpan Noticeable = TimeSpan.FromMilliseconds(20);

    /// <summary>How often a function may be looked at again; in large programs everything depends on everything, and later rounds add little.</summary>
    private int MaxVisits => Program.Functions.Count switch { < 4000 => 10, < 10000 => 5, _ => 3 };

    private readonly Summary?[] _summaries;
    private readonly HashSet<int>[] _dependents;
    private readonly Value?[][] _parameters;
    private readonly Dictionary<StoreKey, Value> _stores = [];
    private readonly Dictionary<StoreKey, HashSet<int>> _readers = [];
    private readonly Dictionary<string, SortedSet<int>> _sharedIn = new(StringComparer.Ordinal);
    private readonly Dictionary<CodeFunction, string> _failed = [];
    private readonly int[] _visits;
    private readonly HashSet<int> _coarse = [];
    private readonly HashSet<int> _shown = [];
    private readonly Dictionary<int, SortedSet<int>> _includers = [];
    private readonly Dictionary<int, TimeSpan> _spent = [];
    private readonly bool[] _called;
    private readonly HashSet<int> _dirty = [];
    private readonly int[] _order;
    private readonly Dictionary<string, Value> _constants = new(StringComparer.Ordinal);
    private readonly Dictionary<(int File, string Type), string?> _types = [];
    private readonly Dictionary<int, Dictionary<(int, int), (IReadOnlyList<InputCheck> Declared, IReadOnlyList<InputCheck> Passed)>> _inputChecks = [];

    public ProgramFlow(ProgramCode program, FactBase facts)
    {
        Program = program;
        Facts = facts;
        StoppingCalls.Cut(program, facts);
        Entries = new EntryPoints(program, facts);
        Views = new Views(program);
        Words = new Words(facts);
        var count = program.Functions.Count;
        _summaries = new Summary?[count];
        _dependents = new HashSet<int>[count];
        _order = CallOrder.Of(program);
        _visits = new int[count];
        _called = new bool[count];
        _parameters = new Value?[count][];
        for (var i = 0; i < count; i++)
        {
            _parameters[i] = new Value?[program.Functions[i].Parameters.Count];
        }
    }

    public ProgramCode Program { get; }

    public FactBase Facts { get; }

    public Words Words { get; }

    internal EntryPoints Entries { get; }

    internal Views Views { get; }

    internal TemplatePages Pages { get; } = new();

    /// <summary>Functions whose analysis stopped at a bound; their results are coarser.</summary>
    public int BoundedFunctions { get; private set; }

    /// <summary>How long one function may be looked at, all visits together.</summary>
    public TimeSpan FunctionLimit { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>Functions that took longer; what comes in may come out again, and nothing more is known of them.</summary>
    public IEnumerable<CodeFunction> Coarse => _coarse.Order().Select(i => Program.Functions[i]);

    /// <summary>Functions that broke the analysis, and how: nothing is known of them, and the reviewer is told.</summary>
    public IReadOnlyDictionary<CodeFunction, string> Failed => _failed;

    /// <param name="progress">Told the share done, from 0 to 1, a few times each round.</param>
    public void Run(Action<double>? progress, CancellationToken cancel)
    {
        for (var i = 0; i < Program.Functions.Count; i++)
        {
            _dirty.Add(i);
        }

        for (var round = 0; round < MaxRounds && _dirty.Count > 0; round++)
        {
            int[] batch = [.. _dirty];
            Array.Sort(batch, (a, b) => _order[a].CompareTo(_order[b]));
            _dirty.Clear();
            for (var i = 0; i < batch.Length; i++)
            {
                if ((i & 63) == 0)
                {
                    cancel.ThrowIfCancellationRequested();
                    progress?.Invoke(Math.Min(0.99, 1 - Math.Pow(0.5, round + (i / (double)batch.Length))));
                }

                // What has become known of it in this round is seen now.
                _dirty.Remove(batch[i]);
                if (++_visits[batch[i]] > MaxVisits)
                {
                    BoundedFunctions++;
                    continue;
                }

                Analyse(Program.Functions[batch[i]]);
            }
        }

        progress?.Invoke(1);
    }

    /// <summary>Events of each function as they stand when nothing further is known of its parameters.</summary>
    public IEnumerable<FlowEvent> Events() => _summaries.Where(s => s is not null).SelectMany(s => s!.Events);

    /// <summary>True if the program itself calls the function somewhere, so that its parameters are known from there.</summary>
    public bool IsCalled(int function) => _called[function];

    internal void NoteCall(CodeFunction function)
    {
        if (!_called[function.Id])
        {
            _called[function.Id] = true;
            if (Entries.Of(function) is { Rest: not null })
            {
                _dirty.Add(function.Id);
            }
        }
    }

    /// <summary>Notes that a framework calls the function; true if it is one that the facts know.</summary>
    internal bool NoteEntry(CodeFunction function, string id)
    {
        if (Entries.Note(function, id))
        {
            _dirty.Add(function.Id);
        }

        return Entries.Of(function) is not null;
    }

    /// <summary>What is known of the function's request before it runs.</summary>
    internal (IReadOnlyList<InputCheck> Declared, IReadOnlyList<InputCheck> Passed) InputChecksOf(CodeFunction function)
    {
        if (!_inputChecks.TryGetValue(function.Id, out var routes))
        {
            return ([], []);
        }

        // A function of several routes knows what each of them declares, but only what all of them have checked.
        IEnumerable<InputCheck> passed = routes.Values.First().Passed;
        foreach (var route in routes.Values.Skip(1))
        {
            passed = passed.Intersect(route.Passed);
        }

        return ([.. routes.Values.SelectMany(r => r.Declared).Distinct()], [.. passed]);
    }

    internal void NoteInputChecks(CodeFunction function, (int, int) route, IReadOnlyList<InputCheck> declared, IReadOnlyList<InputCheck> passed)
    {
        var routes = _inputChecks.TryGetValue(function.Id, out var known) ? known : _inputChecks[function.Id] = [];
        if (!routes.TryGetValue(route, out var before) || !before.Declared.SequenceEqual(declared) || !before.Passed.SequenceEqual(passed))
        {
            routes[route] = (declared, passed);
            _dirty.Add(function.Id);
        }
    }

    internal Summary? SummaryOf(CodeFunction function, CodeFunction reader)
    {
        (_dependents[function.Id] ??= []).Add(reader.Id);
        return _summaries[function.Id];
    }

    internal Value? ParameterInfo(CodeFunction function, int index) => _parameters[function.Id][index];

    /// <summary>True if code was found that shows the page: then what the page uses without being given it, it makes itself.</summary>
    public bool IsShown(FileCode page) => IsShown(page.Index, 0);

    private bool IsShown(int page, int depth) => _shown.Contains(page) || (depth < 4 && IncludersOf(page).Any(p => IsShown(p, depth + 1)));

    /// <summary>The pages that put this one in.</summary>
    internal IEnumerable<int> IncludersOf(int page) => _includers.TryGetValue(page, out var pages) ? pages : [];

    internal void NoteIncluded(int page, int by)
    {
        if (page != by && (_includers.TryGetValue(page, out var pages) ? pages : _includers[page] = []).Add(by))
        {
            _dirty.UnionWith(Program.Files[page].Functions.Select(f => f.Id));
        }
    }

    internal void NoteShown(int page) => _shown.Add(page);

    /// <summary>Tells a function what a call gives it; only what does not depend on the call's own data.</summary>
    internal void InformParameter(CodeFunction function, int index, Value argument)
    {
        if (index >= _parameters[function.Id].Length)
        {
            return;
        }

        var info = Substitution.WithoutTaints(argument);
        if (info is null)
        {
            return;
        }

        var known = _parameters[function.Id][index];
        var joined = known is null ? info : Value.Join(known, info);
        if (known is null || !joined.SameAs(known))
        {
            _parameters[function.Id][index] = joined;
            _dirty.Add(function.Id);
        }
    }

    internal Value? Load(StoreKey key, CodeFunction reader)
    {
        if (!_readers.TryGetValue(key, out var readers))
        {
            _readers[key] = readers = [];
        }

        readers.Add(reader.Id);
        return _stores.GetValueOrDefault(key);
    }

    internal void Store(StoreKey key, Value value)
    {
        var known = _stores.GetValueOrDefault(key);
        var joined = known is null ? value : Value.Join(known, value);
        if (known is null || !joined.SameAs(known))
        {
            _stores[key] = joined;
            if (key.Kind == StoreKind.Shared)
            {
                (_sharedIn.TryGetValue(key.Name, out var files) ? files : _sharedIn[key.Name] = []).Add(key.Owner);
                key = key with { Owner = -1 };
            }

            if (_readers.TryGetValue(key, out var readers))
            {
                _dirty.UnionWith(readers);
            }
        }
    }

    /// <summary>A variable of this name at the top level of the file or of those it is included with.</summary>
    internal Value? LoadShared(FileCode file, string name, CodeFunction reader)
    {
        // Readers wait for the name; only files that really set it are asked.
        Load(new StoreKey(StoreKind.Shared, -1, name), reader);
        Value? value = null;
        if (_sharedIn.TryGetValue(name, out var files))
        {
            foreach (var owner in files)
            {
                if (owner == file.Index || Program.Modules.AreRelated(file.Index, owner))
                {
                    value = Value.Join(value, _stores.GetValueOrDefault(new StoreKey(StoreKind.Shared, owner, name)));
                }
            }
        }

        return value;
    }

    /// <summary>What any file keeps under the name.</summary>
    internal Value? LoadAnyShared(string name, CodeFunction reader)
    {
        Load(new StoreKey(StoreKind.Shared, -1, name), reader);
        return _sharedIn.TryGetValue(name, out var files)
            ? files.Aggregate((Value?)null, (value, file) => Value.Join(value, _stores.GetValueOrDefault(new StoreKey(StoreKind.Shared, file, name))))
            : null;
    }

    internal void DefineConstant(string name, Value value)
    {
        var known = _constants.GetValueOrDefault(name);
        if (known is null)
        {
            _constants[name] = value;
            _dirty.UnionWith(_constantReaders.GetValueOrDefault(name) ?? []);
        }
        else if (!known.SameAs(value) && known.Constant != value.Constant)
        {
            _constants[name] = Value.Unknown;
        }
    }

    private readonly Dictionary<string, HashSet<int>> _constantReaders = new(StringComparer.Ordinal);

    internal Value? ConstantOf(string name, CodeFunction reader)
    {
        if (!_constantReaders.TryGetValue(name, out var readers))
        {
            _constantReaders[name] = readers = [];
        }

        readers.Add(reader.Id);
        return _constants.GetValueOrDefault(name);
    }

    /// <summary>The type that a declared name means in a file: a class of the program, a library's type, or null.</summary>
    internal string? TypeNamed(FileCode file, string name)
    {
        if (!_types.TryGetValue((file.Index, name), out var type))
        {
            _types[(file.Index, name)] = type = FindType(file, name);
        }

        return type;
    }

    private string? FindType(FileCode file, string name)
    {
        var facts = Facts.For(Languages.Family(file.Source.Language));
        if (file.Source.Language == Language.Php)
        {
            var first = name.TrimStart('\\').Split('\\')[0];
            var qualified = name.StartsWith('\\') ? name[1..]
                : file.Aliases.TryGetValue(first, out var full) ? full + name[first.Length..]
                : file.Namespace.Length > 0 ? file.Namespace + "\\" + name : name;
            if (facts.KnowsType(qualified))
            {
                return qualified;
            }

            return Program.FindClass(qualified, file) is { } type ? "#" + type.Id : facts.KnowsType(name) ? name : null;
        }

        if (file.Imports.TryGetValue(name.Split('.')[0], out var import))
        {
            var module = Program.Modules.Resolve(file.Source.Path, import.Module);
            if (module < 0)
            {
                var root = facts.Canonical(import.Module);
                var dotted = name.Contains('.', StringComparison.Ordinal) ? name[name.IndexOf('.', StringComparison.Ordinal)..] : import.Name is "default" or "*" ? "" : "." + import.Name;
                return facts.KnowsType(root + dotted) ? root + dotted : null;
            }
        }

        if (facts.KnowsType(name))
        {
            return name;
        }

        return Program.FindClass(name, file) is { } found ? "#" + found.Primary.Id : null;
    }

    private void Analyse(CodeFunction function)
    {
        if (_coarse.Contains(function.Id))
        {
            return;
        }

        Summary summary;
        try
        {
            var watch = Stopwatch.GetTimestamp();
            var left = FunctionLimit - _spent.GetValueOrDefault(function.Id);
            var flow = new FunctionFlow(this, function);
            summary = flow.Analyse(left);
            if (flow.IsCutShort)
            {
                _coarse.Add(function.Id);
            }
            else if (Stopwatch.GetElapsedTime(watch) is var took && took > Noticeable)
            {
                _spent[function.Id] = _spent.GetValueOrDefault(function.Id) + took;
            }
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            _failed[function] = $"{e.GetType().Name} {e.Message}";
            summary = Summary.Empty;
        }

        var known = _summaries[function.Id];
        _summaries[function.Id] = summary;
        if ((known is null || !summary.SameAs(known)) && _dependents[function.Id] is { } dependents)
        {
            _dirty.UnionWith(dependents);
        }
    }
}
