using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Audit.Tables;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Accounts;

/// <summary>Rules for input fields that stand beside the code which uses the fields: schemas, marks on the fields of classes, rule texts and validations of models.</summary>
internal sealed class DeclaredRules(ProgramModel program, IdentifierClassifier words)
{
    private const int MaxDepth = 8;

    /// <summary>Marks and calls on the fields of a class, and what a model lists that it validates.</summary>
    public IEnumerable<InputRule> OfClass(IrClass type)
    {
        foreach (var field in type.Fields)
        {
            var at = new Location(type.File.Index, field.Span.Start, field.Span.End);
            foreach (var mark in field.Annotations)
            {
                foreach (var rule in OfCall(field.Name, IrClass.ShortOf(mark.Name), mark.Arguments, new Location(type.File.Index, mark.Span.Start, mark.Span.End)))
                {
                    yield return rule;
                }
            }

            if (field.Type is { } said && program.NamedType(said.Name, type.File) is var (home, named))
            {
                foreach (var rule in named.Marks.SelectMany(m => OfCall(field.Name, IrClass.ShortOf(m.Name), m.Arguments, new Location(home.Index, m.Span.Start, m.Span.End))))
                {
                    yield return rule;
                }
            }

            if (words.IsAddressType(field.Type?.Name) || words.IsAddressType(field.Value is { } made ? ClassTables.CalledIn(made)?.Name : null))
            {
                yield return new InputRule(field.Name, RuleKind.Email, null, null, at, program.Tree.TextOf(at));
            }

            if (field.Value is Call { Arguments.Count: > 0 } call)
            {
                foreach (var rule in OfCall(field.Name, "", call.Arguments, at))
                {
                    yield return rule;
                }
            }
        }
    }

    /// <summary>What a class whose objects are records lists that it validates: <c>validates :email, presence: true</c>.</summary>
    public IEnumerable<InputRule> OfModel(IrClass type)
    {
        foreach (var mark in type.Annotations.Where(a => a.Name.StartsWith("validates", StringComparison.Ordinal)))
        {
            foreach (var field in mark.Arguments.Where(a => a.Name is null).Select(a => a.Value).OfType<Literal>())
            {
                foreach (var rule in OfCall(field.Text, mark.Name, [.. mark.Arguments.Where(a => a.Name is not null)], new Location(type.File.Index, mark.Span.Start, mark.Span.End)))
                {
                    yield return rule;
                }
            }
        }
    }

    /// <summary>What a mark or call says by its name and arguments.</summary>
    private IEnumerable<InputRule> OfCall(string field, string name, IReadOnlyList<Argument> arguments, Location at)
    {
        var text = program.Tree.TextOf(at);
        var lower = name.ToLowerInvariant();
        var first = arguments.Count > 0 && arguments[0].Name is null ? arguments[0].Value : null;
        if (lower is "required" or "isnotempty" or "notblank" or "validates_presence_of")
        {
            yield return new InputRule(field, RuleKind.Required, null, null, at, text);
        }
        else if (lower is "validates_uniqueness_of" or "validates_format_of" or "validates_confirmation_of")
        {
            yield return new InputRule(field, RuleKind.Other, null, null, at, text);
        }
        else if (lower is "emailaddress" or "isemail" or "email")
        {
            yield return new InputRule(field, RuleKind.Email, null, null, at, text);
        }
        else if (lower is "minlength" or "min" && Number(first) is { } least)
        {
            yield return new InputRule(field, RuleKind.Minimum, least, null, at, text);
        }
        else if (lower is "maxlength" or "max" or "stringlength" && Number(first) is { } most)
        {
            yield return new InputRule(field, RuleKind.Maximum, most, null, at, text);
        }
        else if (lower is "length" && Number(first) is { } low)
        {
            yield return new InputRule(field, RuleKind.Minimum, low, null, at, text);
            if (arguments.Count > 1 && Number(arguments[1].Value) is { } high)
            {
                yield return new InputRule(field, RuleKind.Maximum, high, null, at, text);
            }
        }
        else if (lower is "regularexpression" or "matches" or "regex" or "pattern" && PatternOf(first) is { } pattern)
        {
            yield return new InputRule(field, RuleKind.Pattern, null, pattern, at, text);
        }

        foreach (var option in Options(arguments))
        {
            var rule = option.Name switch
            {
                "minimumlength" or "min_length" or "minlength" or "minimum" or "min" when Number(option.Value) is { } number => new InputRule(field, RuleKind.Minimum, number, null, at, text),
                "max_length" or "maxlength" or "maximum" or "max" when Number(option.Value) is { } number => new InputRule(field, RuleKind.Maximum, number, null, at, text),
                "regex" or "pattern" or "with" when PatternOf(option.Value) is { } pattern => new InputRule(field, RuleKind.Pattern, null, pattern, at, text),
                "presence" or "required" => new InputRule(field, RuleKind.Required, null, null, at, text),
                "format" or "uniqueness" or "validators" => new InputRule(field, RuleKind.Other, null, null, at, text),
                _ => null,
            };
            if (rule is not null)
            {
                yield return rule;
            }
        }
    }

