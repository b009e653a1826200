using System.Globalization;
using System.Text.RegularExpressions;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Interpreter;

/// <summary>Texts made from a pattern and values.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue Formatted(FormatModel format, CallSite site)
    {
        if (format.Braces && BraceFormatted(format, site) is { } braced)
        {
            return braced;
        }

        if (site.Argument(format.Text).Constant is not { } pattern || format.Braces)
        {
            return AbstractValue.OfTaints([.. site.Arguments.SelectMany(a => FieldAccess.DeepTaints(a)).Select(t => t with { Altered = true }).Take(AbstractValue.MaxTaints)]);
        }

        var shape = StringPattern.OfLiteral("");
        var next = 0;
        var at = At(site.Index);
        var last = 0;
        foreach (Match match in FormatSpecifier().Matches(pattern))
        {
            shape = StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            var kind = match.Groups["kind"].Value;
            if (kind == "%")
            {
                shape = StringPattern.Concat(shape, StringPattern.OfLiteral("%"));
                continue;
            }

            var position = match.Groups["at"].Success ? int.Parse(match.Groups["at"].Value, CultureInfo.InvariantCulture) - 1 : next++;
            var value = format.List
                ? site.Argument(format.From).Field(position.ToString(CultureInfo.InvariantCulture)) ?? FieldAccess.Element(site.Argument(format.From))
                : site.Argument(format.From + position);
            var part = kind is "s" or "j" or "o" or "O" ? PartOfText(value, at) : StringPattern.Of([Piece.Hole([], at)]);
            shape = StringPattern.Concat(shape, part);
        }

        return AbstractValue.OfText(StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"%(?:(?<at>[0-9]{1,3})\$)?[-+ 0]*(?:'.)?[0-9]*(?:\.[0-9]+)?(?<kind>[a-zA-Z%])")]
    private static partial Regex FormatSpecifier();

    private AbstractValue Joined(JoinModel join, CallSite site)
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
            StringPattern? shape = null;
            foreach (var item in fields.Values)
            {
                var part = PartOfText(item, at);
                shape = shape is null ? part : StringPattern.Concat(StringPattern.Concat(shape, StringPattern.OfLiteral(glue.Constant ?? ",")), part);
            }

            return AbstractValue.OfText(shape!);
        }

        return list.Taints.Count == 0 ? AbstractValue.Unknown : AbstractValue.OfText(StringPattern.Of([Piece.Hole([.. list.Taints.Select(AbstractValue.Collapsed)], at)]));
    }

    /// <summary>A pattern with places in braces: by position, by name or in order.</summary>
    private AbstractValue? BraceFormatted(FormatModel format, CallSite site)
    {
        if (site.Argument(format.Text).Constant is not { } pattern)
        {
            return null;
        }

        var at = At(site.Index);
        var shape = StringPattern.OfLiteral("");
        var last = 0;
        var next = 0;
        foreach (Match match in BracePlace().Matches(pattern))
        {
            shape = StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            if (match.Value is "{{" or "}}")
            {
                shape = StringPattern.Concat(shape, StringPattern.OfLiteral(match.Value[..1]));
                continue;
            }

            var name = match.Groups["name"].Value;
            var value = name.Length == 0 ? site.Argument(format.From + next++)
                : int.TryParse(name, CultureInfo.InvariantCulture, out var position) ? site.Argument(format.From + position)
                : site.Option(name) ?? AbstractValue.Unknown;
            shape = StringPattern.Concat(shape, PartOfText(value, at));
        }

        return AbstractValue.OfText(StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"\{\{|\}\}|\{(?<name>\w*)[^{}]*\}")]
    private static partial Regex BracePlace();

    /// <summary>The pattern before a percent operator, with the values after it.</summary>
    private AbstractValue FormattedByOperator(int index, in Instruction instruction)
    {
        var pattern = Get(instruction.A);
        var values = Get(instruction.B);
        if (pattern.Constant is null)
        {
            return AbstractValue.OfTaints([.. AbstractValue.Union(pattern.Taints, FieldAccess.DeepTaints(values)).Select(t => t with { Altered = true })]);
        }

        if (values.Fields is not null && !values.Types.Contains("list"))
        {
            return NamedPercent(index, pattern.Constant, values);
        }

        var list = values.Fields is null ? [values] : values.Fields.Values.ToList();
        var site = new CallSite(index, AbstractValue.Unknown, [pattern, .. list], [-1, .. list.Select(_ => -1)]);
        return Formatted(new FormatModel { Text = 0, From = 1 }, site);
    }

    private AbstractValue NamedPercent(int index, string pattern, AbstractValue values)
    {
        var at = At(index);
        var shape = StringPattern.OfLiteral("");
        var last = 0;
        foreach (Match match in NamedPlace().Matches(pattern))
        {
            shape = StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..match.Index]));
            last = match.Index + match.Length;
            shape = StringPattern.Concat(shape, match.Groups["kind"].Value is "d" or "f" or "i" ? StringPattern.Of([Piece.Hole([], at)]) : PartOfText(FieldAccess.Read(values, match.Groups["name"].Value), at));
        }

        return AbstractValue.OfText(StringPattern.Concat(shape, StringPattern.OfLiteral(pattern[last..])));
    }

    [GeneratedRegex(@"%[({<](?<name>\w+)[)}>](?<kind>[a-z]?)")]
    private static partial Regex NamedPlace();
}
