using Bellator.Core.Facts;
using Bellator.Core.Syntax;

namespace Bellator.Core.Flow;

/// <summary>What a schema lets through.</summary>
/// <param name="Safe">Positions in which what it accepts is harmless.</param>
/// <param name="Parts">It names the parts of an object, each with its own schema.</param>
/// <param name="Open">Parts that it does not name come through.</param>
/// <param name="Elements">It is about the elements of a list.</param>
internal readonly record struct Schema(Position Safe, bool Parts, bool Open, bool Elements)
{
    private const Position Text = Position.Object;

    private static readonly HashSet<string> Vocabulary = new(StringComparer.Ordinal)
    {
        "$schema", "$id", "title", "description", "default", "examples", "type", "properties", "required", "additionalProperties", "enum", "const", "items",
        "pattern", "format", "minLength", "maxLength", "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf", "minProperties", "maxProperties", "nullable",
    };

    /// <summary>What a value says as a schema; null if it is none.</summary>
    public static Schema? Of(Value value, LanguageFacts facts)
    {
        Schema? known = null;
        foreach (var type in value.Types)
        {
            if (facts.Accepted(type) is { } words)
            {
                var one = new Schema(Positions(words), words.Contains("parts"), words.Contains("open"), words.Contains("elements"));
                known = known is not { } other ? one : new Schema(other.Safe & one.Safe, other.Parts && one.Parts, other.Open || one.Open, other.Elements && one.Elements);
            }
        }

        return known ?? OfJsonSchema(value) ?? OfRuleText(value, facts);
    }

    /// <summary>The schemas of the parts by name.</summary>
    public static IEnumerable<KeyValuePair<string, Value>> PartsOf(Value schema) =>
        (schema.Field("properties")?.Fields ?? schema.Fields ?? new Dictionary<string, Value>()).Where(f => f.Key is not ("*" or [>= '0' and <= '9', ..]));

    /// <summary>Positions in which a member is harmless by the marks on its declaration and its declared type.</summary>
    public static Position OfMarks(IReadOnlyList<Annotation> marks, TypeName? type, LanguageFacts facts)
    {
        var safe = Position.None;
        if (facts.Rules.Count == 0)
        {
            return safe;
        }

        foreach (var mark in marks)
        {
            if (facts.Rules.TryGetValue(Code.CodeClass.ShortOf(mark.Name), out var words))
            {
                safe |= words.Contains("anchored")
                    ? mark.Arguments.Any(a => a.Name is null or "pattern" && a.Value is Literal { Kind: LiteralKind.Text } literal && RegularText.IsWholeAndHarmless(literal.Text)) ? Position.All : Position.None
                    : words.Contains("pattern")
                    ? mark.Arguments.Any(a => a.Value is Literal { Kind: LiteralKind.Text or LiteralKind.Pattern } literal && RegularText.IsWholeAndHarmless("^" + literal.Text.Trim('/').TrimStart('^').TrimEnd('$') + "$")) ? Position.All : Position.None
                    : Positions(words);
            }
        }

        return type is not null && facts.Rules.TryGetValue(Code.CodeClass.ShortOf(type.Name), out var ofType) ? safe | Positions(ofType) : safe;
    }

    /// <summary>For the type of a rule about a member: the type of the whole set of rules.</summary>
    public static string? RuleSet(string type, LanguageFacts facts) => facts.Bases.TryGetValue(type, out var set) ? RuleSet(set, facts) ?? set : null;

    private static Position Positions(List<string> words) => words.Aggregate(Position.None, (p, w) => p | Flow.Positions.Named(w));

    /// <summary>A text of rules ("required|integer"), or a list of such words; an object of them is about parts.</summary>
    private static Schema? OfRuleText(Value value, LanguageFacts facts)
    {
        if (facts.Rules.Count == 0)
        {
            return null;
        }

        if (value.Constant is { } text)
        {
            return new Schema(OfRules(text.Split('|'), facts), false, false, false);
        }

        if (value.Fields is not { Count: > 0 } fields)
        {
            return null;
        }

        return value.Types.Contains("list")
            ? new Schema(fields.Values.Aggregate(OfRules(fields.Values.Select(f => f.Constant ?? ""), facts), (p, f) => f.Types.Count > 0 && Of(f, facts) is { Parts: false, Elements: false } rule ? p | rule.Safe : p), false, false, false)
            : new Schema(Position.None, true, false, false);
    }

    private static Position OfRules(IEnumerable<string> rules, LanguageFacts facts)
    {
        var safe = Position.None;
        foreach (var rule in rules)
        {
            var colon = rule.IndexOf(':', StringComparison.Ordinal);
            if (facts.Rules.TryGetValue(colon < 0 ? rule : rule[..colon], out var words))
            {
                safe |= !words.Contains("pattern") ? Positions(words) : colon > 0 && RegularText.IsWholeAndHarmless(rule[(colon + 1)..]) ? Position.All : Position.None;
            }
        }

        return safe;
    }

    /// <summary>An object that is a JSON Schema (draft 2020-12, the validation vocabulary).</summary>
    private static Schema? OfJsonSchema(Value value)
    {
        if (value.Fields is not { Count: > 0 } fields || !fields.Keys.All(Vocabulary.Contains))
        {
            return null;
        }

        if (value.Field("properties") is not null)
        {
            return new Schema(Position.None, true, value.Field("additionalProperties")?.Constant == "true", false);
        }

        if (value.Field("enum") is not null || value.Field("const") is not null)
        {
            return new Schema(Position.All, false, false, false);
        }

        return value.Field("type")?.Constant switch
        {
            "integer" or "number" or "boolean" or "null" => new Schema(Position.All, false, false, false),
            "string" when value.Field("pattern")?.Constant is { } pattern && RegularText.IsWholeAndHarmless(pattern) => new Schema(Position.All, false, false, false),
            "string" when value.Field("format")?.Constant is "uuid" or "date" or "date-time" or "time" or "ipv4" or "ipv6" => new Schema(Position.All, false, false, false),
            "string" => new Schema(Text, false, false, false),
            _ => null,
        };
    }
}
