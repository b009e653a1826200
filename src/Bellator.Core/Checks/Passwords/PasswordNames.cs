using Bellator.Core.Code;

namespace Bellator.Core.Checks.Passwords;

/// <summary>Tells passwords by the names they have in code, where checks look at how something is written.</summary>
internal static class PasswordNames
{
    /// <summary>A variable, parameter, member or element with the name of a password.</summary>
    public static bool IsPassword(CheckContext context, CodeFunction function, int value) => value >= 0
        && (context.Words.IsPassword(function.Names.GetValueOrDefault(value)?.TrimStart('$')) || function.Instructions[value] switch
        {
            { Op: Op.Parameter, A: var at } => context.Words.IsPassword(function.Parameters[at].Name.TrimStart('$')),
            { Op: Op.GetField, Text: var field } => context.Words.IsPassword(field),
            { Op: Op.GetItem, B: >= 0 and var key } => context.Words.IsPassword(function.Instructions[key].Text),
            _ => false,
        });

    /// <summary>The function compares the length of a password with something.</summary>
    public static bool Measures(CheckContext context, CodeFunction function) =>
        function.Instructions.Any(i => i is { Op: Op.Binary, Text: ">" or ">=" or "<" or "<=" } && (IsLength(context, function, i.A) || IsLength(context, function, i.B)));

    private static bool IsLength(CheckContext context, CodeFunction function, int value)
    {
        if (value < 0)
        {
            return false;
        }

        var instruction = function.Instructions[value];
        return instruction.Op switch
        {
            Op.Call => context.Words.IsMeasure(function.Instructions[instruction.A].Text ?? "") && function.List(instruction).ToArray().Any(o => IsPassword(context, function, o.Value)),
            Op.CallMethod => context.Words.IsMeasure(instruction.Text ?? "") && IsPassword(context, function, instruction.A),
            Op.GetField => context.Words.IsMeasure(instruction.Text ?? "") && IsPassword(context, function, instruction.A),
            _ => false,
        };
    }
}
