using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>The value that a test of presence is about: that of <c>!x</c>, <c>x != null</c>, <c>x.nil?</c>.</summary>
public static class TestedValue
{
    private const int MaxDepth = 6;

    public static int Of(IrFunction function, int value)
    {
        for (var depth = 0; depth < MaxDepth; depth++)
        {
            switch (function.Instructions[value])
            {
                case { Op: Opcode.Unary or Opcode.Cast, A: >= 0 and var inner }:
                    value = inner;
                    break;
                case { Op: Opcode.Binary, A: >= 0 and var left, B: >= 0 and var right } when function.Instructions[right] is { Op: Opcode.Undefined or Opcode.Constant } or { Op: Opcode.Global, Text: "undefined" }:
                    value = left;
                    break;
                case { Op: Opcode.CallMethod, C: 0, A: >= 0 and var of, Text: "nil?" or "blank?" or "present?" or "isEmpty" or "isPresent" }:
                    value = of;
                    break;
                default:
                    return value;
            }
        }

        return value;
    }
}
