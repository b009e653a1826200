using Bellator.Analysis.Domain;
using Bellator.Analysis.Incremental;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Scheduling;

/// <summary>
/// What one visit of a function sees of the program: all that was known when the visit began, and what the visit itself has added.
/// What it reads and does is written down and done afterwards, so that several functions can be visited at once and the result does
/// not depend on who is faster.
/// </summary>
internal sealed class StoreView(ProgramAnalysis program)
{
    private readonly List<Dependency> _dependencies = [];
    private readonly Dictionary<StoreKey, AbstractValue> _written = [];
    private readonly HashSet<(DependencyKind, StoreKey)> _seen = [];

    /// <summary>What the function kept and told others in the last run, by the key.</summary>
    private Dictionary<StoreKey, List<AbstractValue>>? _earlier;

    private IrFunction _function = null!;

    /// <summary>The function that is visited.</summary>
    public IrFunction Function => _function;

    /// <summary>What the visit has done so far, in order.</summary>
    public List<Dependency> Dependencies => _dependencies;

    public void Begin(IrFunction function)
    {
        _function = function;
        _dependencies.Clear();
        _written.Clear();
        _seen.Clear();
        _earlier = null;
    }

    /// <summary>True if the program itself calls the function somewhere.</summary>
    public bool IsCalled()
    {
        var called = program.IsCalled(_function.Id);
        Read(DependencyKind.ReadCalled, ProgramAnalysis.KeyOf(_function), called ? program : null);
        return called;
    }

    public void NoteCall(IrFunction function) => Do(DependencyKind.Call, ProgramAnalysis.KeyOf(function), function);

    /// <summary>What the framework is known to hand to the function.</summary>
    public EntryModel? Entry()
    {
        var entry = program.Entries.Of(_function);
        Read(DependencyKind.ReadEntry, ProgramAnalysis.KeyOf(_function), entry);
        return entry;
    }

    /// <summary>Notes that a framework calls the function; true if it is one that the facts know.</summary>
    public bool NoteEntry(IrFunction function, string id)
    {
        var isKnown = program.Entries.WouldKnow(function, id);
        Do(DependencyKind.Entry, ProgramAnalysis.KeyOf(function), function, id, isKnown ? id : null);
        return isKnown;
    }

    /// <summary>What is known of the function's request before it runs.</summary>
    public InputChecks InputChecks()
    {
        var checks = program.FindInputChecks(_function.Id);
        Read(DependencyKind.ReadChecks, ProgramAnalysis.KeyOf(_function), checks);
        return checks;
    }

    public void NoteInputChecks(IrFunction function, (int, int) route, InputChecks checks) =>
        Do(DependencyKind.Checks, ProgramAnalysis.KeyOf(function), function, checks, route);

    public FunctionSummary? SummaryOf(IrFunction function)
    {
        var summary = program.KnownSummary(function.Id);
        Read(DependencyKind.ReadSummary, ProgramAnalysis.KeyOf(function), summary?.Interface);
        return summary;
    }

    /// <summary>What the calls of the function are known to give it.</summary>
    public AbstractValue? ParameterInfo(int index)
    {
        var key = ProgramAnalysis.KeyOf(_function, index);
        return Looked(DependencyKind.ReadParameter, key, program.ParameterOf(_function.Id, index));
    }

    /// <summary>Tells a function what a call gives it; only what does not depend on the call's own data.</summary>
    public void InformParameter(IrFunction function, int index, AbstractValue argument)
    {
        if (index < function.Parameters.Count && Substitution.WithoutTaints(argument) is { } info)
        {
            Add(DependencyKind.Inform, ProgramAnalysis.KeyOf(function, index), program.ParameterOf(function.Id, index), info);
        }
    }

    public IEnumerable<int> IncludersOf(int page)
    {
        int[] pages = [.. program.PagesWith(page)];
        Read(DependencyKind.ReadIncluders, new StoreKey(StoreKind.View, page, ""), pages);
        return pages;
    }

    public void NoteIncluded(int page, int by) => Do(DependencyKind.Included, new StoreKey(StoreKind.View, page, ""), by);

    public void NoteShown(int page) => Do(DependencyKind.Shown, new StoreKey(StoreKind.View, page, ""));

    /// <summary>Says that the function uses the places where another file declares something.</summary>
    public void NotePlaces(IrFile file) => Read(DependencyKind.ReadPlaces, new StoreKey(StoreKind.Export, file.Index, ""), file.Source);

