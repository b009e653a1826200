using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Analysis.Summaries;

/// <summary>Replaces a function's parameters in what its summary says by the arguments of one call.</summary>
internal sealed class Substitution(IrFunction function, IReadOnlyList<AbstractValue> arguments, Location call)
{
    private readonly string _note = function.Name.Length > 0 ? function.Name : "a function";

    public AbstractValue Apply(AbstractValue value, int depth = 0)
    {
        if (depth > AbstractValue.MaxDepth || !value.HasParameters)
        {
            return value;
        }

        if (value.WholeParameter is { } whole && whole.Origin.Function == function.Id)
        {
            var argument = Argument(whole.Origin);
            return argument.Taints.Count == 0 && argument.Text is null
                ? argument
                : argument.With(taints: After(whole, argument.Taints)) is var passed && argument.Text is not null
                    ? WithText(passed, Apply(argument.Text))
                    : passed;
        }

        var text = value.Text is null ? null : Apply(value.Text);
        var fields = value.Fields;
        if (fields is not null && AnyHasParameters(fields))
        {
            var replaced = new Dictionary<string, AbstractValue>(fields.Count, StringComparer.Ordinal);
            foreach (var (name, field) in fields)
            {
                replaced[name] = Apply(field, depth + 1);
            }

            fields = AbstractValue.Bounded(replaced);
        }

        if (fields is not null && text is null && Merged(value.Taints, fields) is var (own, parts))
        {
            return value.With(taints: own, fields: parts, carried: value.Payload is null ? null : Apply(value.Payload, depth + 1));
        }

        var mapped = value.With(
            taints: Apply(value.Taints),
            fields: fields,
            carried: value.Payload is null ? null : Apply(value.Payload, depth + 1));
        return text is null ? mapped : WithText(mapped, text);
    }

    /// <summary>
    /// An object into which a parameter was put whole: where the call gives an object with known parts, they become its parts, and say
    /// nothing of the others. Null where no argument has known parts.
    /// </summary>
    private (IReadOnlyList<Taint> Own, Dictionary<string, AbstractValue> Parts)? Merged(IReadOnlyList<Taint> taints, Dictionary<string, AbstractValue> fields)
    {
        Dictionary<string, AbstractValue>? parts = null;
        List<Taint>? rest = null;
        foreach (var taint in taints)
        {
            if (!IsOwn(taint) || Argument(taint.Origin) is not { Fields: { Count: > 0 } given } argument)
            {
                (rest ??= []).Add(taint);
                continue;
            }

            parts ??= new(fields, StringComparer.Ordinal);
            foreach (var brought in argument.Taints)
            {
                (rest ??= []).Add(taint.ComposedWith(brought, call, _note));
            }

            foreach (var (name, part) in given)
            {
                var passed = part.With(taints: After(taint, part.Taints));
                parts[name] = parts.TryGetValue(name, out var known) ? AbstractValue.Join(known, passed) : passed;
            }
        }

        return parts is null ? null : (Apply(rest ?? []), AbstractValue.Bounded(parts)!);
    }

    private Taint[] After(Taint taint, IReadOnlyList<Taint> brought)
    {
        var after = new Taint[brought.Count];
        for (var i = 0; i < after.Length; i++)
        {
            after[i] = taint.ComposedWith(brought[i], call, _note);
        }

        return after;
    }

    private static bool AnyHasParameters(Dictionary<string, AbstractValue> fields)
    {
        foreach (var field in fields.Values)
        {
            if (field.HasParameters)
            {
                return true;
            }
        }

        return false;
    }

    public IReadOnlyList<Taint> Apply(IReadOnlyList<Taint> taints)
    {
        if (!HasOwn(taints))
        {
            return taints;
        }

        // The way is only put together for what is kept: most of what many calls bring is known already.
        var list = new List<Taint>(AbstractValue.MaxTaints);
        for (var i = 0; i < taints.Count; i++)
        {
            var taint = taints[i];
            if (!IsOwn(taint))
            {
                Add(list, taint);
                continue;
            }

            var brought = FieldAccess.DeepTaints(Argument(taint.Origin));
            for (var k = 0; k < brought.Count; k++)
            {
                if (list.Count >= AbstractValue.MaxTaints)
                {
                    return list;
                }

                if (!HasAfter(list, taint, brought[k]))
                {
                    list.Add(taint.ComposedWith(brought[k], call, _note));
                }
            }
        }

        return list;
    }

