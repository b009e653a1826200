using System.Runtime.InteropServices;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Incremental;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Scheduling;

/// <summary>
/// What is known of the program so far. Functions read it and add to it only through their <see cref="StoreView"/>, so that each visit
/// of a function can be written down and, where it would read the same again, repeated without evaluating it.
/// </summary>
public sealed partial class ProgramAnalysis
{
    private readonly AbstractValue?[][] _parameters;
    private readonly bool[] _called;
    private readonly Dictionary<StoreKey, StoreCell> _cells;
    private readonly Dictionary<string, SortedSet<int>> _sharedIn = new(StringComparer.Ordinal);
    private readonly HashSet<int> _shown = [];
    private readonly Dictionary<int, SortedSet<int>> _includers = [];
    private readonly Dictionary<string, AbstractValue> _constants = new(StringComparer.Ordinal);
    private readonly Dictionary<string, List<int>> _constantReaders = new(StringComparer.Ordinal);
    private readonly Dictionary<int, Dictionary<(int, int), InputChecks>> _inputChecks = [];

    /// <summary>True if the program itself calls the function somewhere, so that its parameters are known from there.</summary>
    public bool IsCalled(int function) => _called[function];

    /// <summary>What any code keeps in a field of a class's objects, as far as it is known.</summary>
    public AbstractValue? KeptIn(IrClass type, string field) => Stored(new StoreKey(StoreKind.Field, type.Id, field));

    /// <summary>A class's method is called on a selection of its records somewhere: which rows it works on is for its callers to say.</summary>
    public bool IsCalledOnSelection(IrFunction method) => method.IsStatic && Stored(new StoreKey(StoreKind.Library, method.Id, FunctionAnalyzer.OnSelection)) is not null;

    /// <summary>True if code was found that shows the page: then what the page uses without being given it, it makes itself.</summary>
    public bool IsShown(IrFile page) => IsShown(page.Index, 0);

    private bool IsShown(int page, int depth) => _shown.Contains(page) || (depth < 4 && PagesWith(page).Any(p => IsShown(p, depth + 1)));

    /// <summary>The pages that show another one as a part of theirs.</summary>
    internal IEnumerable<int> PagesWith(int page) => _includers.TryGetValue(page, out var pages) ? pages : [];

    /// <summary>What is known of the function, if it was looked at.</summary>
    internal FunctionSummary? KnownSummary(int function) => _summaries[function];

    /// <summary>What is known of what calls give a function.</summary>
    internal AbstractValue? ParameterOf(int function, int index) => _parameters[function][index];

    /// <summary>What is kept under the key.</summary>
    internal AbstractValue? Stored(StoreKey key) => _cells.GetValueOrDefault(key)?.Value;

    private StoreCell CellOf(StoreKey key)
    {
        ref var cell = ref CollectionsMarshal.GetValueRefOrAddDefault(_cells, key, out _);
        return cell ??= new StoreCell(key);
    }

    private StoreCell CellOf(in Dependency step) => step.Cell ?? CellOf(step.Key);

    /// <summary>What a constant of the program is.</summary>
    internal AbstractValue? Constant(string name) => _constants.GetValueOrDefault(name);

    private void NoteCall(IrFunction function)
    {
        if (!_called[function.Id])
        {
            _called[function.Id] = true;
            _hasChanged = true;
            if (Entries.Of(function) is { Rest: not null })
            {
                _worklist.Add(function.Id);
            }
        }
    }

    private void NoteEntry(IrFunction function, string id)
    {
        if (Entries.Note(function, id))
        {
            _hasChanged = true;
            _worklist.Add(function.Id);
        }
    }

    /// <summary>What is known of a function's request before it runs.</summary>
    internal InputChecks FindInputChecks(int function)
    {
        if (!_inputChecks.TryGetValue(function, out var routes))
        {
            return InputChecks.None;
        }

        // A function of several routes knows what each of them declares, but only what all of them have checked.
        IEnumerable<InputCheck> passed = routes.Values.First().Passed;
        foreach (var route in routes.Values.Skip(1))
        {
            passed = passed.Intersect(route.Passed);
        }

        return new InputChecks([.. routes.Values.SelectMany(r => r.Declared).Distinct()], [.. passed]);
    }

