using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Incremental;

/// <summary>What a function does with what is known of the program while it is evaluated.</summary>
internal enum DependencyKind
{
    ReadSummary,
    ReadParameter,
    ReadStore,
    ReadOwners,
    ReadShared,
    ReadConstant,
    ReadIncluders,
    ReadCalled,
    ReadEntry,
    ReadChecks,
    ReadPlaces,

    /// <summary>It reads what it has written itself in this visit.</summary>
    ReadBack,

    Store,
    Inform,
    Define,
    Call,
    Entry,
    Checks,
    Included,
    Shown,
}

/// <summary>One step of a visit.</summary>
/// <param name="Key">What is read or written.</param>
/// <param name="Before">For a reading what was found; for a writing what was there.</param>
/// <param name="Given">What is added.</param>
/// <param name="After">What was there afterwards.</param>
/// <param name="Cell">Where that is kept, once the step has been written down.</param>
internal readonly record struct Dependency(DependencyKind Act, StoreKey Key, object? Before, object? Given = null, object? After = null, StoreCell? Cell = null);

/// <summary>A place in what is known of the program: what is kept under a key, and the functions that look again when it changes.</summary>
internal sealed class StoreCell(StoreKey key)
{
    public readonly StoreKey Key = key;
    public AbstractValue? Value;
    public List<int>? Readers;
}

/// <summary>A visit of a function: where all that it read is the same again, so is all that it did.</summary>
/// <param name="Cuts">Calls after which the function was cut off.</param>
internal sealed record RecordedAnalysis(Dependency[] Steps, FunctionSummary Result, IReadOnlyList<int> Cuts);

/// <summary>
/// The visits of all functions in one run over a program, for the next run over nearly the same program. Values in it are compared
/// as objects: whatever is evaluated anew but comes out just the same takes the place of the old value.
/// </summary>
public sealed class AnalysisCache
{
    private Dictionary<int, List<RecordedAnalysis>> _last = [];
    private Dictionary<int, List<RecordedAnalysis>> _now = [];
    private readonly HashSet<int> _renewed = [];

    /// <summary>The cells of all runs; each run begins with them empty.</summary>
    internal Dictionary<StoreKey, StoreCell> Cells { get; } = [];

    /// <summary>Visits that had to be evaluated in the last run, and those that were repeated.</summary>
    public (int Evaluated, int Repeated) Figures { get; private set; }

    /// <summary>Makes what the last run wrote down the past of the next.</summary>
    /// <param name="renewed">Functions whose code is not what it was.</param>
    public void Begin(IEnumerable<IrFunction> renewed)
    {
        _last = _now;
        _now = new Dictionary<int, List<RecordedAnalysis>>(_last.Count);
        _renewed.Clear();
        _renewed.UnionWith(renewed.Select(f => f.Id));
        Figures = default;
        foreach (var cell in Cells.Values)
        {
            cell.Value = null;
            cell.Readers?.Clear();
        }
    }

    /// <summary>Visits of the function that may hold again.</summary>
    internal IReadOnlyList<RecordedAnalysis> Of(IrFunction function) => _renewed.Contains(function.Id) ? [] : Past(function.Id);

    /// <summary>Visits of the function as it is or was.</summary>
    internal IReadOnlyList<RecordedAnalysis> Past(int function) => _last.TryGetValue(function, out var visits) ? visits : [];

    internal void Add(int function, RecordedAnalysis visit, bool isRepeated)
    {
        Figures = isRepeated ? (Figures.Evaluated, Figures.Repeated + 1) : (Figures.Evaluated + 1, Figures.Repeated);
        var visits = _now.TryGetValue(function, out var known) ? known : _now[function] = [];
        if (!visits.Contains(visit))
        {
            visits.Add(visit);
        }
    }
}
