using Bellator.Core.Code;
using Bellator.Core.Facts;
using Bellator.Core.Programs;

namespace Bellator.Core.Flow;

/// <summary>
/// What one visit of a function sees of the program: all that was known when the visit began, and what the visit itself has added.
/// What it reads and does is written down and done afterwards, so that several functions can be visited at once and the result does
/// not depend on who is faster.
/// </summary>
internal sealed class Visiting(ProgramFlow program)
{
    private readonly List<VisitStep> _steps = [];
    private readonly Dictionary<StoreKey, Value> _written = [];
    private readonly HashSet<(VisitAct, StoreKey)> _seen = [];

    /// <summary>What the function kept and told others in the last run, by the key.</summary>
    private Dictionary<StoreKey, List<Value>>? _past;

    private CodeFunction _function = null!;

    /// <summary>The function that is visited.</summary>
    public CodeFunction Function => _function;

    /// <summary>What the visit has done so far, in order.</summary>
    public List<VisitStep> Steps => _steps;

    public void Begin(CodeFunction function)
    {
        _function = function;
        _steps.Clear();
        _written.Clear();
        _seen.Clear();
        _past = null;
    }

    /// <summary>True if the program itself calls the function somewhere.</summary>
    public bool IsCalled()
    {
        var called = program.IsCalled(_function.Id);
        Read(VisitAct.ReadCalled, ProgramFlow.KeyOf(_function), called ? program : null);
        return called;
    }

    public void NoteCall(CodeFunction function) => Do(VisitAct.Call, ProgramFlow.KeyOf(function), function);

    /// <summary>What the framework is known to hand to the function.</summary>
    public EntryFact? Entry()
    {
        var entry = program.Entries.Of(_function);
        Read(VisitAct.ReadEntry, ProgramFlow.KeyOf(_function), entry);
        return entry;
    }

    /// <summary>Notes that a framework calls the function; true if it is one that the facts know.</summary>
    public bool NoteEntry(CodeFunction function, string id)
    {
        var isKnown = program.Entries.WouldKnow(function, id);
        Do(VisitAct.Entry, ProgramFlow.KeyOf(function), function, id, isKnown ? id : null);
        return isKnown;
    }

    /// <summary>What is known of the function's request before it runs.</summary>
    public InputChecks InputChecks()
    {
        var checks = program.FindInputChecks(_function.Id);
        Read(VisitAct.ReadChecks, ProgramFlow.KeyOf(_function), checks);
        return checks;
    }

    public void NoteInputChecks(CodeFunction function, (int, int) route, InputChecks checks) =>
        Do(VisitAct.Checks, ProgramFlow.KeyOf(function), function, checks, route);

    public Summary? SummaryOf(CodeFunction function)
    {
        var summary = program.KnownSummary(function.Id);
        Read(VisitAct.ReadSummary, ProgramFlow.KeyOf(function), summary?.Face);
        return summary;
    }

    /// <summary>What the calls of the function are known to give it.</summary>
    public Value? ParameterInfo(int index)
    {
        var key = ProgramFlow.KeyOf(_function, index);
        return Looked(VisitAct.ReadParameter, key, program.ParameterOf(_function.Id, index));
    }

    /// <summary>Tells a function what a call gives it; only what does not depend on the call's own data.</summary>
    public void InformParameter(CodeFunction function, int index, Value argument)
    {
        if (index < function.Parameters.Count && Substitution.WithoutTaints(argument) is { } info)
        {
            Add(VisitAct.Inform, ProgramFlow.KeyOf(function, index), program.ParameterOf(function.Id, index), info);
        }
    }

    public IEnumerable<int> IncludersOf(int page)
    {
        int[] pages = [.. program.PagesWith(page)];
        Read(VisitAct.ReadIncluders, new StoreKey(StoreKind.View, page, ""), pages);
        return pages;
    }

    public void NoteIncluded(int page, int by) => Do(VisitAct.Included, new StoreKey(StoreKind.View, page, ""), by);

    public void NoteShown(int page) => Do(VisitAct.Shown, new StoreKey(StoreKind.View, page, ""));

    /// <summary>Says that the function uses the places where another file declares something.</summary>
    public void NotePlaces(FileCode file) => Read(VisitAct.ReadPlaces, new StoreKey(StoreKind.Export, file.Index, ""), file.Source);

