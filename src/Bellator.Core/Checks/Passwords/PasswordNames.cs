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
}
