using Bellator.Analysis.Domain;

namespace Bellator.Analysis.Interpreter;

/// <summary>A call with its arguments as values.</summary>
internal sealed record CallSite(int Index, AbstractValue Receiver, IReadOnlyList<AbstractValue> Arguments, IReadOnlyList<int> Operands)
{
    /// <summary>Names of arguments that have one, by position; empty if none has.</summary>
    public IReadOnlyList<string?> Names { get; init; } = [];

    public AbstractValue Argument(int position) => position == -1 ? Receiver : position >= 0 && position < Arguments.Count ? Arguments[position] : AbstractValue.Unknown;

    public bool Has(int? position) => position is >= 0 and var p && p < Arguments.Count;

    /// <summary>The instruction that made an argument, or -1.</summary>
    public int Operand(int position) => position >= 0 && position < Operands.Count ? Operands[position] : -1;

    /// <summary>A named argument, or a field of the last argument where options come as an object.</summary>
    public AbstractValue? Option(string name)
    {
        for (var i = 0; i < Names.Count; i++)
        {
            if (Names[i] == name)
            {
                return Arguments[i];
            }
        }

        return Arguments.Count > 0 ? Arguments[^1].Field(name) : null;
    }

    /// <summary>The call with named arguments at the positions of the parameters; those without one become one object at the end.</summary>
    public CallSite Arranged(IReadOnlyList<string> parameters)
    {
        if (Names.Count == 0)
        {
            return this;
        }

        var arguments = new List<AbstractValue>();
        var operands = new List<int>();
        Dictionary<string, AbstractValue>? rest = null;
        for (var i = 0; i < Arguments.Count; i++)
        {
            if (Names[i] is null)
            {
                arguments.Add(Arguments[i]);
                operands.Add(Operand(i));
            }
        }

        for (var i = 0; i < Arguments.Count; i++)
        {
            if (Names[i] is not { } name)
            {
                continue;
            }

            var position = IndexOf(parameters, name);
            if (position < 0)
            {
                (rest ??= new(StringComparer.Ordinal))[name] = Arguments[i];
                continue;
            }

            while (arguments.Count <= position)
            {
                arguments.Add(AbstractValue.Unknown);
                operands.Add(-1);
            }

            arguments[position] = Arguments[i];
            operands[position] = Operand(i);
        }

        if (rest is not null)
        {
            arguments.Add(new AbstractValue { Fields = AbstractValue.Bounded(rest), Taints = rest.TryGetValue("**", out var spread) ? spread.Taints : [] });
            operands.Add(-1);
        }

        return this with { Arguments = arguments, Operands = operands, Names = [] };
    }

    private static int IndexOf(IReadOnlyList<string> names, string name)
    {
        for (var i = 0; i < names.Count; i++)
        {
            if (names[i] == name)
            {
                return i;
            }
        }

        return -1;
    }
}