    /// <summary>Named arguments, and entries of objects among them: <c>length: { minimum: 12 }</c>.</summary>
    private static IEnumerable<(string Name, Expression Value)> Options(IReadOnlyList<Argument> arguments)
    {
        foreach (var argument in arguments)
        {
            if (argument.Name is { } name)
            {
                yield return (name.ToLowerInvariant(), argument.Value);
            }

            if (argument.Value is ObjectLiteral inner)
            {
                foreach (var entry in inner.Entries)
                {
                    if ((entry.Name ?? (entry.Key as Literal)?.Text) is { } key)
                    {
                        yield return (key.ToLowerInvariant(), entry.Value);
                    }
                }
            }
        }
    }

    private static int? Number(Expression? value) => value is Literal { Kind: LiteralKind.Number } literal && int.TryParse(literal.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private static string? PatternOf(Expression? value) => value is Literal { Kind: LiteralKind.Text or LiteralKind.Pattern } literal ? literal.Text : null;

    /// <summary>Objects that have a rule for a password and for something beside it, or for a password alone where a library makes it.</summary>
    public IReadOnlyList<InputRule> Of(IrFunction function) => function.DerivedCache(f => new Found([.. OfObjects(f)])).Rules;

    private sealed record Found(InputRule[] Rules);

    private IEnumerable<InputRule> OfObjects(IrFunction function)
    {
        foreach (var instruction in function.Instructions.Where(i => i.Op == Opcode.Object))
        {
            var entries = function.List(instruction).ToArray().Where(o => o.Name is { Length: > 0 }).ToList();
            if (!entries.Exists(e => words.IsPassword(e.Name)))
            {
                continue;
            }

            foreach (var entry in entries)
            {
                var at = entry.At == default ? function.LocationOf(entry.Value) : new Location(function.File.Index, entry.At.Start, entry.At.End);
                foreach (var rule in OfChain(entry.Name!, function, entry.Value, at, 0))
                {
                    yield return rule;
                }
            }
        }
    }

    /// <summary>A chain of calls of a schema library, a rule text, or a list of such.</summary>
    private IEnumerable<InputRule> OfChain(string field, IrFunction function, int value, Location at, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            yield break;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Opcode.Constant when instruction.A == (int)LiteralKind.Text && instruction.Text is { } text && text.Split('|').Any(words.IsMeasureOrKind):
                foreach (var rule in OfText(field, text, at))
                {
                    yield return rule;
                }

                break;
            case Opcode.List:
                foreach (var part in function.List(instruction).ToArray())
                {
                    foreach (var rule in OfChain(field, function, part.Value, at, depth + 1))
                    {
                        yield return rule;
                    }
                }

                break;
            case Opcode.CallMethod or Opcode.CallStatic:
                foreach (var rule in OfLink(field, function, instruction, at))
                {
                    yield return rule;
                }

                foreach (var rule in instruction.Op == Opcode.CallMethod ? OfChain(field, function, instruction.A, at, depth + 1) : [])
                {
                    yield return rule;
                }

                break;
        }
    }

    private IEnumerable<InputRule> OfLink(string field, IrFunction function, Instruction call, Location at)
    {
        var name = call.Text!.ToLowerInvariant();
        var first = call.C > 0 ? function.Instructions[function.List(call)[0].Value] : default;
        int? number = first.Op == Opcode.Constant && int.TryParse(first.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var given) ? given : null;
        var text = program.Tree.TextOf(at);
        switch (name)
        {
            case "min" or "minlength" or "nonempty":
                yield return new InputRule(field, RuleKind.Minimum, number ?? 1, null, at, text);
                break;
            case "max" or "maxlength" when number is not null:
                yield return new InputRule(field, RuleKind.Maximum, number, null, at, text);
                break;
            case "regex" or "pattern" or "matches" when first.Op == Opcode.Constant:
                yield return new InputRule(field, RuleKind.Pattern, null, first.Text, at, text);
                break;
            case "email":
                yield return new InputRule(field, RuleKind.Email, null, null, at, text);
                break;
            case "string" or "required" or "text" or "object" or "number" or "isstring":
                yield return new InputRule(field, RuleKind.Required, null, null, at, text);
                break;
            case "refine" or "superrefine" or "custom" or "enum" or "url" or "uuid":
                yield return new InputRule(field, RuleKind.Other, null, null, at, text);
                break;
        }
    }

    /// <summary>Rules written in one text: <c>required|min:8|regex:/…/</c>.</summary>
    private static IEnumerable<InputRule> OfText(string field, string text, Location at)
    {
        foreach (var part in text.Split('|'))
        {
            var (name, value) = part.Split(':', 2) is [var n, var v] ? (n, v) : (part, "");
            var isNumber = int.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var number);
            yield return name switch
            {
                "min" when isNumber => new InputRule(field, RuleKind.Minimum, number, null, at, text),
                "max" when isNumber => new InputRule(field, RuleKind.Maximum, number, null, at, text),
                "regex" => new InputRule(field, RuleKind.Pattern, null, value, at, text),
                "email" => new InputRule(field, RuleKind.Email, null, null, at, text),
                "required" or "string" => new InputRule(field, RuleKind.Required, null, null, at, text),
                _ => new InputRule(field, RuleKind.Other, null, null, at, text),
            };
        }
    }
}