    /// <summary>A parameter of the function that is called.</summary>
    private bool IsOwn(Taint taint) => taint.IsParameter && taint.Origin.Function == function.Id;

    private bool HasOwn(IReadOnlyList<Taint> taints)
    {
        for (var i = 0; i < taints.Count; i++)
        {
            if (IsOwn(taints[i]))
            {
                return true;
            }
        }

        return false;
    }

    private static bool HasAfter(List<Taint> list, Taint taint, Taint brought)
    {
        foreach (var known in list)
        {
            if (known.IsComposition(taint, brought))
            {
                return true;
            }
        }

        return false;
    }

    private static void Add(List<Taint> list, Taint taint)
    {
        if (list.Count >= AbstractValue.MaxTaints)
        {
            return;
        }

        foreach (var known in list)
        {
            if (known.SameAs(taint))
            {
                return;
            }
        }

        list.Add(taint);
    }

    /// <summary>What is known of a value apart from where its data comes from, or null if that is nothing.</summary>
    public static AbstractValue? WithoutTaints(AbstractValue value, int depth = 0)
    {
        // That something is a list says nothing about what can be called on it.
        var types = value.Types is ["list"] ? [] : value.Types;
        if (types.Count == 0 && value.Targets.Count == 0 && value.Library is null && value.Module < 0 && value.Fields is null)
        {
            return null;
        }

        Dictionary<string, AbstractValue>? fields = null;
        if (value.Fields is not null && depth < 2)
        {
            foreach (var (name, field) in value.Fields)
            {
                if (WithoutTaints(field, depth + 1) is { } kept)
                {
                    (fields ??= new(StringComparer.Ordinal))[name] = kept;
                }
            }
        }

        if (types.Count == 0 && value.Targets.Count == 0 && value.Library is null && value.Module < 0 && fields is null)
        {
            return null;
        }

        return new AbstractValue { Types = types, Targets = value.Targets, Library = value.Library, Module = value.Module, Fields = fields, Payload = value.Payload is null || depth > 0 ? null : StatementText.IsKnown(value.Payload) ? value.Payload : WithoutTaints(value.Payload, 1) };
    }

    private static AbstractValue WithText(AbstractValue value, StringPattern text) => new()
    {
        Text = text,
        Taints = text.Taints,
        Types = value.Types,
        Fields = value.Fields,
        Name = value.Name,
    };

    private StringPattern Apply(StringPattern text) => HasOwn(text.Taints) || text.Taints.Count >= AbstractValue.MaxTaints ? text.Map(_replace ??= Replace) : text;

    private Func<Piece, IReadOnlyList<IReadOnlyList<Piece>>?>? _replace;

    private IReadOnlyList<IReadOnlyList<Piece>>? Replace(Piece hole)
    {
        if (!HasOwn(hole.Taints))
        {
            return null;
        }

        // A hole that is just the parameter takes the argument's own text, so that pieces put together in two functions read as one.
        if (hole.Taints is [{ Altered: false, IsRaw: true, Transform: PasswordTransform.Plain } only] && Argument(only.Origin) is var argument)
        {
            if (argument.Text is not null)
            {
                var moves = argument.Text.IsOnlyWrapping;
                Taint Step(Taint t) => t with { Trace = Trace.Add(Trace.Add(t.Trace, StepKind.Passed, call, _note), StepKind.Joined, hole.At, "") };
                return [.. argument.Text.Alternatives.Select(a => (IReadOnlyList<Piece>)[.. a.Select(p => p.PutInto(hole.At, Step, moves))])];
            }

            if (argument is { Constant: not null, Taints.Count: 0 })
            {
                return [[Piece.Text(argument.Constant)]];
            }
        }

        return [[Piece.Hole(Apply(hole.Taints), hole.At)]];
    }

    private AbstractValue Argument(Origin origin)
    {
        if (origin.Index < 0 || origin.Index >= arguments.Count)
        {
            return AbstractValue.Unknown;
        }

        var value = arguments[origin.Index];
        if (origin.Part.Length > 0)
        {
            foreach (var name in origin.Part.Split('.'))
            {
                value = FieldAccess.Read(value, name);
            }
        }

        return value;
    }
}
