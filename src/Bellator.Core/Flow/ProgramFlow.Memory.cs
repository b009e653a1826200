using Bellator.Core.Code;

namespace Bellator.Core.Flow;

/// <summary>Writes down what a visit of a function reads and does, and repeats a visit that would read the same.</summary>
public sealed partial class ProgramFlow
{
    private readonly VisitMemory? _memory;

    /// <summary>The steps of the visit that goes on, where they are written down.</summary>
    private List<VisitStep>? _log;

    private readonly HashSet<StoreKey> _written = [];
    private readonly HashSet<(VisitAct, StoreKey)> _read = [];

    /// <summary>What the function kept and told others in the last run, by the key.</summary>
    private Dictionary<StoreKey, List<Value>>? _past;

    private CodeFunction? _visited;

    private void BeginLog(CodeFunction function)
    {
        if (_memory is not null)
        {
            _log = [];
            _written.Clear();
            _read.Clear();
            _past = null;
            _visited = function;
        }
    }

    /// <summary>Keeps what was written down. What comes out as it did in the last run is the same object again.</summary>
    private Summary EndLog(CodeFunction function, Summary summary, bool isWhole)
    {
        if (_log is null)
        {
            return summary;
        }

        foreach (var visit in _memory!.Past(function.Id))
        {
            if (Identity.SameFace(summary, visit.Result))
            {
                summary.WithFaceOf(visit.Result);
                break;
            }
        }

        if (isWhole)
        {
            _memory.Add(function.Id, new Visit([.. _log], summary, function.Cuts), false);
        }

        _log = null;
        return summary;
    }

    private void LogRead(VisitAct act, StoreKey key, object? found)
    {
        if (_log is not null)
        {
            if (_written.Contains(key))
            {
                if (_read.Add((VisitAct.ReadBack, key)))
                {
                    _log.Add(new VisitStep(VisitAct.ReadBack, key, null));
                }
            }
            else if (_read.Add((act, key)))
            {
                _log.Add(new VisitStep(act, key, found));
            }
        }
    }

    private void LogWrite(VisitAct act, StoreKey key, Value? before, Value given, Value after)
    {
        if (_log is not null)
        {
            _written.Add(key);
            _log.Add(new VisitStep(act, key, before, given, after));
        }
    }

    private void LogEffect(VisitAct act, StoreKey key, object? before = null, object? given = null, object? after = null)
    {
        if (_log is not null)
        {
            if (key.Kind != StoreKind.Function || act is VisitAct.Entry or VisitAct.Checks || _read.Add((act, key)))
            {
                _log.Add(new VisitStep(act, key, before, given, after));
            }
        }
    }

