using System.Globalization;
using System.Text.RegularExpressions;
using Bellator.Core.Code;
using Bellator.Core.Facts;

namespace Bellator.Core.Flow;

/// <summary>Texts made from a pattern and values.</summary>
internal sealed partial class FunctionFlow
{
    private Value Formatted(FormatFact format, CallSite site)
    {
        if (format.Braces && BraceFormatted(format, site) is { } braced)
        {
            return braced;
        }

        if (site.Argument(format.Text).Constant is not { } pattern || format.Braces)
        {
            return Value.OfTaints([.. site.Arguments.SelectMany(a => FieldAccess.DeepTaints(a)).Select(t => t with { Altered = true }).Take(Value.MaxTaints)]);
        }

        var shape = TextShape.OfLiteral("");
        var next = 0;
        var at = At(site.Index);
        var last = 0;
        foreach (Match match in FormatSpecifier().Matches(pattern))
        {
            shape = TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            var kind = match.Groups["kind"].Value;
            if (kind == "%")
            {
                shape = TextShape.Concat(shape, TextShape.OfLiteral("%"));
                continue;
            }

            var position = match.Groups["at"].Success ? int.Parse(match.Groups["at"].Value, CultureInfo.InvariantCulture) - 1 : next++;
            var value = format.List
                ? site.Argument(format.From).Field(position.ToString(CultureInfo.InvariantCulture)) ?? FieldAccess.Element(site.Argument(format.From))
                : site.Argument(format.From + position);
            var part = kind is "s" or "j" or "o" or "O" ? PartOfText(value, at) : TextShape.Of([Piece.Hole([], at)]);
            shape = TextShape.Concat(shape, part);
        }

        return Value.OfText(TextShape.Concat(shape, TextShape.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"%(?:(?<at>[0-9]{1,3})\$)?[-+ 0]*(?:'.)?[0-9]*(?:\.[0-9]+)?(?<kind>[a-zA-Z%])")]
    private static partial Regex FormatSpecifier();

    private Value Joined(JoinFact join, CallSite site)
    {
        var list = site.Argument(join.List);
        var glue = site.Argument(join.Glue);
        if (list.Constant is not null && glue.Fields is not null)
        {
            (list, glue) = (glue, list);
        }

        var at = At(site.Index);
        if (list.Fields is { Count: > 0 } fields)
        {
            TextShape? shape = null;
            foreach (var item in fields.Values)
            {
                var part = PartOfText(item, at);
                shape = shape is null ? part : TextShape.Concat(TextShape.Concat(shape, TextShape.OfLiteral(glue.Constant ?? ",")), part);
            }

            return Value.OfText(shape!);
        }

        return list.Taints.Count == 0 ? Value.Unknown : Value.OfText(TextShape.Of([Piece.Hole([.. list.Taints.Select(Value.Collapsed)], at)]));
    }

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
