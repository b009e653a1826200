namespace Bellator.Analysis.Ir;

/// <summary>The values that an instruction uses: the one place that knows which of A, B, C and the list are values.</summary>
public static class InstructionInputs
{
    /// <summary>Indices of the instructions whose values it uses, in the order of its operands.</summary>
    public static IEnumerable<int> InputsOf(this IrFunction function, int index)
    {
        var instruction = function.Instructions[index];
        if (TakesA(instruction.Op) && instruction.A >= 0)
        {
            yield return instruction.A;
        }

        if (TakesB(instruction.Op) && instruction.B >= 0)
        {
            yield return instruction.B;
        }

        if (instruction.Op is Opcode.SetItem or Opcode.WithItem && instruction.C >= 0)
        {
            yield return instruction.C;
        }

        if (TakesList(instruction.Op))
        {
            for (var i = 0; i < instruction.C; i++)
            {
                if (function.Operands[instruction.B + i].Value is >= 0 and var value)
                {
                    yield return value;
                }
            }
        }
    }

    private static bool TakesA(Opcode op) => op is Opcode.GetField or Opcode.SetField or Opcode.WithField or Opcode.GetItem or Opcode.SetItem or Opcode.WithItem or Opcode.GetStatic or Opcode.SetStatic
        or Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Binary or Opcode.Unary or Opcode.TaggedTemplate or Opcode.Cast or Opcode.Element or Opcode.ElementKey
        or Opcode.Export or Opcode.Include or Opcode.Return or Opcode.Throw;

    private static bool TakesB(Opcode op) => op is Opcode.SetField or Opcode.WithField or Opcode.GetItem or Opcode.SetItem or Opcode.WithItem or Opcode.SetStatic or Opcode.StoreCell or Opcode.StoreShared or Opcode.Binary;

    private static bool TakesList(Opcode op) => op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New or Opcode.Concat or Opcode.TaggedTemplate or Opcode.Object or Opcode.List or Opcode.Phi or Opcode.Output or Opcode.Opaque;
}
