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
public sealed partial class ProgramFlow
{
    private const int MaxRounds = 14;

    /// <summary>Visits shorter than this are not counted against the limit: nearly all are.</summary>
    private static readonly TimeSpan Noticeable = TimeSpan.FromMilliseconds(20);

    /// <summary>How often a function may be looked at again; in large programs everything depends on everything, and later rounds add little.</summary>
    private int MaxVisits => Program.Functions.Count switch { < 4000 => 10, < 10000 => 5, _ => 3 };

    private readonly Summary?[] _summaries;
    private readonly HashSet<int>[] _dependents;
    private readonly Dictionary<CodeFunction, string> _failed = [];
    private readonly int[] _visits;
    private readonly HashSet<int> _coarse = [];
    private readonly Dictionary<int, TimeSpan> _spent = [];
    private readonly HashSet<int> _dirty = [];
    private readonly int[] _order;
    private readonly CodeFunction[] _byId;
    private readonly Dictionary<(int File, string Type), string?> _types = [];

    /// <param name="memory">What an earlier run over nearly the same program found; it is brought up to date.</param>
    public ProgramFlow(ProgramCode program, FactBase facts, VisitMemory? memory = null)
    {
        _memory = memory;
        Program = program;
        Facts = facts;
        StoppingCalls.Cut(program, facts);
        Entries = new EntryPoints(program, facts);
        Views = new Views(program);
        Words = new Words(facts);
        OwnNames = new OwnNames(facts);
        var count = program.FunctionBound;
        _summaries = new Summary?[count];
        _dependents = new HashSet<int>[count];
        _order = CallOrder.Of(program);
        _visits = new int[count];
        _called = new bool[count];
        _parameters = new Value?[count][];
        _byId = new CodeFunction[count];
        foreach (var function in program.Functions)
        {
            _byId[function.Id] = function;
            _parameters[function.Id] = new Value?[function.Parameters.Count];
        }
    }

    public ProgramCode Program { get; }

    public FactBase Facts { get; }

    public Words Words { get; }

    internal EntryPoints Entries { get; }

    internal OwnNames OwnNames { get; }

    internal Views Views { get; }

    internal TemplatePages Pages { get; } = new();

    /// <summary>Functions whose analysis stopped at a bound; their results are coarser.</summary>
    public int BoundedFunctions { get; private set; }

    /// <summary>How long one function may be looked at, all visits together.</summary>
    public TimeSpan FunctionLimit { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>Functions that took longer; what comes in may come out again, and nothing more is known of them.</summary>
    public IEnumerable<CodeFunction> Coarse => _coarse.Select(i => _byId[i]).OrderBy(f => f.File.Index).ThenBy(f => f.Span.Start);

    /// <summary>Functions that broke the analysis, and how: nothing is known of them, and the reviewer is told.</summary>
    public IReadOnlyDictionary<CodeFunction, string> Failed => _failed;

    /// <param name="progress">Told the share done, from 0 to 1, a few times each round.</param>
    public void Run(Action<double>? progress, CancellationToken cancel)
    {
        _dirty.UnionWith(Program.Functions.Select(f => f.Id));

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

                Analyse(_byId[batch[i]]);
            }
        }

        progress?.Invoke(1);
    }

    /// <summary>What was found out of a function.</summary>
    public Summary SummaryOf(CodeFunction function) => _summaries[function.Id] ?? Summary.Empty;

    /// <summary>The named parts of the request that a function reads.</summary>
    public IEnumerable<(string Part, string Name)> ReadsOf(CodeFunction function) => SummaryOf(function).Reads;

    /// <summary>What a framework is known to hand to the function; null if none calls it.</summary>
    public EntryFact? EntryFactOf(CodeFunction function) => Entries.Of(function);

    /// <summary>What a variable of a file is known to be.</summary>
    public Value? Shared(FileCode file, string name) => _stores.GetValueOrDefault(new StoreKey(StoreKind.Export, file.Index, name)) ?? _stores.GetValueOrDefault(new StoreKey(StoreKind.Shared, file.Index, name));

    /// <summary>Events of each function as they stand when nothing further is known of its parameters.</summary>
    public IEnumerable<FlowEvent> Events() => Program.Functions.SelectMany(f => _summaries[f.Id]?.Events ?? []);

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
        if (Remembered(function) is { } known)
        {
            summary = known;
        }
        else
        {
            BeginLog(function);
            summary = Evaluate(function, out var isWhole);
            summary = EndLog(function, summary, isWhole);
        }

        var before = _summaries[function.Id];
        _summaries[function.Id] = summary;
        if ((before is null || !summary.SameAs(before)) && _dependents[function.Id] is { } dependents)
        {
            _dirty.UnionWith(dependents);
        }
    }

    /// <param name="isWhole">Neither a limit nor an error ended it.</param>
    private Summary Evaluate(CodeFunction function, out bool isWhole)
    {
        try
        {
            var watch = Stopwatch.GetTimestamp();
            var left = FunctionLimit - _spent.GetValueOrDefault(function.Id);
            var flow = new FunctionFlow(this, function);
            var summary = flow.Analyse(left);
            isWhole = !flow.IsCutShort;
            if (flow.IsCutShort)
            {
                _coarse.Add(function.Id);
            }
            else if (Stopwatch.GetElapsedTime(watch) is var took && took > Noticeable)
            {
                _spent[function.Id] = _spent.GetValueOrDefault(function.Id) + took;
            }

            return summary;
        }
        catch (Exception e) when (e is not OperationCanceledException and not OutOfMemoryException)
        {
            _failed[function] = $"{e.GetType().Name} {e.Message}";
            isWhole = false;
            return Summary.Empty;
        }
    }
}