    public Value? Load(StoreKey key) => Looked(VisitAct.ReadStore, key, program.Stored(key));

    public void Store(StoreKey key, Value value) => Add(VisitAct.Store, key, program.Stored(key), value);

    /// <summary>A variable of this name at the top level of the file or of those it is included with.</summary>
    public Value? LoadShared(FileCode file, string name) => LoadShared(file.Index, name);

    /// <summary>What any file keeps under the name.</summary>
    public Value? LoadAnyShared(string name) => LoadShared(-1, name);

    private Value? LoadShared(int file, string name)
    {
        // Readers wait for the name; only files that really set it are asked.
        var owners = program.OwnersOf(file, name);
        Read(VisitAct.ReadOwners, new StoreKey(StoreKind.Shared, file, name), owners);
        Value? value = null;
        foreach (var owner in owners)
        {
            var key = new StoreKey(StoreKind.Shared, owner, name);
            value = Value.Join(value, Looked(VisitAct.ReadShared, key, program.Stored(key)));
        }

        foreach (var (key, own) in _written)
        {
            if (key.Kind == StoreKind.Shared && key.Name == name && program.Sees(file, key.Owner) && Array.IndexOf(owners, key.Owner) < 0)
            {
                value = Value.Join(value, own);
            }
        }

        return value;
    }

    public void DefineConstant(string name, Value value)
    {
        var key = new StoreKey(StoreKind.Constant, 0, name);
        var known = _written.GetValueOrDefault(key) ?? program.Constant(name);
        value = Interned(key, value);
        var defined = ProgramFlow.Defined(known, value);
        _written[key] = defined;
        _steps.Add(new VisitStep(VisitAct.Define, key, known, value, defined));
    }

    public Value? ConstantOf(string name) => Looked(VisitAct.ReadConstant, new StoreKey(StoreKind.Constant, 0, name), program.Constant(name));

    /// <summary>The value of the last run that is just like this one, or this one.</summary>
    public Value Interned(StoreKey key, Value value)
    {
        if (program.PastVisits(_function) is not { Count: > 0 } visits)
        {
            return value;
        }

        if (_past is null)
        {
            _past = [];
            foreach (var step in visits.SelectMany(v => v.Steps).Where(s => s.Act is VisitAct.Store or VisitAct.Inform or VisitAct.Define))
            {
                var values = _past.TryGetValue(step.Key, out var list) ? list : _past[step.Key] = [];
                foreach (var known in (ReadOnlySpan<object?>)[step.Given, step.After])
                {
                    if (known is Value past && !values.Contains(past))
                    {
                        values.Add(past);
                    }
                }
            }
        }

        return _past.TryGetValue(key, out var candidates) ? candidates.Find(c => Identity.Same(c, value)) ?? value : value;
    }

    private void Add(VisitAct act, StoreKey key, Value? found, Value value)
    {
        var known = _written.GetValueOrDefault(key) ?? found;
        value = Interned(key, value);
        var joined = known is null ? value : Value.Join(known, value);
        var changes = known is null || !joined.SameAs(known);
        joined = changes ? Interned(key, joined) : known!;
        _written[key] = joined;
        _steps.Add(new VisitStep(act, key, known, value, joined));
    }

    /// <summary>What the visit itself has written under the key, or else what was found.</summary>
    private Value? Looked(VisitAct act, StoreKey key, Value? found)
    {
        if (_written.TryGetValue(key, out var own))
        {
            if (_seen.Add((VisitAct.ReadBack, key)))
            {
                _steps.Add(new VisitStep(VisitAct.ReadBack, key, null));
            }

            return own;
        }

        Read(act, key, found);
        return found;
    }

    private void Read(VisitAct act, StoreKey key, object? found)
    {
        if (_seen.Add((act, key)))
        {
            _steps.Add(new VisitStep(act, key, found));
        }
    }

    private void Do(VisitAct act, StoreKey key, object? before = null, object? given = null, object? after = null)
    {
        if (key.Kind != StoreKind.Function || act is VisitAct.Entry or VisitAct.Checks || _seen.Add((act, key)))
        {
            _steps.Add(new VisitStep(act, key, before, given, after));
        }
    }
}
