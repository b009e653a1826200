using System.Collections.Concurrent;
using System.Runtime.InteropServices;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Html;
using Bellator.Analysis.Incremental;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Analysis.Summaries;
using Bellator.Text;

namespace Bellator.Analysis.Scheduling;

/// <summary>
/// Follows values through a whole program. Functions are analysed against summaries of those they call; taint goes up through
/// summaries, so each call sees its own arguments, while types and callables go down and are joined over all calls. Functions that
/// do not call each other are analysed at once. Rounds repeat for those functions whose inputs changed, until nothing changes or the bound is reached.
/// </summary>
public sealed partial class ProgramAnalysis
{
    private const int MaxRounds = 14;

    /// <summary>Visits shorter than this are not counted against the limit: nearly all are.</summary>
    private static readonly TimeSpan Noticeable = TimeSpan.FromMilliseconds(20);

    /// <summary>How often a function may be looked at again; in large programs everything depends on everything, and later rounds add little.</summary>
    private int MaxAnalysesOfFunction => Program.Functions.Count switch { < 10000 => 10, _ => 5 };

    private readonly FunctionSummary?[] _summaries;
    private readonly List<int>?[] _dependents;
    private readonly Dictionary<IrFunction, string> _failed = [];
    private readonly int[] _timesAnalysed;
    private readonly HashSet<int> _cutShort = [];
    private readonly Dictionary<int, TimeSpan> _spent = [];
    private readonly Worklist _worklist;
    private EventIndex? _happenings;

    /// <summary>Of those visited at once and settled so far, the ones of which others see something else now.</summary>
    private readonly HashSet<int> _changedSummaries = [];
    /// <summary>One of those visited at once and settled so far has changed what is known of the program.</summary>
    private bool _hasChanged;

    private readonly (int Level, int Place)[] _order;
    private readonly IrFunction[] _byId;
    private readonly ConcurrentDictionary<(int File, string Type), string?> _types = [];

    /// <param name="memory">What an earlier run over nearly the same program found; it is brought up to date.</param>
    public ProgramAnalysis(ProgramModel program, LibraryModels facts, AnalysisCache? memory = null)
    {
        _cache = memory;
        _cells = memory?.Cells ?? [];
        Program = program;
        Facts = facts;

        // Where calls end does not change which there are.
        var order = Task.Run(() => CallOrder.Of(program));
        NoReturnAnalysis.Cut(program, facts);
        Entries = new EntryPoints(program, facts);
        Views = new ViewModels(program);
        Vocabulary = new IdentifierClassifier(facts);
        ModelledFunctions = new ModelledProgramFunctions(facts);
        Stated = new StatedFunctions(program, facts);
        Relations = new DeclaredRelations(program, f => facts.For(Languages.Family(f.Source.Language)));
        var count = program.FunctionBound;
        _summaries = new FunctionSummary?[count];
        _dependents = new List<int>?[count];
        _order = order.GetAwaiter().GetResult();
        _worklist = new Worklist(InOrder(), count);
        _timesAnalysed = new int[count];
        _called = new bool[count];
        _parameters = new AbstractValue?[count][];
        _byId = new IrFunction[count];
        foreach (var function in program.Functions)
        {
            _byId[function.Id] = function;
            _parameters[function.Id] = new AbstractValue?[function.Parameters.Count];
        }
    }

    private int[] InOrder()
    {
        int[] functions = [.. Program.Functions.Select(f => f.Id)];
        var places = Array.ConvertAll(functions, f => ((long)_order[f].Level << 32) + _order[f].Place);
        Array.Sort(places, functions);
        return functions;
    }

    public ProgramModel Program { get; }

    public LibraryModels Facts { get; }

    public IdentifierClassifier Vocabulary { get; }

    internal EntryPoints Entries { get; }

    /// <summary>Objects of the program's classes of which no more is known, by their type: they are asked for all the time.</summary>
    internal System.Collections.Concurrent.ConcurrentDictionary<string, AbstractValue> TypedObjects { get; } = new(StringComparer.Ordinal);

    internal ModelledProgramFunctions ModelledFunctions { get; }

    internal StatedFunctions Stated { get; }

    internal DeclaredRelations Relations { get; }

    internal ViewModels Views { get; }

    internal TemplatePages Pages { get; } = new();

    /// <summary>Functions whose analysis stopped at a bound; their results are coarser.</summary>
    public int UnsettledFunctions { get; private set; }

