using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Guards;

/// <summary>What a schema lets through.</summary>
/// <param name="Safe">Positions in which what it accepts is harmless.</param>
/// <param name="Parts">It names the parts of an object, each with its own schema.</param>
/// <param name="Open">Parts that it does not name come through.</param>
/// <param name="Elements">It is about the elements of a list.</param>
internal readonly record struct ValidationSchema(OutputContext Safe, bool Parts, bool Open, bool Elements)
{
    private const OutputContext Text = OutputContext.Object;

    private static readonly HashSet<string> Vocabulary = new(StringComparer.Ordinal)
    {
        "$schema", "$id", "title", "description", "default", "examples", "type", "properties", "required", "additionalProperties", "enum", "const", "items",
        "pattern", "format", "minLength", "maxLength", "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf", "minProperties", "maxProperties", "nullable",
    };

    /// <summary>What a value says as a schema; null if it is none.</summary>
    public static ValidationSchema? Of(AbstractValue value, LanguageModels facts)
    {
        ValidationSchema? known = null;
        foreach (var type in value.Types)
        {
            if (facts.Accepted(type) is { } words)
            {
                var one = new ValidationSchema(Positions(words), words.Contains("parts"), words.Contains("open"), words.Contains("elements"));
                known = known is not { } other ? one : new ValidationSchema(other.Safe & one.Safe, other.Parts && one.Parts, other.Open || one.Open, other.Elements && one.Elements);
            }
        }

        return known ?? OfJsonSchema(value) ?? OfRuleText(value, facts);
    }

    /// <summary>The schemas of the parts by name.</summary>
    public static IEnumerable<KeyValuePair<string, AbstractValue>> PartsOf(AbstractValue schema) =>
        (schema.Field("properties")?.Fields ?? schema.Fields ?? new Dictionary<string, AbstractValue>()).Where(f => f.Key is not ("*" or [>= '0' and <= '9', ..]));

    /// <summary>Positions in which a member is harmless by the marks on its declaration and its declared type.</summary>
    public static OutputContext OfMarks(IReadOnlyList<Annotation> marks, TypeName? type, LanguageModels facts)
    {
        var safe = OutputContext.None;
        if (facts.Rules.Count == 0)
        {
            return safe;
        }

        foreach (var mark in marks)
        {
            if (facts.Rules.TryGetValue(IrClass.ShortOf(mark.Name), out var words))
            {
                safe |= words.Contains("anchored")
                    ? mark.Arguments.Any(a => a.Name is null or "pattern" && a.Value is Literal { Kind: LiteralKind.Text } literal && RegexSafety.IsWholeAndHarmless(literal.Text)) ? OutputContext.All : OutputContext.None
                    : words.Contains("pattern")
                    ? mark.Arguments.Any(a => a.Value is Literal { Kind: LiteralKind.Text or LiteralKind.Pattern } literal && RegexSafety.IsWholeAndHarmless("^" + literal.Text.Trim('/').TrimStart('^').TrimEnd('$') + "$")) ? OutputContext.All : OutputContext.None
                    : Positions(words);
            }
        }

        return type is not null && facts.Rules.TryGetValue(IrClass.ShortOf(type.Name), out var ofType) ? safe | Positions(ofType) : safe;
    }

    /// <summary>For the type of a rule about a member: the type of the whole set of rules.</summary>
    public static string? RuleSet(string type, LanguageModels facts) => facts.Bases.TryGetValue(type, out var set) ? RuleSet(set, facts) ?? set : null;

    private static OutputContext Positions(List<string> words) => words.Aggregate(OutputContext.None, (p, w) => p | OutputContexts.Named(w));

    /// <summary>A text of rules ("required|integer"), or a list of such words; an object of them is about parts.</summary>
    private static ValidationSchema? OfRuleText(AbstractValue value, LanguageModels facts)
    {
        if (facts.Rules.Count == 0)
        {
            return null;
        }

        if (value.Constant is { } text)
        {
            return new ValidationSchema(OfRules(text.Split('|'), facts), false, false, false);
        }

        if (value.Fields is not { Count: > 0 } fields)
        {
            return null;
        }

        return value.Types.Contains("list")
            ? new ValidationSchema(fields.Values.Aggregate(OfRules(fields.Values.Select(f => f.Constant ?? ""), facts), (p, f) => f.Types.Count > 0 && Of(f, facts) is { Parts: false, Elements: false } rule ? p | rule.Safe : p), false, false, false)
            : new ValidationSchema(OutputContext.None, true, false, false);
    }

    private static OutputContext OfRules(IEnumerable<string> rules, LanguageModels facts)
    {
        var safe = OutputContext.None;
        foreach (var rule in rules)
        {
            var colon = rule.IndexOf(':', StringComparison.Ordinal);
            if (facts.Rules.TryGetValue(colon < 0 ? rule : rule[..colon], out var words))
            {
                safe |= !words.Contains("pattern") ? Positions(words) : colon > 0 && RegexSafety.IsWholeAndHarmless(rule[(colon + 1)..]) ? OutputContext.All : OutputContext.None;
            }
        }

        return safe;
    }

    /// <summary>An object that is a JSON Schema (draft 2020-12, the validation vocabulary).</summary>
    private static ValidationSchema? OfJsonSchema(AbstractValue value)
    {
        if (value.Fields is not { Count: > 0 } fields || !fields.Keys.All(Vocabulary.Contains))
        {
            return null;
        }

        if (value.Field("properties") is not null)
        {
            return new ValidationSchema(OutputContext.None, true, value.Field("additionalProperties")?.Constant == "true", false);
        }

        if (value.Field("enum") is not null || value.Field("const") is not null)
        {
            return new ValidationSchema(OutputContext.All, false, false, false);
        }

        return value.Field("type")?.Constant switch
        {
            "integer" or "number" or "boolean" or "null" => new ValidationSchema(OutputContext.All, false, false, false),
            "string" when value.Field("pattern")?.Constant is { } pattern && RegexSafety.IsWholeAndHarmless(pattern) => new ValidationSchema(OutputContext.All, false, false, false),
            "string" when value.Field("format")?.Constant is "uuid" or "date" or "date-time" or "time" or "ipv4" or "ipv6" => new ValidationSchema(OutputContext.All, false, false, false),
            "string" => new ValidationSchema(Text, false, false, false),
            _ => null,
        };
    }
}
