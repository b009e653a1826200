using Bellator.Analysis.Domain;
using Bellator.Analysis.Incremental;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Scheduling;

/// <summary>Writes down what a visit of a function reads and does, and repeats a visit that would read the same.</summary>
public sealed partial class ProgramAnalysis
{
    private readonly AnalysisCache? _cache;

    /// <summary>Whether visits are written down for the next run.</summary>
    internal bool KeepsAnalyses => _cache is not null;

    /// <summary>What the function did in the last run.</summary>
    internal IReadOnlyList<RecordedAnalysis>? PastAnalyses(IrFunction function) => _cache?.Past(function.Id);

    /// <summary>What comes out as it did in the last run is the same object again.</summary>
    private FunctionSummary Intern(IrFunction function, FunctionSummary summary)
    {
        foreach (var visit in PastAnalyses(function) ?? [])
        {
            if (DeepEquality.SameInterface(summary, visit.Result))
            {
                return summary.WithInterfaceOf(visit.Result);
            }
        }

        return summary;
    }

    /// <summary>A visit of the last run in which the function read just what it would read now.</summary>
    private RecordedAnalysis? TryReuse(IrFunction function)
    {
        if (_cache is null)
        {
            return null;
        }

        foreach (var visit in _cache.Of(function))
        {
            if ((visit.Cuts.Count == 0 ? function.PrunedEdges.Count == 0 : visit.Cuts.SequenceEqual(function.PrunedEdges)) && IsValid(visit.Steps, null))
            {
                return visit;
            }
        }

        return null;
    }

    /// <summary>Whether a function would read again what it read in these steps.</summary>
    /// <param name="news">Those of which others see something else now; null to go by the summaries themselves.</param>
    private bool IsValid(ReadOnlySpan<Dependency> steps, HashSet<int>? news)
    {
        for (var i = 0; i < steps.Length; i++)
        {
            ref readonly var step = ref steps[i];
            switch (step.Act)
            {
                case DependencyKind.ReadBack:
                    if (HasMoved(steps[..i], step.Key))
                    {
                        return false;
                    }

                    break;
                case DependencyKind.Entry:
                    if (Entries.WouldKnow((IrFunction)step.Before!, (string)step.Given!) != step.After is not null)
                    {
                        return false;
                    }

                    break;
                case DependencyKind.ReadSummary when news is not null:
                    if (news.Contains(step.Key.Owner))
                    {
                        return false;
                    }

                    break;
                case < DependencyKind.ReadBack:
                    if (!IsSame(in step))
                    {
                        return false;
                    }

                    break;
            }
        }

        return true;
    }

    /// <summary>Whether something else stands now where the steps began to write.</summary>
    private bool HasMoved(ReadOnlySpan<Dependency> steps, StoreKey key)
    {
        foreach (ref readonly var step in steps)
        {
            if (step.Act is DependencyKind.Store or DependencyKind.Inform or DependencyKind.Define && step.Key == key)
            {
                return !ReferenceEquals(Current(in step), step.Before);
            }
        }

        return false;
    }

    private AbstractValue? Current(in Dependency step) => step.Act switch
    {
        DependencyKind.Store => CellOf(in step).Value,
        DependencyKind.Inform => _parameters[step.Key.Owner][Index(step.Key)],
        _ => _constants.GetValueOrDefault(step.Key.Name),
    };

    private bool IsSame(in Dependency step) => step.Act switch
    {
        DependencyKind.ReadSummary => ReferenceEquals(_summaries[step.Key.Owner]?.Interface, step.Before),
        DependencyKind.ReadParameter => ReferenceEquals(_parameters[step.Key.Owner][Index(step.Key)], step.Before),
        DependencyKind.ReadStore or DependencyKind.ReadShared => ReferenceEquals(CellOf(in step).Value, step.Before),
        DependencyKind.ReadOwners => HasOwners(step.Key.Owner, step.Key.Name, (int[])step.Before!),
        DependencyKind.ReadConstant => ReferenceEquals(_constants.GetValueOrDefault(step.Key.Name), step.Before),
        DependencyKind.ReadIncluders => PagesWith(step.Key.Owner).SequenceEqual((int[])step.Before!),
        DependencyKind.ReadCalled => _called[step.Key.Owner] == step.Before is not null,
        DependencyKind.ReadEntry => ReferenceEquals(Entries.Of(_byId[step.Key.Owner]), step.Before),
        DependencyKind.ReadChecks => FindInputChecks(step.Key.Owner).SameAs((InputChecks)step.Before!),
        _ => ReferenceEquals(Program.Files[step.Key.Owner].Source, step.Before),
    };

