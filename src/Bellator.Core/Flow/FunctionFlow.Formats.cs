using System.Globalization;
using System.Text.RegularExpressions;
using Bellator.Core.Code;
using Bellator.Core.Facts;

namespace Bellator.Core.Flow;

/// <summary>Texts made from a pattern and values.</summary>
internal sealed partial class FunctionFlow
{
    /// <summary>A pattern with places in braces: by position, by name or in order.</summary>
    private Value? BraceFormatted(FormatFact format, CallSite site)
    {
        if (site.Argument(format.Text).Constant is not { } pattern)
        {
            return null;
        }

        var at = At(site.Index);
        var shape = TextShape.OfLiteral("");
        var last = 0;
        var next = 0;
        foreach (Match match in BracePlace().Matches(pattern))
        {
            shape = TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            if (match.Value is "{{" or "}}")
            {
                shape = TextShape.Concat(shape, TextShape.OfLiteral(match.Value[..1]));
                continue;
            }

            var name = match.Groups["name"].Value;
            var value = name.Length == 0 ? site.Argument(format.From + next++)
                : int.TryParse(name, CultureInfo.InvariantCulture, out var position) ? site.Argument(format.From + position)
                : site.Option(name) ?? Value.Unknown;
            shape = TextShape.Concat(shape, PartOfText(value, at));
        }

        return Value.OfText(TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"\{\{|\}\}|\{(?<name>\w*)[^{}]*\}")]
    private static partial Regex BracePlace();

    /// <summary>The pattern before a percent operator, with the values after it.</summary>
    private Value FormattedByOperator(int index, in Instruction instruction)
    {
        var pattern = Get(instruction.A);
        var values = Get(instruction.B);
        if (pattern.Constant is null)
        {
            return Value.OfTaints([.. Value.Union(pattern.Taints, FieldAccess.DeepTaints(values)).Select(t => t with { Altered = true })]);
        }

        if (values.Fields is not null && !values.Types.Contains("list"))
        {
            return NamedPercent(index, pattern.Constant, values);
        }

        var list = values.Fields is null ? [values] : values.Fields.Values.ToList();
        var site = new CallSite(index, Value.Unknown, [pattern, .. list], [-1, .. list.Select(_ => -1)]);
        return Formatted(new FormatFact { Text = 0, From = 1 }, site);
    }

    private Value NamedPercent(int index, string pattern, Value values)
    {
        var at = At(index);
        var shape = TextShape.OfLiteral("");
        var last = 0;
        foreach (Match match in NamedPlace().Matches(pattern))
        {
            shape = TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            shape = TextShape.Concat(shape, match.Groups["kind"].Value is "d" or "f" or "i" ? TextShape.Of([Piece.Hole([], at)]) : PartOfText(FieldAccess.Read(values, match.Groups["name"].Value), at));
        }

        return Value.OfText(TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"%[({<](?<name>\w+)[)}>](?<kind>[a-z]?)")]
    private static partial Regex NamedPlace();
}