    /// <summary>How long one function may be looked at, all visits together.</summary>
    public TimeSpan FunctionLimit { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>Functions that took longer; what comes in may come out again, and nothing more is known of them.</summary>
    public IEnumerable<IrFunction> CutShortFunctions => _cutShort.Select(i => _byId[i]).OrderBy(f => f.File.Index).ThenBy(f => f.Span.Start);

    /// <summary>Told what is being followed, where somebody watches.</summary>
    public AuditActivity? Activity { get; init; }

    /// <summary>Functions in which more happens than is kept, and how much more.</summary>
    public IEnumerable<(IrFunction Function, int Count)> Dropped => Program.Functions.Where(f => SummaryOf(f).DroppedEvents > 0).Select(f => (f, SummaryOf(f).DroppedEvents));

    /// <summary>Functions that broke the analysis, and how: nothing is known of them, and the reviewer is told.</summary>
    public IReadOnlyDictionary<IrFunction, string> Failed => _failed;

    /// <summary>
    /// How many functions are visited at once. It does not depend on the threads, so that the result does not either. Those at once
    /// see nothing of each other: more means less waiting for each other and more to look at again.
    /// </summary>
    private const int AtOnce = 64;

    /// <param name="progress">Told the share done, from 0 to 1, a few times each round.</param>
    internal void Run(WorkerPool crew, Action<double>? progress, CancellationToken cancel)
    {
        _worklist.Add([.. Program.Functions.Select(f => f.Id)]);
        StoreView[] visits = [.. Enumerable.Range(0, AtOnce).Select(_ => new StoreView(this))];
        var found = new AnalysisOutcome[AtOnce];
        var asked = new int[AtOnce];
        for (var round = 0; round < MaxRounds && _worklist.Count > 0; round++)
        {
            var batch = _worklist.Take();
            for (var (begin, end) = (0, 0); begin < batch.Length; begin = end)
            {
                cancel.ThrowIfCancellationRequested();
                progress?.Invoke(Math.Min(0.99, 1 - Math.Pow(0.5, round + (begin / (double)batch.Length))));
                var count = 0;
                for (; end < batch.Length && count < AtOnce && _order[batch[end]].Level == _order[batch[begin]].Level; end++)
                {
                    // What has become known of it in this round is seen now.
                    _worklist.Remove(batch[end]);
                    if (++_timesAnalysed[batch[end]] > MaxAnalysesOfFunction)
                    {
                        if (_timesAnalysed[batch[end]] == MaxAnalysesOfFunction + 1)
                        {
                            UnsettledFunctions++;
                        }
                    }
                    else if (!_cutShort.Contains(batch[end]))
                    {
                        visits[count++].Begin(_byId[batch[end]]);
                    }
                }

                // Looking whether a visit of the last run holds again is sooner done than handed to others.
                var open = 0;
                for (var i = 0; i < count; i++)
                {
                    if (TryReuse(visits[i].Function) is { } known)
                    {
                        found[i] = WithChange(visits[i].Function, new AnalysisOutcome(known.Result, known, false, default, false, null));
                    }
                    else
                    {
                        asked[open++] = i;
                    }
                }

                crew.ForEach(open, i => found[asked[i]] = WithChange(visits[asked[i]].Function, Evaluate(visits[asked[i]])));
                _changedSummaries.Clear();
                _hasChanged = false;
                for (var i = 0; i < count; i++)
                {
                    Commit(visits[i], in found[i]);
                }
            }
        }

        progress?.Invoke(1);
    }

    /// <summary>What was found out of a function.</summary>
    public FunctionSummary SummaryOf(IrFunction function) => _summaries[function.Id] ?? FunctionSummary.Empty;

    /// <summary>The named parts of the request that a function reads.</summary>
    public IEnumerable<(string Part, string Name)> ReadsOf(IrFunction function) => SummaryOf(function).Reads;

    /// <summary>What a framework is known to hand to the function; null if none calls it.</summary>
    public EntryModel? EntryFactOf(IrFunction function) => Entries.Of(function);

    /// <summary>What a variable of a file is known to be.</summary>
    public AbstractValue? Shared(IrFile file, string name) => Stored(new StoreKey(StoreKind.Export, file.Index, name)) ?? Stored(new StoreKey(StoreKind.Shared, file.Index, name));

    /// <summary>What happens in each function, as it stands when nothing further is known of its parameters. To be asked for when all has been followed.</summary>
    public EventIndex Events => _happenings ??= new EventIndex(Program.Functions.SelectMany(f => _summaries[f.Id]?.Events ?? []));

    /// <summary>The type that a declared name means in a file: a class of the program, a library's type, or null.</summary>
    internal string? TypeNamed(IrFile file, string name) =>
        _types.TryGetValue((file.Index, name), out var type) ? type : _types.GetOrAdd((file.Index, name), FindType(file, name));

    private string? FindType(IrFile file, string name)
    {
        if (Program.NamedType(name, file) is var (home, alias) && alias.Type.Name != name)
        {
            return TypeNamed(home, alias.Type.Name);
        }

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
                return facts.KnowsType(root + dotted) ? root + dotted : facts.Canonical(root + dotted) is var other && facts.KnowsType(other) ? other : null;
            }
        }

