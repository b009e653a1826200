using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Queries;

/// <summary>What a function asks to be there at all: names in conditions that are about a value itself, or about its being nothing.</summary>
public static class AskedNames
{
    private const int Deepest = 6;

    /// <summary>Names of variables, members, keys and settings that some condition of the function asks for.</summary>
    public static IEnumerable<string> In(IrFunction function)
    {
        foreach (var block in function.Blocks)
        {
            foreach (var name in block.Condition >= 0 ? Of(function, block.Condition, 0) : [])
            {
                yield return name;
            }
        }
    }

    private static IEnumerable<string> Of(IrFunction function, int at, int depth)
    {
        if (at < 0 || depth > Deepest)
        {
            return [];
        }

        var instruction = function.Instructions[at];
        return instruction.Op switch
        {
            Opcode.Unary or Opcode.Cast => Of(function, instruction.A, depth + 1),
            Opcode.Phi => function.List(instruction).ToArray().SelectMany(o => Of(function, o.Value, depth + 1)),
            Opcode.Binary when instruction.Text is "&&" or "||" or "and" or "or" => Of(function, instruction.A, depth + 1).Concat(Of(function, instruction.B, depth + 1)),
            Opcode.Binary when IsNothing(function, instruction.B) => Of(function, instruction.A, depth + 1),
            Opcode.Binary when IsNothing(function, instruction.A) => Of(function, instruction.B, depth + 1),
            Opcode.Binary => [],
            Opcode.GetField => Named(function, instruction.Text).Concat(Of(function, instruction.A, depth + 1)),
            Opcode.GetItem => Named(function, instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Opcode.Constant, Text: { } key } ? key : null).Concat(Of(function, instruction.A, depth + 1)),
            Opcode.CallMethod => Of(function, instruction.A, depth + 1).Concat(Arguments(function, instruction, depth)),
            Opcode.Call or Opcode.CallStatic => Arguments(function, instruction, depth),
            _ => Named(function, instruction.Text),
        };
    }

    private static IEnumerable<string> Arguments(IrFunction function, Instruction call, int depth) =>
        function.List(call).ToArray().Where(o => o.Value >= 0).SelectMany(o => function.Instructions[o.Value] is { Op: Opcode.Constant, Text: { } text } ? [text] : Of(function, o.Value, depth + 1));

    private static IEnumerable<string> Named(IrFunction function, string? name) => name is { Length: > 0 } ? [name] : [];

    /// <summary>A constant: nothing, an empty text, a number that a length is held against.</summary>
    private static bool IsNothing(IrFunction function, int at) => at >= 0 && function.Instructions[at] is { Op: Opcode.Constant or Opcode.Global };
}