    public AbstractValue? Load(StoreKey key) => Looked(DependencyKind.ReadStore, key, program.Stored(key));

    public void Store(StoreKey key, AbstractValue value) => Add(DependencyKind.Store, key, program.Stored(key), value);

    /// <summary>A variable of this name at the top level of the file or of those it is included with.</summary>
    public AbstractValue? LoadShared(IrFile file, string name) => LoadShared(file.Index, name);

    /// <summary>What any file keeps under the name.</summary>
    public AbstractValue? LoadAnyShared(string name) => LoadShared(-1, name);

    private AbstractValue? LoadShared(int file, string name)
    {
        // Readers wait for the name; only files that really set it are asked.
        var owners = program.OwnersOf(file, name);
        Read(DependencyKind.ReadOwners, new StoreKey(StoreKind.Shared, file, name), owners);
        AbstractValue? value = null;
        foreach (var owner in owners)
        {
            var key = new StoreKey(StoreKind.Shared, owner, name);
            value = AbstractValue.Join(value, Looked(DependencyKind.ReadShared, key, program.Stored(key)));
        }

        foreach (var (key, own) in _written)
        {
            if (key.Kind == StoreKind.Shared && key.Name == name && program.Sees(file, key.Owner) && Array.IndexOf(owners, key.Owner) < 0)
            {
                value = AbstractValue.Join(value, own);
            }
        }

        return value;
    }

    public void DefineConstant(string name, AbstractValue value)
    {
        var key = new StoreKey(StoreKind.Constant, 0, name);
        var known = _written.GetValueOrDefault(key) ?? program.Constant(name);
        value = Interned(key, value);
        var defined = ProgramAnalysis.Defined(known, value);
        _written[key] = defined;
        _dependencies.Add(new Dependency(DependencyKind.Define, key, known, value, defined));
    }

    public AbstractValue? ConstantOf(string name) => Looked(DependencyKind.ReadConstant, new StoreKey(StoreKind.Constant, 0, name), program.Constant(name));

    /// <summary>The value of the last run that is just like this one, or this one.</summary>
    public AbstractValue Interned(StoreKey key, AbstractValue value)
    {
        if (program.PastAnalyses(_function) is not { Count: > 0 } visits)
        {
            return value;
        }

        if (_earlier is null)
        {
            _earlier = [];
            foreach (var step in visits.SelectMany(v => v.Steps).Where(s => s.Act is DependencyKind.Store or DependencyKind.Inform or DependencyKind.Define))
            {
                var values = _earlier.TryGetValue(step.Key, out var list) ? list : _earlier[step.Key] = [];
                foreach (var known in (ReadOnlySpan<object?>)[step.Given, step.After])
                {
                    if (known is AbstractValue past && !values.Contains(past))
                    {
                        values.Add(past);
                    }
                }
            }
        }

        return _earlier.TryGetValue(key, out var candidates) ? candidates.Find(c => DeepEquality.Same(c, value)) ?? value : value;
    }

    private void Add(DependencyKind act, StoreKey key, AbstractValue? found, AbstractValue value)
    {
        var known = _written.GetValueOrDefault(key) ?? found;
        value = Interned(key, value);
        var joined = known is null ? value : AbstractValue.Join(known, value);
        var changes = known is null || !joined.SameAs(known);
        joined = changes ? Interned(key, joined) : known!;
        _written[key] = joined;
        _dependencies.Add(new Dependency(act, key, known, value, joined));
    }

    /// <summary>What the visit itself has written under the key, or else what was found.</summary>
    private AbstractValue? Looked(DependencyKind act, StoreKey key, AbstractValue? found)
    {
        if (_written.TryGetValue(key, out var own))
        {
            if (_seen.Add((DependencyKind.ReadBack, key)))
            {
                _dependencies.Add(new Dependency(DependencyKind.ReadBack, key, null));
            }

            return own;
        }

        Read(act, key, found);
        return found;
    }

    private void Read(DependencyKind act, StoreKey key, object? found)
    {
        if (_seen.Add((act, key)))
        {
            _dependencies.Add(new Dependency(act, key, found));
        }
    }

    private void Do(DependencyKind act, StoreKey key, object? before = null, object? given = null, object? after = null)
    {
        if (key.Kind != StoreKind.Function || act is DependencyKind.Entry or DependencyKind.Checks || _seen.Add((act, key)))
        {
            _dependencies.Add(new Dependency(act, key, before, given, after));
        }
    }
}
