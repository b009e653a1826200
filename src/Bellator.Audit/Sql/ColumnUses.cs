using System.Runtime.CompilerServices;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;

namespace Bellator.Audit.Sql;

/// <summary>A value that goes into a column or is compared with one, by text or by binding.</summary>
public sealed record ColumnUse(AnalysisEvent Event, SqlStatement Statement, SqlSlot Slot, IReadOnlyList<Taint> Taints);

/// <summary>Reads which values statements write and compare.</summary>
public static class ColumnUses
{
    /// <summary>Events outlive an audit that is repeated, and several ask for the same ones.</summary>
    private static readonly ConditionalWeakTable<AnalysisEvent, ColumnUse[]> Read = [];

    public static IReadOnlyList<ColumnUse> Of(AnalysisEvent happening) => happening.Kind is EventKind.Query or EventKind.Run ? Read.GetValue(happening, static e => [.. Find(e, e.Kind == EventKind.Query)]) : [];

    /// <summary>With what stands in the text itself of a statement that was prepared elsewhere, which its preparation tells too.</summary>
    public static IReadOnlyList<ColumnUse> WithText(AnalysisEvent happening) => happening.Kind == EventKind.Run ? [.. Find(happening, true)] : Of(happening);

    private static IEnumerable<ColumnUse> Find(AnalysisEvent happening, bool withHoles)
    {
        var values = happening.Role("values");
        foreach (var statement in SqlTexts.Of(happening.Role("text")))
        {
            foreach (var slot in statement.Slots)
            {
                if (slot.Hole is { } hole)
                {
                    if (hole.Taints.Count > 0 && withHoles)
                    {
                        yield return new ColumnUse(happening, statement, slot, hole.Taints);
                    }
                }
                else if (Bound(values, slot.Placeholder!) is { } bound)
                {
                    yield return new ColumnUse(happening, statement, slot, bound);
                }
            }
        }
    }

    /// <summary>What is bound at a placeholder; null where that is not known.</summary>
    public static AbstractValue? ValueOf(AbstractValue values, string placeholder)
    {
        var direct = values.Field(placeholder) ?? values.Field(":" + placeholder) ?? values.Field("@" + placeholder);
        return direct is null or { Fields: null } ? direct ?? PairNamed(values, placeholder) : ValueIn(direct) ?? PairNamed(values, placeholder) ?? direct;
    }

    /// <summary>Names and values may be handed over as pairs, or as parameters that have both.</summary>
    private static AbstractValue? PairNamed(AbstractValue values, string placeholder) =>
        values.Fields?.Values.Where(p => p.Fields is not null && NameIn(p) is { Constant: { } name } && name.TrimStart('@', ':') == placeholder.TrimStart('@', ':')).Select(ValueIn).FirstOrDefault(v => v is not null);

    private static AbstractValue? NameIn(AbstractValue pair) => pair.Field("ParameterName") ?? pair.Field("Key") ?? pair.Field("0") ?? pair.Field("Item1") ?? pair.Field("Name");

    private static AbstractValue? ValueIn(AbstractValue pair) => pair.Field("Value") ?? pair.Field("1") ?? pair.Field("Item2");

    private static IReadOnlyList<Taint>? Bound(AbstractValue values, string placeholder)
    {
        var value = ValueOf(values, placeholder);
        if (value is null && values.Fields is null && placeholder == "0" && values.IsTainted)
        {
            value = values;
        }

        return value?.Taints.Count > 0 ? value.Taints : null;
    }
}
