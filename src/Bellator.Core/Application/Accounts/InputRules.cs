using System.Globalization;
using Bellator.Core.Code;
using Bellator.Core.Flow;
using Bellator.Core.Programs;
using Bellator.Core.Sources;
using Bellator.Core.Syntax;

namespace Bellator.Core.Application.Accounts;

/// <summary>What a rule for an input field asks for.</summary>
public enum RuleKind
{
    /// <summary>Something that is not known further.</summary>
    Other,
    Required,
    Minimum,
    Maximum,
    Pattern,
    Email,
}

/// <summary>A rule that code has for an input field.</summary>
/// <param name="Number">For a length.</param>
/// <param name="Pattern">A regular expression, as the language writes it.</param>
public sealed record InputRule(string Field, RuleKind Kind, int? Number, string? Pattern, Location At, string Text);

/// <summary>
/// Reads the rules for input fields: schemas, marks on the fields of classes, rule texts, validations of models, and conditions in the
/// code that handles them.
/// </summary>
public sealed class InputRules(AccountContext context)
{
    private const int MaxDepth = 8;

    /// <summary>A length compared with more than this is one that may not be passed.</summary>
    private const int LongestMinimum = 24;

    private static readonly string[] Lengths = ["length", "len", "size", "strlen", "mb_strlen", "Length", "count", "iconv_strlen", "grapheme_strlen"];
    private static readonly string[] Matching = ["preg_match", "test", "match", "match?", "matches", "IsMatch", "fullmatch", "search", "=~"];
    private IReadOnlyList<InputRule>? _declared;

    /// <summary>Rules that are declared beside the code which uses the fields.</summary>
    public IReadOnlyList<InputRule> Declared => _declared ??= [.. context.Program.Classes.SelectMany(OfClass), .. context.Program.Functions.SelectMany(OfObjects)];

    /// <summary>Rules for the fields that an entry point reads.</summary>
    public IReadOnlyList<InputRule> For(JourneyEvidence evidence)
    {
        var fields = evidence.Fields.Select(Plain).ToHashSet(StringComparer.Ordinal);
        if (fields.Count == 0 && evidence.TakesWholeBody)
        {
            fields = [.. Declared.Select(r => Plain(r.Field))];
        }

        var family = evidence.Entry.Handler is { } handler ? Languages.Family(handler.File.Source.Language) : "";
        var declared = Declared.Where(r => fields.Contains(Plain(r.Field)) && Languages.Family(context.Program.Files[r.At.File].Source.Language) == family);
        var objects = new RuleObjects(context);
        var made = evidence.Functions.SelectMany(f => objects.In(f, (function, value) => Mentioned(function, value, 0))).Where(r => fields.Contains(Plain(r.Field)));
        return [.. declared.Concat(made).Concat(evidence.Functions.SelectMany(f => OfConditions(f, fields))).DistinctBy(r => (Plain(r.Field), r.At, r.Kind))];
    }

    public static string Plain(string name) => string.Concat(Facts.Words.Parts(name));

