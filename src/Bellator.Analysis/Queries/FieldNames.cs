using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>The names of the members and keys that a function reads.</summary>
public static class FieldNames
{
    public static IEnumerable<string> ReadIn(IrFunction function)
    {
        foreach (var instruction in function.Instructions)
        {
            switch (instruction.Op)
            {
                case Opcode.GetField or Opcode.CallMethod when instruction.Text is { } member:
                    yield return member;
                    break;
                case Opcode.GetItem when instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } key }:
                    yield return key;
                    break;
            }
        }
    }
}
