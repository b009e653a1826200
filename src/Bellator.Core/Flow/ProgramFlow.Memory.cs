using Bellator.Core.Code;

namespace Bellator.Core.Flow;

/// <summary>Writes down what a visit of a function reads and does, and repeats a visit that would read the same.</summary>
public sealed partial class ProgramFlow
{
    private readonly VisitMemory? _memory;

    /// <summary>Whether visits are written down for the next run.</summary>
    internal bool KeepsVisits => _memory is not null;

    /// <summary>What the function did in the last run.</summary>
    internal IReadOnlyList<Visit>? PastVisits(CodeFunction function) => _memory?.Past(function.Id);

    /// <summary>What comes out as it did in the last run is the same object again.</summary>
    private Summary Recognised(CodeFunction function, Summary summary)
    {
        foreach (var visit in PastVisits(function) ?? [])
        {
            if (Identity.SameFace(summary, visit.Result))
            {
                return summary.WithFaceOf(visit.Result);
            }
        }

        return summary;
    }

    /// <summary>A visit of the last run in which the function read just what it would read now.</summary>
    private Visit? Remembered(CodeFunction function)
    {
        if (_memory is null)
        {
            return null;
        }

        foreach (var visit in _memory.Of(function))
        {
            if ((visit.Cuts.Count == 0 ? function.Cuts.Count == 0 : visit.Cuts.SequenceEqual(function.Cuts)) && Holds(visit.Steps, null))
            {
                return visit;
            }
        }

        return null;
    }

