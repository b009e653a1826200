using Bellator.Core.Code;
using Bellator.Core.Programs;

namespace Bellator.Core.Flow;

/// <summary>
/// What is known of the program so far. Functions read it and add to it only through these methods, so that each visit of a function
/// can be written down and, where it would read the same again, repeated without evaluating it.
/// </summary>
public sealed partial class ProgramFlow
{
    private readonly Value?[][] _parameters;
    private readonly bool[] _called;
    private readonly Dictionary<StoreKey, Value> _stores = [];
    private readonly Dictionary<StoreKey, HashSet<int>> _readers = [];
    private readonly Dictionary<string, SortedSet<int>> _sharedIn = new(StringComparer.Ordinal);
    private readonly HashSet<int> _shown = [];
    private readonly Dictionary<int, SortedSet<int>> _includers = [];
    private readonly Dictionary<string, Value> _constants = new(StringComparer.Ordinal);
    private readonly Dictionary<string, HashSet<int>> _constantReaders = new(StringComparer.Ordinal);
    private readonly Dictionary<int, Dictionary<(int, int), InputChecks>> _inputChecks = [];

    /// <summary>True if the program itself calls the function somewhere, so that its parameters are known from there.</summary>
    public bool IsCalled(int function) => _called[function];

    /// <summary>What any code keeps in a field of a class's objects, as far as it is known.</summary>
    public Value? KeptIn(CodeClass type, string field) => _stores.GetValueOrDefault(new StoreKey(StoreKind.Field, type.Id, field));

    /// <summary>True if code was found that shows the page: then what the page uses without being given it, it makes itself.</summary>
    public bool IsShown(FileCode page) => IsShown(page.Index, 0);

    private bool IsShown(int page, int depth) => _shown.Contains(page) || (depth < 4 && PagesWith(page).Any(p => IsShown(p, depth + 1)));

    private IEnumerable<int> PagesWith(int page) => _includers.TryGetValue(page, out var pages) ? pages : [];

    /// <summary>The same as <see cref="IsCalled"/>, asked by the function itself.</summary>
    internal bool IsCalled(CodeFunction function)
    {
        LogRead(VisitAct.ReadCalled, KeyOf(function), _called[function.Id] ? this : null);
        return _called[function.Id];
    }

    internal void NoteCall(CodeFunction function)
    {
        LogEffect(VisitAct.Call, KeyOf(function), function);
        if (!_called[function.Id])
        {
            _called[function.Id] = true;
            if (Entries.Of(function) is { Rest: not null })
            {
                _dirty.Add(function.Id);
            }
        }
    }

    /// <summary>What the framework is known to hand to the function that asks.</summary>
    internal Facts.EntryFact? EntryOf(CodeFunction function)
    {
        var entry = Entries.Of(function);
        LogRead(VisitAct.ReadEntry, KeyOf(function), entry);
        return entry;
    }

    /// <summary>Notes that a framework calls the function; true if it is one that the facts know.</summary>
    internal bool NoteEntry(CodeFunction function, string id)
    {
        if (Entries.Note(function, id))
        {
            _dirty.Add(function.Id);
        }

        var isKnown = Entries.Of(function) is not null;
        LogEffect(VisitAct.Entry, KeyOf(function), function, id, isKnown ? id : null);
        return isKnown;
    }

    /// <summary>What is known of the function's request before it runs.</summary>
    internal InputChecks InputChecksOf(CodeFunction function)
    {
        var checks = FindInputChecks(function.Id);
        LogRead(VisitAct.ReadChecks, KeyOf(function), checks);
        return checks;
    }

    private InputChecks FindInputChecks(int function)
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

    internal void NoteInputChecks(CodeFunction function, (int, int) route, InputChecks checks)
    {
        LogEffect(VisitAct.Checks, KeyOf(function), function, checks, route);
        var routes = _inputChecks.TryGetValue(function.Id, out var known) ? known : _inputChecks[function.Id] = [];
        if (!routes.TryGetValue(route, out var before) || !before.SameAs(checks))
        {
            routes[route] = checks;
            _dirty.Add(function.Id);
        }
    }

    internal Summary? SummaryOf(CodeFunction function, CodeFunction reader)
    {
        (_dependents[function.Id] ??= []).Add(reader.Id);
        var summary = _summaries[function.Id];
        LogRead(VisitAct.ReadSummary, KeyOf(function), summary?.Face);
        return summary;
    }

    /// <summary>What the calls of the function that asks are known to give it.</summary>
    internal Value? ParameterInfo(CodeFunction function, int index)
    {
        var info = _parameters[function.Id][index];
        LogRead(VisitAct.ReadParameter, KeyOf(function, index), info);
        return info;
    }

    /// <summary>Tells a function what a call gives it; only what does not depend on the call's own data.</summary>
    internal void InformParameter(CodeFunction function, int index, Value argument)
    {
        if (index < _parameters[function.Id].Length && Substitution.WithoutTaints(argument) is { } info)
        {
            Inform(KeyOf(function, index), index, info);
        }
    }

    private void Inform(StoreKey key, int index, Value info)
    {
        var known = _parameters[key.Owner][index];
        info = Interned(key, info);
        var joined = known is null ? info : Value.Join(known, info);
        var changes = known is null || !joined.SameAs(known);
        joined = changes ? Interned(key, joined) : known!;
        LogWrite(VisitAct.Inform, key, known, info, joined);
        if (changes)
        {
            SetParameter(key, index, joined);
        }
    }

