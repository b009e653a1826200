using Bellator.Analysis.Ir;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>What becomes of a value inside the function that makes it, by the names it gets.</summary>
public sealed class ValueUses
{
    /// <summary>Steps further away are not followed: what is made of a value so far off is another thing.</summary>
    private const int MaxSteps = 12;

    private readonly IrFunction _function;
    private readonly HashSet<int> _reached = [];

    private ValueUses(IrFunction function) => _function = function;

    /// <summary>Names of the variables, fields, keys and named arguments that the value gets, or what is made of it.</summary>
    public IReadOnlyCollection<string> Names => _names;

    private readonly HashSet<string> _names = new(StringComparer.Ordinal);

    /// <summary>The function returns the value, or what is made of it.</summary>
    public bool IsReturned { get; private set; }

    /// <param name="value">The instruction that makes the value.</param>
    /// <param name="passes">Whether a call makes something of its arguments that still is the value in another form.</param>
    public static ValueUses Of(IrFunction function, int value, Func<int, bool> passes)
    {
        var uses = new ValueUses(function);
        uses.Follow(value, passes);
        return uses;
    }

    /// <summary>The call that stands at a place; -1 if there is none.</summary>
    public static int CallAt(IrFunction function, Location at) =>
        Array.FindIndex(function.Instructions, i => i.Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New && i.Span.Start == at.Start && i.Span.End == at.End);

    private void Follow(int value, Func<int, bool> passes)
    {
        _reached.Add(value);
        Name(value);
        for (var step = 0; step < MaxSteps; step++)
        {
            var before = _reached.Count;
            for (var i = 0; i < _function.Instructions.Length; i++)
            {
                if (!_reached.Contains(i) && Takes(i, passes))
                {
                    _reached.Add(i);
                    Name(i);
                }
            }

            if (_reached.Count == before)
            {
                return;
            }
        }
    }

    private void Name(int value)
    {
        if (_function.Names.TryGetValue(value, out var name))
        {
            _names.Add(name.TrimStart('$', '@'));
        }
    }

    /// <summary>The instruction's result is the value, or made of it; notes the names that it gives.</summary>
    private bool Takes(int index, Func<int, bool> passes)
    {
        var instruction = _function.Instructions[index];
        switch (instruction.Op)
        {
            case Opcode.Return:
                IsReturned |= _reached.Contains(instruction.A);
                return false;
            case Opcode.SetField or Opcode.WithField or Opcode.SetStatic when _reached.Contains(instruction.B):
                _names.Add(instruction.Text!);
                return false;
            case Opcode.StoreShared or Opcode.StoreCell when _reached.Contains(instruction.B):
                _names.Add(instruction.Text?.TrimStart('$', '@') ?? "");
                return false;
            case Opcode.SetItem or Opcode.WithItem when _reached.Contains(instruction.C):
                if (instruction.B >= 0 && _function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { Length: > 0 } key })
                {
                    _names.Add(key);
                }

                return false;
            case Opcode.Object or Opcode.List:
                foreach (var entry in _function.List(instruction))
                {
                    if (_reached.Contains(entry.Value) && entry.Name is { Length: > 0 } name)
                    {
                        _names.Add(name);
                    }
                }

                return instruction.Op == Opcode.List && TakesAny(in instruction);
            case Opcode.Concat or Opcode.Phi:
                return TakesAny(in instruction);
            case Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New:
                foreach (var argument in _function.List(instruction))
                {
                    if (_reached.Contains(argument.Value) && argument.Name is { Length: > 0 } name && name[0] != '=')
                    {
                        _names.Add(name);
                    }
                }

                return (TakesAny(in instruction) || (instruction.Op == Opcode.CallMethod && _reached.Contains(instruction.A))) && passes(index);
            case Opcode.Binary:
                return instruction.Text is "+" or "*" or "-" or "/" or "|" or "%" or "??" or "||" && (_reached.Contains(instruction.A) || _reached.Contains(instruction.B));
            case Opcode.Cast or Opcode.Unary or Opcode.Element or Opcode.GetItem or Opcode.GetField:
                return _reached.Contains(instruction.A);
            default:
                return false;
        }
    }

    private bool TakesAny(in Instruction instruction)
    {
        foreach (var operand in _function.List(instruction))
        {
            if (_reached.Contains(operand.Value))
            {
                return true;
            }
        }

        return false;
    }
}
