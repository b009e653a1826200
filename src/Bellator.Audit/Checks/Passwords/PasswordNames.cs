using Bellator.Analysis.Ir;

namespace Bellator.Audit.Checks.Passwords;

/// <summary>Tells passwords by the names they have in code, where checks look at how something is written.</summary>
internal static class PasswordNames
{
    /// <summary>A variable, parameter, member or element with the name of a password.</summary>
    public static bool IsPassword(CheckContext context, IrFunction function, int value) => value >= 0
        && (context.Words.IsPassword(function.Names.GetValueOrDefault(value)?.TrimStart('$')) || function.Instructions[value] switch
        {
            { Op: Opcode.Parameter, A: var at } => context.Words.IsPassword(function.Parameters[at].Name.TrimStart('$')),
            { Op: Opcode.GetField, Text: var field } => context.Words.IsPassword(field),
            { Op: Opcode.GetItem, B: >= 0 and var key } => context.Words.IsPassword(function.Instructions[key].Text),
            _ => false,
        });

    /// <summary>The function compares the length of a password with something.</summary>
    public static bool Measures(CheckContext context, IrFunction function) =>
        function.Instructions.Any(i => i is { Op: Opcode.Binary, Text: ">" or ">=" or "<" or "<=" } && (IsLength(context, function, i.A) || IsLength(context, function, i.B)));

    private static bool IsLength(CheckContext context, IrFunction function, int value)
    {
        if (value < 0)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Opcode.Call => context.Words.IsMeasure(function.Instructions[instruction.A].Text ?? "") && function.List(instruction).ToArray().Any(o => IsPassword(context, function, o.Value)),
            Opcode.CallMethod => context.Words.IsMeasure(instruction.Text ?? "") && IsPassword(context, function, instruction.A),
            Opcode.GetField => context.Words.IsMeasure(instruction.Text ?? "") && IsPassword(context, function, instruction.A),
            _ => false,
        };
    }
}