    private void SetParameter(StoreKey key, int index, Value info)
    {
        _parameters[key.Owner][index] = info;
        _dirty.Add(key.Owner);
    }

    internal IEnumerable<int> IncludersOf(int page)
    {
        var pages = PagesWith(page);
        LogRead(VisitAct.ReadIncluders, new StoreKey(StoreKind.View, page, ""), _log is null ? null : pages.ToArray());
        return pages;
    }

    internal void NoteIncluded(int page, int by)
    {
        LogEffect(VisitAct.Included, new StoreKey(StoreKind.View, page, ""), by);
        if (page != by && (_includers.TryGetValue(page, out var pages) ? pages : _includers[page] = []).Add(by))
        {
            _dirty.UnionWith(Program.Files[page].Functions.Select(f => f.Id));
        }
    }

    internal void NoteShown(int page)
    {
        LogEffect(VisitAct.Shown, new StoreKey(StoreKind.View, page, ""));
        _shown.Add(page);
    }

    /// <summary>Says that a function uses the places where another file declares something.</summary>
    internal void NotePlaces(FileCode file) => LogRead(VisitAct.ReadPlaces, new StoreKey(StoreKind.Export, file.Index, ""), file.Source);

    internal Value? Load(StoreKey key, CodeFunction reader)
    {
        Wait(key, reader.Id);
        var value = _stores.GetValueOrDefault(key);
        LogRead(VisitAct.ReadStore, key, value);
        return value;
    }

    /// <summary>The function is looked at again when what is kept under the key changes.</summary>
    private void Wait(StoreKey key, int reader)
    {
        if (!_readers.TryGetValue(key, out var readers))
        {
            _readers[key] = readers = [];
        }

        readers.Add(reader);
    }

    internal void Store(StoreKey key, Value value)
    {
        var known = _stores.GetValueOrDefault(key);
        value = Interned(key, value);
        var joined = known is null ? value : Value.Join(known, value);
        var changes = known is null || !joined.SameAs(known);
        joined = changes ? Interned(key, joined) : known!;
        LogWrite(VisitAct.Store, key, known, value, joined);
        if (changes)
        {
            SetStore(key, joined);
        }
    }

    private void SetStore(StoreKey key, Value value)
    {
        _stores[key] = value;
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

    /// <summary>A variable of this name at the top level of the file or of those it is included with.</summary>
    internal Value? LoadShared(FileCode file, string name, CodeFunction reader) => LoadShared(file.Index, name, reader);

    /// <summary>What any file keeps under the name.</summary>
    internal Value? LoadAnyShared(string name, CodeFunction reader) => LoadShared(-1, name, reader);

    private Value? LoadShared(int file, string name, CodeFunction reader)
    {
        // Readers wait for the name; only files that really set it are asked.
        Wait(new StoreKey(StoreKind.Shared, -1, name), reader.Id);
        var owners = OwnersOf(file, name);
        LogRead(VisitAct.ReadOwners, new StoreKey(StoreKind.Shared, file, name), owners);
        Value? value = null;
        foreach (var owner in owners)
        {
            var key = new StoreKey(StoreKind.Shared, owner, name);
            var kept = _stores.GetValueOrDefault(key);
            LogRead(VisitAct.ReadShared, key, kept);
            value = Value.Join(value, kept);
        }

        return value;
    }

    /// <summary>The files whose variable of the name a file sees; of all files for -1.</summary>
    private int[] OwnersOf(int file, string name) => _sharedIn.TryGetValue(name, out var files) ? [.. files.Where(f => Sees(file, f))] : [];

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

    private bool Sees(int file, int owner) => file < 0 || owner == file || Program.Modules.AreRelated(file, owner);

    internal void DefineConstant(string name, Value value)
    {
        var key = new StoreKey(StoreKind.Constant, 0, name);
        var known = _constants.GetValueOrDefault(name);
        value = Interned(key, value);
        if (known is null)
        {
            _constants[name] = value;
            _dirty.UnionWith(_constantReaders.GetValueOrDefault(name) ?? []);
        }
        else if (!known.SameAs(value) && known.Constant != value.Constant)
        {
            _constants[name] = Value.Unknown;
        }

        LogWrite(VisitAct.Define, key, known, value, _constants[name]);
    }

    internal Value? ConstantOf(string name, CodeFunction reader)
    {
        WaitForConstant(name, reader.Id);
        var value = _constants.GetValueOrDefault(name);
        LogRead(VisitAct.ReadConstant, new StoreKey(StoreKind.Constant, 0, name), value);
        return value;
    }

    private void WaitForConstant(string name, int reader)
    {
        if (!_constantReaders.TryGetValue(name, out var readers))
        {
            _constantReaders[name] = readers = [];
        }

        readers.Add(reader);
    }

    private static StoreKey KeyOf(CodeFunction function, int index = -1) =>
        new(StoreKind.Function, function.Id, index < 0 ? "" : index < Positions.Length ? Positions[index] : index.ToString(System.Globalization.CultureInfo.InvariantCulture));

    private static readonly string[] Positions = [.. Enumerable.Range(0, 16).Select(i => i.ToString(System.Globalization.CultureInfo.InvariantCulture))];
}
