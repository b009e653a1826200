using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Syntax;

namespace Bellator.Audit.Accounts;

/// <summary>
/// Rules that are objects made on the spot: a value is validated against a list of them, or a form's field has them among its options.
/// The names of the classes and their options are those of Symfony's constraints, from memory.
/// </summary>
internal sealed class RuleObjects(AccountContext context)
{
    private const string Constraints = "constraints";

    /// <summary>The rules that a function makes.</summary>
    /// <param name="mentioned">Names that a value of the function speaks of.</param>
    public IEnumerable<InputRule> In(IrFunction function, Func<IrFunction, int, IEnumerable<string>> mentioned)
    {
        foreach (var (call, name) in function.NamedCalls)
        {
            var operands = function.List(function.Instructions[call]).ToArray();
            if (operands.Length < 2)
            {
                continue;
            }

            if (name == "validate")
            {
                foreach (var rule in mentioned(function, operands[0].Value).Distinct(StringComparer.OrdinalIgnoreCase).SelectMany(f => Made(function, operands[1].Value, f)))
                {
                    yield return rule;
                }
            }
            else if (function.Instructions[operands[0].Value] is { Op: Opcode.Constant, Text: { Length: > 0 } field })
            {
                foreach (var rule in operands.SelectMany(o => Entries(function, o.Value)).Where(e => e.Name == Constraints).SelectMany(e => Made(function, e.Value, field)))
                {
                    yield return rule;
                }
            }
        }
    }

    private IEnumerable<InputRule> Made(IrFunction function, int value, string field)
    {
        var instruction = function.Instructions[value];
        if (instruction.Op == Opcode.List)
        {
            return function.List(instruction).ToArray().SelectMany(o => Made(function, o.Value, field));
        }

        return instruction.Op == Opcode.New ? OfObject(function, value, field) : [];
    }

    private IEnumerable<InputRule> OfObject(IrFunction function, int made, string field)
    {
        var instruction = function.Instructions[made];
        var at = function.LocationOf(made);
        var text = context.TextOf(at);
        var options = function.List(instruction).ToArray().SelectMany(o => o.Name is { Length: > 0 } name ? [(name, o.Value)] : Entries(function, o.Value)).ToList();
        switch (IrClass.ShortOf(function.Instructions[instruction.A].Text ?? ""))
        {
            case "Length":
                foreach (var (name, value) in options)
                {
                    if (name is "min" or "max" && function.Instructions[value] is { Op: Opcode.Constant, Text: { } number } && int.TryParse(number, NumberStyles.None, CultureInfo.InvariantCulture, out var length))
                    {
                        yield return new InputRule(field, name == "min" ? RuleKind.Minimum : RuleKind.Maximum, length, null, at, text);
                    }
                }

                break;
            case "Regex":
                var pattern = options.Where(o => o.Item1 == "pattern").Select(o => o.Item2).Concat(function.List(instruction).ToArray().Where(o => o.Name is null).Select(o => o.Value)).Select(v => function.Instructions[v]).FirstOrDefault(i => i is { Op: Opcode.Constant, A: (int)LiteralKind.Text });
                if (pattern.Text is { } written)
                {
                    yield return new InputRule(field, RuleKind.Pattern, null, written, at, text);
                }

                break;
            case "Email":
                yield return new InputRule(field, RuleKind.Email, null, null, at, text);
                break;
            case "NotBlank" or "NotNull":
                yield return new InputRule(field, RuleKind.Required, null, null, at, text);
                break;
            default:
                yield return new InputRule(field, RuleKind.Other, null, null, at, text);
                break;
        }
    }

    private static IEnumerable<(string Name, int Value)> Entries(IrFunction function, int value) =>
        function.Instructions[value] is { Op: Opcode.Object } written ? function.List(written).ToArray().Where(o => o.Name is { Length: > 0 }).Select(o => (o.Name!, o.Value)) : [];
}