    /// <summary>The value of the last run that is just like this one, or this one.</summary>
    private Value Interned(StoreKey key, Value value)
    {
        if (_log is null || _memory!.Past(_visited!.Id) is not { Count: > 0 } visits)
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

    /// <summary>Repeats a visit of the last run in which the function would read just what it did then.</summary>
    private Summary? Remembered(CodeFunction function)
    {
        if (_memory is null)
        {
            return null;
        }

        foreach (var visit in _memory.Of(function))
        {
            if (visit.Cuts.SequenceEqual(function.Cuts) && Holds(visit))
            {
                _memory.Add(function.Id, Repeat(visit, function), true);
                return visit.Result;
            }
        }

        return null;
    }

    private bool Holds(Visit visit)
    {
        _written.Clear();
        HashSet<StoreKey>? moved = null;
        foreach (ref readonly var step in visit.Steps.AsSpan())
        {
            var isWriting = step.Act is VisitAct.Store or VisitAct.Inform or VisitAct.Define;
            if (isWriting)
            {
                if (_written.Add(step.Key) && !ReferenceEquals(Current(in step), step.Before))
                {
                    (moved ??= []).Add(step.Key);
                }
            }
            else if (step.Act == VisitAct.ReadBack ? moved?.Contains(step.Key) ?? false : step.Act < VisitAct.ReadBack && !IsSame(in step))
            {
                return false;
            }
            else if (step.Act == VisitAct.Entry && Entries.WouldKnow((CodeFunction)step.Before!, (string)step.Given!) != step.After is not null)
            {
                return false;
            }
        }

        return true;
    }

    private Value? Current(in VisitStep step) => step.Act switch
    {
        VisitAct.Store => _stores.GetValueOrDefault(step.Key),
        VisitAct.Inform => _parameters[step.Key.Owner][Index(step.Key)],
        _ => _constants.GetValueOrDefault(step.Key.Name),
    };

    private bool IsSame(in VisitStep step) => step.Act switch
    {
        VisitAct.ReadSummary => ReferenceEquals(_summaries[step.Key.Owner]?.Face, step.Before),
        VisitAct.ReadParameter => ReferenceEquals(_parameters[step.Key.Owner][Index(step.Key)], step.Before),
        VisitAct.ReadStore or VisitAct.ReadShared => ReferenceEquals(_stores.GetValueOrDefault(step.Key), step.Before),
        VisitAct.ReadOwners => HasOwners(step.Key.Owner, step.Key.Name, (int[])step.Before!),
        VisitAct.ReadConstant => ReferenceEquals(_constants.GetValueOrDefault(step.Key.Name), step.Before),
        VisitAct.ReadIncluders => PagesWith(step.Key.Owner).SequenceEqual((int[])step.Before!),
        VisitAct.ReadCalled => _called[step.Key.Owner] == step.Before is not null,
        VisitAct.ReadEntry => ReferenceEquals(Entries.Of(_byId[step.Key.Owner]), step.Before),
        VisitAct.ReadChecks => FindInputChecks(step.Key.Owner).SameAs((InputChecks)step.Before!),
        _ => ReferenceEquals(Program.Files[step.Key.Owner].Source, step.Before),
    };

    /// <summary>Does what the function did in the visit.</summary>
    /// <returns>The visit as it is now: others may have added something else to the same places before.</returns>
    private Visit Repeat(Visit visit, CodeFunction function)
    {
        VisitStep[]? moved = null;
        for (var i = 0; i < visit.Steps.Length; i++)
        {
            ref readonly var step = ref visit.Steps[i];
            if (step.Act is not (VisitAct.Store or VisitAct.Inform or VisitAct.Define))
            {
                Repeat(in step, function);
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
                Write(in step);
                moved ??= [.. visit.Steps];
                moved[i] = step with { Before = before, After = Current(in step) };
            }
        }

        return moved is null ? visit : visit with { Steps = moved };
    }

    /// <summary>Puts in place what a writing led to.</summary>
    private void Set(in VisitStep step)
    {
        switch (step.Act)
        {
            case VisitAct.Store:
                SetStore(step.Key, (Value)step.After!);
                break;
            case VisitAct.Inform:
                SetParameter(step.Key, Index(step.Key), (Value)step.After!);
                break;
            default:
                DefineConstant(step.Key.Name, (Value)step.Given!);
                break;
        }
    }

    private void Write(in VisitStep step)
    {
        switch (step.Act)
        {
            case VisitAct.Store:
                Store(step.Key, (Value)step.Given!);
                break;
            case VisitAct.Inform:
                Inform(step.Key, Index(step.Key), (Value)step.Given!);
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
                (_dependents[step.Key.Owner] ??= []).Add(reader.Id);
                break;
            case VisitAct.ReadBack when step.Key.Kind == StoreKind.Constant:
                WaitForConstant(step.Key.Name, reader.Id);
                break;
            case VisitAct.ReadBack when step.Key.Kind == StoreKind.Function:
                break;
            case VisitAct.ReadBack or VisitAct.ReadStore:
                Wait(step.Key, reader.Id);
                break;
            case VisitAct.ReadOwners:
                Wait(step.Key with { Owner = -1 }, reader.Id);
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

    private static int Index(StoreKey key) => int.Parse(key.Name, System.Globalization.CultureInfo.InvariantCulture);
}