    /// <summary>Does what the function did in the visit.</summary>
    /// <returns>The steps as they are now: others may have added something else to the same places before. Null if they are as they were.</returns>
    private Dependency[]? Replay(ReadOnlySpan<Dependency> steps, StoreView visit)
    {
        Dependency[]? moved = null;
        for (var i = 0; i < steps.Length; i++)
        {
            ref readonly var step = ref steps[i];
            if (step.Act is not (DependencyKind.Store or DependencyKind.Inform or DependencyKind.Define))
            {
                Repeat(in step, visit.Function);
            }
            else if (Current(in step) is var before && ReferenceEquals(before, step.Before))
            {
                if (!ReferenceEquals(before, step.After))
                {
                    Set(in step);
                }
            }
            else
            {
                Write(in step, visit);
                if (KeepsAnalyses)
                {
                    moved ??= [.. steps];
                    moved[i] = step with { Before = before, After = Current(in step) };
                }
            }
        }

        return moved;
    }

    /// <summary>Puts in place what a writing led to.</summary>
    private void Set(in Dependency step)
    {
        switch (step.Act)
        {
            case DependencyKind.Store:
                SetStore(CellOf(in step), (AbstractValue)step.After!);
                break;
            case DependencyKind.Inform:
                SetParameter(step.Key, (AbstractValue)step.After!);
                break;
            default:
                DefineConstant(step.Key.Name, (AbstractValue)step.Given!);
                break;
        }
    }

    private void Write(in Dependency step, StoreView visit)
    {
        switch (step.Act)
        {
            case DependencyKind.Store:
                Store(CellOf(in step), (AbstractValue)step.Given!, visit);
                break;
            case DependencyKind.Inform:
                Inform(step.Key, (AbstractValue)step.Given!, visit);
                break;
            default:
                DefineConstant(step.Key.Name, (AbstractValue)step.Given!);
                break;
        }
    }

    private void Repeat(in Dependency step, IrFunction reader)
    {
        switch (step.Act)
        {
            case DependencyKind.ReadSummary:
                Note(ref _dependents[step.Key.Owner], reader.Id);
                break;
            case DependencyKind.ReadBack when step.Key.Kind == StoreKind.Constant:
                WaitForConstant(step.Key.Name, reader.Id);
                break;
            case DependencyKind.ReadBack when step.Key.Kind == StoreKind.Function:
                break;
            case DependencyKind.ReadBack or DependencyKind.ReadStore or DependencyKind.ReadOwners:
                // It is looked at again when what is kept there changes.
                Note(ref (step.Cell ?? CellOf(WaitingKey(in step))).Readers, reader.Id);
                break;
            case DependencyKind.ReadConstant:
                WaitForConstant(step.Key.Name, reader.Id);
                break;
            case DependencyKind.Call:
                NoteCall((IrFunction)step.Before!);
                break;
            case DependencyKind.Entry:
                NoteEntry((IrFunction)step.Before!, (string)step.Given!);
                break;
            case DependencyKind.Checks:
                NoteInputChecks((IrFunction)step.Before!, ((int, int))step.After!, (InputChecks)step.Given!);
                break;
            case DependencyKind.Included:
                NoteIncluded(step.Key.Owner, (int)step.Before!);
                break;
            case DependencyKind.Shown:
                NoteShown(step.Key.Owner);
                break;
        }
    }

    /// <summary>Who reads the variables of a name waits for all files, whichever it sees.</summary>
    private static StoreKey WaitingKey(in Dependency step) => step.Act == DependencyKind.ReadOwners ? step.Key with { Owner = -1 } : step.Key;

    /// <summary>The steps with the cells that they read and write, so that these need not be looked up when the steps are taken again.</summary>
    private Dependency[] WithCells(ReadOnlySpan<Dependency> steps)
    {
        Dependency[] found = [.. steps];
        for (var i = 0; i < found.Length; i++)
        {
            ref var step = ref found[i];
            if (step.Act is DependencyKind.Store or DependencyKind.ReadStore or DependencyKind.ReadShared or DependencyKind.ReadOwners || (step.Act == DependencyKind.ReadBack && step.Key.Kind is not (StoreKind.Constant or StoreKind.Function)))
            {
                step = step with { Cell = CellOf(WaitingKey(in step)) };
            }
        }

        return found;
    }

    private static int Index(StoreKey key) => int.Parse(key.Name, System.Globalization.CultureInfo.InvariantCulture);
}