        if (facts.KnowsType(name))
        {
            return name;
        }

        return Program.FindClass(name, file) is { } found ? "#" + found.Primary.Id : null;
    }

    /// <summary>What came out of a visit.</summary>
    /// <param name="Known">The visit of the last run that holds again.</param>
    /// <param name="IsNews">Others see something else of the function than before.</param>
    /// <param name="IsCutShort">It took too long.</param>
    /// <param name="Failure">What broke it.</param>
    private readonly record struct AnalysisOutcome(FunctionSummary Summary, RecordedAnalysis? Known, bool IsNews, TimeSpan Took, bool IsCutShort, string? Failure);

    /// <summary>Whether others see something else of the function now than before.</summary>
    private AnalysisOutcome WithChange(IrFunction function, in AnalysisOutcome found) => found with { IsNews = _summaries[function.Id] is not { } before || !found.Summary.SameAs(before) };

    /// <summary>Looks at a function as the program stands, without changing anything of the program: several may be looked at at once.</summary>
    private static readonly TimeSpan Short = TimeSpan.FromMilliseconds(2);

    private AnalysisOutcome Evaluate(StoreView visit)
    {
        var function = visit.Function;
        var (begun, clock) = (ThreadTime.Recent, System.Diagnostics.Stopwatch.GetTimestamp());
        Activity?.Begin(function.File.Source.Path);
        try
        {
            var flow = new FunctionAnalyzer(this, visit);
            var summary = Intern(function, flow.Analyse(begun, FunctionLimit - _spent.GetValueOrDefault(function.Id)));

            // Asking for the thread's time costs as much as a small function. It is never more than what has passed.
            var passed = System.Diagnostics.Stopwatch.GetElapsedTime(clock);
            return new AnalysisOutcome(summary, null, false, passed < Short ? passed : TimeSpan.FromTicks(Math.Min(passed.Ticks, (ThreadTime.Now - begun).Ticks)), flow.IsCutShort, null);
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            return new AnalysisOutcome(FunctionSummary.Empty, null, false, default, false, $"{e.GetType().Name} {e.Message}");
        }
        finally
        {
            Activity?.End();
        }
    }

    /// <summary>Does what the visit did, and has those who read of the function look again.</summary>
    private void Commit(StoreView visit, in AnalysisOutcome found)
    {
        var function = visit.Function;
        if ((_hasChanged || _changedSummaries.Count > 0) && !IsValid(found.Known is null ? CollectionsMarshal.AsSpan(visit.Dependencies) : found.Known.Steps, _changedSummaries))
        {
            // Another one that was visited at the same time has changed what this one read.
            _worklist.Add(function.Id);
        }

        if (found.Known is { } known)
        {
            _cache!.Add(function.Id, Replay(known.Steps, visit) is { } moved ? known with { Steps = moved } : known, true);
        }
        else
        {
            ReadOnlySpan<Dependency> steps = KeepsAnalyses ? WithCells(CollectionsMarshal.AsSpan(visit.Dependencies)) : CollectionsMarshal.AsSpan(visit.Dependencies);
            var carried = Replay(steps, visit);
            if (found.Failure is { } failure)
            {
                _failed[function] = failure;
            }
            else if (found.IsCutShort)
            {
                _cutShort.Add(function.Id);
            }
            else
            {
                _cache?.Add(function.Id, new RecordedAnalysis(carried ?? [.. steps], found.Summary, function.PrunedEdges), false);
                if (found.Took > Noticeable)
                {
                    _spent[function.Id] = _spent.GetValueOrDefault(function.Id) + found.Took;
                }
            }
        }

        _summaries[function.Id] = found.Summary;
        if (found.IsNews)
        {
            _changedSummaries.Add(function.Id);
            _worklist.Add(_dependents[function.Id]);
        }
    }
}