    private void NoteInputChecks(IrFunction function, (int, int) route, InputChecks checks)
    {
        var routes = _inputChecks.TryGetValue(function.Id, out var known) ? known : _inputChecks[function.Id] = [];
        if (!routes.TryGetValue(route, out var before) || !before.SameAs(checks))
        {
            routes[route] = checks;
            _hasChanged = true;
            _worklist.Add(function.Id);
        }
    }

    private void NoteIncluded(int page, int by)
    {
        if (page != by && (_includers.TryGetValue(page, out var pages) ? pages : _includers[page] = []).Add(by))
        {
            _hasChanged = true;
            _worklist.Add([.. Program.Files[page].Functions.Select(f => f.Id)]);
        }
    }

    private void NoteShown(int page) => _shown.Add(page);

    private void Inform(StoreKey key, AbstractValue info, StoreView visit)
    {
        if (Added(key, _parameters[key.Owner][Index(key)], info, visit) is { } joined)
        {
            SetParameter(key, joined);
        }
    }

    private void SetParameter(StoreKey key, AbstractValue info)
    {
        _parameters[key.Owner][Index(key)] = info;
        _hasChanged = true;
        _worklist.Add(key.Owner);
    }

    private void Store(StoreCell cell, AbstractValue value, StoreView visit)
    {
        if (Added(cell.Key, cell.Value, value, visit) is { } joined)
        {
            SetStore(cell, joined);
        }
    }

    /// <summary>What is known after something was added; null where that says nothing new.</summary>
    private static AbstractValue? Added(StoreKey key, AbstractValue? known, AbstractValue value, StoreView visit)
    {
        var joined = known is null ? value : AbstractValue.Join(known, value);
        return known is null || !joined.SameAs(known) ? visit.Interned(key, joined) : null;
    }

    private void SetStore(StoreCell cell, AbstractValue value)
    {
        cell.Value = value;
        _hasChanged = true;
        if (cell.Key.Kind == StoreKind.Shared)
        {
            (_sharedIn.TryGetValue(cell.Key.Name, out var files) ? files : _sharedIn[cell.Key.Name] = []).Add(cell.Key.Owner);
            cell = CellOf(cell.Key with { Owner = -1 });
        }

        _worklist.Add(cell.Readers);
    }

    /// <summary>The files whose variable of the name a file sees; of all files for -1.</summary>
    internal int[] OwnersOf(int file, string name) => _sharedIn.TryGetValue(name, out var files) ? [.. files.Where(f => Sees(file, f))] : [];

    private bool HasOwners(int file, string name, int[] owners)
    {
        var count = 0;
        if (_sharedIn.TryGetValue(name, out var files))
        {
            foreach (var owner in files)
            {
                if (Sees(file, owner) && (count == owners.Length || owners[count++] != owner))
                {
                    return false;
                }
            }
        }

        return count == owners.Length;
    }

    /// <summary>True if code of a file sees what the other keeps at its top level; any for -1.</summary>
    internal bool Sees(int file, int owner) => file < 0 || owner == file || Program.Modules.AreRelated(file, owner);

    /// <summary>What a constant is after it was defined: what is defined in two ways is not known.</summary>
    internal static AbstractValue Defined(AbstractValue? known, AbstractValue value) => known is null ? value : !known.SameAs(value) && known.Constant != value.Constant ? AbstractValue.Unknown : known;

    private void DefineConstant(string name, AbstractValue value)
    {
        var known = _constants.GetValueOrDefault(name);
        _constants[name] = Defined(known, value);
        _hasChanged = true;
        if (known is null)
        {
            _worklist.Add(_constantReaders.GetValueOrDefault(name));
        }
    }

    private void WaitForConstant(string name, int reader)
    {
        ref var readers = ref CollectionsMarshal.GetValueRefOrAddDefault(_constantReaders, name, out _);
        Note(ref readers, reader);
    }

    /// <summary>Adds a reader; one that reads several times in a row is there once, and otherwise once for each visit, which does no harm.</summary>
    internal static void Note(ref List<int>? readers, int reader)
    {
        readers ??= [];
        if (readers.Count == 0 || readers[^1] != reader)
        {
            readers.Add(reader);
        }
    }

    internal static StoreKey KeyOf(IrFunction function, int index = -1) =>
        new(StoreKind.Function, function.Id, index < 0 ? "" : index < Positions.Length ? Positions[index] : index.ToString(System.Globalization.CultureInfo.InvariantCulture));

    private static readonly string[] Positions = [.. Enumerable.Range(0, 16).Select(i => i.ToString(System.Globalization.CultureInfo.InvariantCulture))];
}
