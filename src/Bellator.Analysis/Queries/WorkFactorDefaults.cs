using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Analysis.Queries;

/// <summary>A number of rounds that a key derivation takes where nobody says another one.</summary>
/// <param name="At">Where the number stands.</param>
/// <param name="Name">What the program calls it.</param>
/// <param name="Hash">What it calls the hash that is repeated, where that stands beside it.</param>
public sealed record WorkFactorDefault(Location At, string Name, long Rounds, string? Hash);

/// <summary>Finds such numbers: in the default settings of a class or module, and as defaults of parameters.</summary>
public static class WorkFactorDefaults
{
    public static IEnumerable<WorkFactorDefault> In(IrFunction function, IdentifierClassifier words)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            var found = function.Instructions[i].Op switch
            {
                Opcode.Object => InSettings(function, i, words),
                Opcode.Phi => OfParameter(function, i, words),
                _ => null,
            };
            if (found is not null)
            {
                yield return found;
            }
        }
    }

    /// <summary>Settings that stand together: rounds, beside the hash or the sizes of key and salt.</summary>
    private static WorkFactorDefault? InSettings(IrFunction function, int at, IdentifierClassifier words)
    {
        (int Value, string Name)? rounds = null;
        string? hash = null;
        var isDerivation = false;
        foreach (ref readonly var option in function.List(function.Instructions[at]))
        {
            if (option is { Name: { Length: > 0 } name, Value: >= 0 })
            {
                rounds = words.NamesRounds(name) ? (option.Value, name) : rounds;
                if (words.NamesDerivationOption(name))
                {
                    isDerivation = true;
                    hash ??= NameOf(function, option.Value);
                }
            }
        }

        return isDerivation && rounds is { } given && NumberOf(function, given.Value) is { } number ? new WorkFactorDefault(function.LocationOf(given.Value), given.Name, number, hash) : null;
    }

    /// <summary>The default of a parameter, in a function that takes a salt, a hash or the like too.</summary>
    private static WorkFactorDefault? OfParameter(IrFunction function, int at, IdentifierClassifier words)
    {
        int? position = null;
        int? constant = null;
        foreach (ref readonly var way in function.List(function.Instructions[at]))
        {
            if (way.Value >= 0)
            {
                position = function.Instructions[way.Value].Op == Opcode.Parameter ? function.Instructions[way.Value].A : position;
                constant = function.Instructions[way.Value].Op == Opcode.Constant ? way.Value : constant;
            }
        }

        return position is { } parameter && parameter < function.Parameters.Count && constant is { } value && words.NamesRounds(function.Parameters[parameter].Name.TrimStart('$'))
            && function.Parameters.Any(p => words.NamesDerivationOption(p.Name.TrimStart('$'))) && NumberOf(function, value) is { } number
            ? new WorkFactorDefault(function.LocationOf(value), function.Parameters[parameter].Name.TrimStart('$'), number, null)
            : null;
    }

    private static long? NumberOf(IrFunction function, int at) =>
        function.Instructions[at] is { Op: Opcode.Constant, A: (int)LiteralKind.Number, Text: { } text } && long.TryParse(text.Replace("_", "", StringComparison.Ordinal), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string? NameOf(IrFunction function, int at) => function.Instructions[at] switch
    {
        { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { } text } => text,
        { Op: Opcode.Global or Opcode.GetField, Text: { } name } => name,
        _ => null,
    };
}