    /// <summary>Whether a function would read again what it read in these steps.</summary>
    /// <param name="news">Those of which others see something else now; null to go by the summaries themselves.</param>
    private bool Holds(ReadOnlySpan<VisitStep> steps, HashSet<int>? news)
    {
        for (var i = 0; i < steps.Length; i++)
        {
            ref readonly var step = ref steps[i];
            switch (step.Act)
            {
                case VisitAct.ReadBack:
                    if (HasMoved(steps[..i], step.Key))
                    {
                        return false;
                    }

                    break;
                case VisitAct.Entry:
                    if (Entries.WouldKnow((CodeFunction)step.Before!, (string)step.Given!) != step.After is not null)
                    {
                        return false;
                    }

                    break;
                case VisitAct.ReadSummary when news is not null:
                    if (news.Contains(step.Key.Owner))
                    {
                        return false;
                    }

                    break;
                case < VisitAct.ReadBack:
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
    private bool HasMoved(ReadOnlySpan<VisitStep> steps, StoreKey key)
    {
        foreach (ref readonly var step in steps)
        {
            if (step.Act is VisitAct.Store or VisitAct.Inform or VisitAct.Define && step.Key == key)
            {
                return !ReferenceEquals(Current(in step), step.Before);
            }
        }

        return false;
    }

    private Value? Current(in VisitStep step) => step.Act switch
    {
        VisitAct.Store => CellOf(in step).Value,
        VisitAct.Inform => _parameters[step.Key.Owner][Index(step.Key)],
        _ => _constants.GetValueOrDefault(step.Key.Name),
    };

    private bool IsSame(in VisitStep step) => step.Act switch
    {
        VisitAct.ReadSummary => ReferenceEquals(_summaries[step.Key.Owner]?.Face, step.Before),
        VisitAct.ReadParameter => ReferenceEquals(_parameters[step.Key.Owner][Index(step.Key)], step.Before),
        VisitAct.ReadStore or VisitAct.ReadShared => ReferenceEquals(CellOf(in step).Value, step.Before),
        VisitAct.ReadOwners => HasOwners(step.Key.Owner, step.Key.Name, (int[])step.Before!),
        VisitAct.ReadConstant => ReferenceEquals(_constants.GetValueOrDefault(step.Key.Name), step.Before),
        VisitAct.ReadIncluders => PagesWith(step.Key.Owner).SequenceEqual((int[])step.Before!),
        VisitAct.ReadCalled => _called[step.Key.Owner] == step.Before is not null,
        VisitAct.ReadEntry => ReferenceEquals(Entries.Of(_byId[step.Key.Owner]), step.Before),
        VisitAct.ReadChecks => FindInputChecks(step.Key.Owner).SameAs((InputChecks)step.Before!),
        _ => ReferenceEquals(Program.Files[step.Key.Owner].Source, step.Before),
    };

    /// <summary>Does what the function did in the visit.</summary>
    /// <returns>The steps as they are now: others may have added something else to the same places before. Null if they are as they were.</returns>
    private VisitStep[]? Carry(ReadOnlySpan<VisitStep> steps, Visiting visit)
    {
        VisitStep[]? moved = null;
        for (var i = 0; i < steps.Length; i++)
        {
            ref readonly var step = ref steps[i];
            if (step.Act is not (VisitAct.Store or VisitAct.Inform or VisitAct.Define))
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
                if (KeepsVisits)
                {
                    moved ??= [.. steps];
                    moved[i] = step with { Before = before, After = Current(in step) };
                }
            }
        }

        return moved;
    }

    /// <summary>Puts in place what a writing led to.</summary>
    private void Set(in VisitStep step)
    {
        switch (step.Act)
        {
            case VisitAct.Store:
                SetStore(CellOf(in step), (Value)step.After!);
                break;
            case VisitAct.Inform:
                SetParameter(step.Key, (Value)step.After!);
                break;
            default:
                DefineConstant(step.Key.Name, (Value)step.Given!);
                break;
        }
    }

    private void Write(in VisitStep step, Visiting visit)
    {
        switch (step.Act)
        {
            case VisitAct.Store:
                Store(CellOf(in step), (Value)step.Given!, visit);
                break;
            case VisitAct.Inform:
                Inform(step.Key, (Value)step.Given!, visit);
                break;
            default:
                DefineConstant(step.Key.Name, (Value)step.Given!);
                break;
        }
    }

    private void Repeat(in VisitStep step, CodeFunction reader)
    {
        switch (step.Act)
        {
            case VisitAct.ReadSummary:
                Note(ref _dependents[step.Key.Owner], reader.Id);
                break;
            case VisitAct.ReadBack when step.Key.Kind == StoreKind.Constant:
                WaitForConstant(step.Key.Name, reader.Id);
                break;
            case VisitAct.ReadBack when step.Key.Kind == StoreKind.Function:
                break;
            case VisitAct.ReadBack or VisitAct.ReadStore or VisitAct.ReadOwners:
                // It is looked at again when what is kept there changes.
                Note(ref (step.Cell ?? CellOf(WaitingKey(in step))).Readers, reader.Id);
                break;
            case VisitAct.ReadConstant:
                WaitForConstant(step.Key.Name, reader.Id);
                break;
            case VisitAct.Call:
                NoteCall((CodeFunction)step.Before!);
                break;
            case VisitAct.Entry:
                NoteEntry((CodeFunction)step.Before!, (string)step.Given!);
                break;
            case VisitAct.Checks:
                NoteInputChecks((CodeFunction)step.Before!, ((int, int))step.After!, (InputChecks)step.Given!);
                break;
            case VisitAct.Included:
                NoteIncluded(step.Key.Owner, (int)step.Before!);
                break;
            case VisitAct.Shown:
                NoteShown(step.Key.Owner);
                break;
        }
    }

    /// <summary>Who reads the variables of a name waits for all files, whichever it sees.</summary>
    private static StoreKey WaitingKey(in VisitStep step) => step.Act == VisitAct.ReadOwners ? step.Key with { Owner = -1 } : step.Key;

    /// <summary>The steps with the cells that they read and write, so that these need not be looked up when the steps are taken again.</summary>
    private VisitStep[] WithCells(ReadOnlySpan<VisitStep> steps)
    {
        VisitStep[] found = [.. steps];
        for (var i = 0; i < found.Length; i++)
        {
            ref var step = ref found[i];
            if (step.Act is VisitAct.Store or VisitAct.ReadStore or VisitAct.ReadShared or VisitAct.ReadOwners || (step.Act == VisitAct.ReadBack && step.Key.Kind is not (StoreKind.Constant or StoreKind.Function)))
            {
                step = step with { Cell = CellOf(WaitingKey(in step)) };
            }
        }

        return found;
    }

    private static int Index(StoreKey key) => int.Parse(key.Name, System.Globalization.CultureInfo.InvariantCulture);
}