    private IEnumerable<InputRule> OfClass(CodeClass type)
    {
        foreach (var field in type.Fields)
        {
            var at = new Location(type.File.Index, field.Span.Start, field.Span.End);
            foreach (var mark in field.Annotations)
            {
                foreach (var rule in OfCall(field.Name, CodeClass.ShortOf(mark.Name), mark.Arguments, new Location(type.File.Index, mark.Span.Start, mark.Span.End)))
                {
                    yield return rule;
                }
            }

            if (field.Value is Call { Arguments.Count: > 0 } call)
            {
                foreach (var rule in OfCall(field.Name, "", call.Arguments, at))
                {
                    yield return rule;
                }
            }
        }

        // Models that list what they validate: validates :email, presence: true
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
        var text = context.TextOf(at);
        var lower = name.ToLowerInvariant();
        var first = arguments.Count > 0 && arguments[0].Name is null ? arguments[0].Value : null;
        if (lower is "required" or "isnotempty" or "notblank" or "validates_presence_of")
        {
            yield return new InputRule(field, RuleKind.Required, null, null, at, text);
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
    private IEnumerable<InputRule> OfObjects(CodeFunction function)
    {
        foreach (var instruction in function.Instructions.Where(i => i.Op == Op.Object))
        {
            var entries = function.List(instruction).ToArray().Where(o => o.Name is { Length: > 0 }).ToList();
            if (!entries.Exists(e => context.Words.IsPassword(e.Name)))
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
    private IEnumerable<InputRule> OfChain(string field, CodeFunction function, int value, Location at, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            yield break;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Op.Constant when instruction.A == (int)LiteralKind.Text && instruction.Text is { } text && text.Split('|').Any(context.Words.IsMeasureOrKind):
                foreach (var rule in OfText(field, text, at))
                {
                    yield return rule;
                }

                break;
            case Op.List:
                foreach (var part in function.List(instruction).ToArray())
                {
                    foreach (var rule in OfChain(field, function, part.Value, at, depth + 1))
                    {
                        yield return rule;
                    }
                }

                break;
            case Op.CallMethod or Op.CallStatic:
                foreach (var rule in OfLink(field, function, instruction, at))
                {
                    yield return rule;
                }

                foreach (var rule in instruction.Op == Op.CallMethod ? OfChain(field, function, instruction.A, at, depth + 1) : [])
                {
                    yield return rule;
                }

                break;
        }
    }

    private IEnumerable<InputRule> OfLink(string field, CodeFunction function, Instruction call, Location at)
    {
        var name = call.Text!.ToLowerInvariant();
        var first = call.C > 0 ? function.Instructions[function.List(call)[0].Value] : default;
        int? number = first.Op == Op.Constant && int.TryParse(first.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var given) ? given : null;
        var text = context.TextOf(at);
        switch (name)
        {
            case "min" or "minlength" or "nonempty":
                yield return new InputRule(field, RuleKind.Minimum, number ?? 1, null, at, text);
                break;
            case "max" or "maxlength" when number is not null:
                yield return new InputRule(field, RuleKind.Maximum, number, null, at, text);
                break;
            case "regex" or "pattern" or "matches" when first.Op == Op.Constant:
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

    /// <summary>Conditions that speak of the fields; those that only ask the database are no rules.</summary>
    private IEnumerable<InputRule> OfConditions(CodeFunction function, IReadOnlySet<string> fields)
    {
        foreach (var block in function.Blocks.Where(b => b is { IsReachable: true, Condition: >= 0 }))
        {
            var at = function.LocationOf(block.Condition);
            foreach (var field in Mentioned(function, block.Condition, 0).Where(m => fields.Contains(Plain(m))).Distinct(StringComparer.OrdinalIgnoreCase))
            {
                yield return OfCondition(field, function, block.Condition, at, 0) ?? new InputRule(field, RuleKind.Other, null, null, at, context.TextOf(at));
            }
        }
    }

    private InputRule? OfCondition(string field, CodeFunction function, int value, Location at, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            return null;
        }

        var instruction = function.Instructions[value];
        switch (instruction.Op)
        {
            case Op.Unary or Op.Cast:
                return OfCondition(field, function, instruction.A, at, depth + 1);
            case Op.Binary when instruction.Text is "<" or "<=" or ">" or ">=":
                var isLeft = IsLength(function, instruction.A);
                var constant = isLeft ? instruction.B : IsLength(function, instruction.B) ? instruction.A : -1;
                if (constant < 0 || function.Instructions[constant] is not { Op: Op.Constant, Text: { } text } || !int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                {
                    return null;
                }

                // Short lengths are lower bounds and long ones upper bounds, whether the condition is for those who pass or for those who do not.
                var sign = isLeft ? instruction.Text! : instruction.Text! switch { "<" => ">", "<=" => ">=", ">" => "<", _ => "<=" };
                return number > LongestMinimum
                    ? new InputRule(field, RuleKind.Maximum, sign is ">" or "<=" ? number : number - 1, null, at, context.TextOf(at))
                    : new InputRule(field, RuleKind.Minimum, sign is "<" or ">=" ? number : number + 1, null, at, context.TextOf(at));
            case Op.Binary when instruction.Text is "!=" or "!==" or "==" or "===":
                return new InputRule(field, RuleKind.Required, null, null, at, context.TextOf(at));
            case Op.Call or Op.CallMethod or Op.CallStatic:
                var name = CodeClass.ShortOf((instruction.Op == Op.Call ? function.Instructions[instruction.A].Text : instruction.Text) ?? "");
                var operands = function.List(instruction).ToArray().Select(o => o.Value).Prepend(instruction.Op == Op.CallMethod ? instruction.A : -1).Where(v => v >= 0).Select(v => function.Instructions[v]).ToList();
                if (Matching.Contains(name) && operands.Find(o => o.Op == Op.Constant && o.Text is { Length: > 1 }) is { Text: { } pattern })
                {
                    return new InputRule(field, RuleKind.Pattern, null, pattern, at, context.TextOf(at));
                }

                return name is "filter_var" or "validate_email" or "isEmail" or "isValidEmail" ? new InputRule(field, RuleKind.Email, null, null, at, context.TextOf(at))
                    : name is "isset" or "empty" or "is_string" or "blank?" or "present?" or "IsNullOrEmpty" or "IsNullOrWhiteSpace" ? new InputRule(field, RuleKind.Required, null, null, at, context.TextOf(at)) : null;
            default:
                return null;
        }
    }

    private static bool IsLength(CodeFunction function, int value) => value >= 0 && function.Instructions[value] is var instruction && instruction.Op switch
    {
        Op.GetField or Op.CallMethod => Lengths.Contains(instruction.Text),
        Op.Call => Lengths.Contains(CodeClass.ShortOf(function.Instructions[instruction.A].Text ?? "")),
        _ => false,
    };

    /// <summary>Names of variables, parameters, keys and members that a value is made of; calls that ask the database are left out.</summary>
    private IEnumerable<string> Mentioned(CodeFunction function, int value, int depth)
    {
        if (value < 0 || depth > MaxDepth)
        {
            yield break;
        }

        if (function.Names.TryGetValue(value, out var variable))
        {
            yield return variable.TrimStart('$');
        }

        var instruction = function.Instructions[value];
        IEnumerable<int> inner = [];
        switch (instruction.Op)
        {
            case Op.Parameter:
                yield return function.Parameters[instruction.A].Name.TrimStart('$');
                break;
            case Op.LoadCell or Op.LoadShared when instruction.Text is { } text:
                yield return text.TrimStart('$');
                break;
            case Op.GetField:
                yield return instruction.Text!;
                inner = [instruction.A];
                break;
            case Op.GetItem:
                if (instruction.B >= 0 && function.Instructions[instruction.B] is { Op: Op.Constant, Text: { } key })
                {
                    yield return key;
                }

                inner = [instruction.A];
                break;
            case Op.Unary or Op.Cast:
                inner = [instruction.A];
                break;
            case Op.Binary:
                inner = [instruction.A, instruction.B];
                break;
            case Op.Phi:
                inner = function.List(instruction).ToArray().Select(o => o.Value).Where(v => v < value);
                break;
            case Op.Call or Op.CallMethod or Op.CallStatic when !AsksDatabase(function, value):
                inner = function.List(instruction).ToArray().Select(o => o.Value).Concat(instruction.Op == Op.CallMethod ? [instruction.A] : []);
                break;
        }

        foreach (var part in inner)
        {
            foreach (var name in Mentioned(function, part, depth + 1))
            {
                yield return name;
            }
        }
    }

    private bool AsksDatabase(CodeFunction function, int call)
    {
        var at = function.LocationOf(call);
        var summary = context.Flow.SummaryOf(function);
        return summary.Events.Any(e => e.Place == at && e.Kind is EventKind.Query or EventKind.Run or EventKind.Access or EventKind.Verify)
            || summary.Calls.Any(c => c.Instruction == call && context.Flow.SummaryOf(c.Target).Events.Any(e => e.Kind is EventKind.Query or EventKind.Run or EventKind.Access or EventKind.Verify));
    }
}
