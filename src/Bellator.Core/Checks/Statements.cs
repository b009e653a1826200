using Bellator.Core.Application;
using Bellator.Core.Flow;

namespace Bellator.Core.Checks;

/// <summary>A value that goes into a column or is compared with one, by text or by binding.</summary>
internal sealed record ColumnUse(FlowEvent Event, SqlStatement Statement, SqlSlot Slot, IReadOnlyList<Taint> Taints);

/// <summary>Reads the statements that reach the database.</summary>
internal static class Statements
{
    public static IReadOnlyList<SqlStatement> Of(Value text) => SqlTexts.Of(text);

    /// <summary>The text begins as a statement does: a password in it was not hashed for its own sake.</summary>
    public static bool IsStatement(Value text) =>
        text.Text is not null && Of(text).Any(s => s.Verb is "SELECT" or "INSERT" or "UPDATE" or "DELETE" or "SET" or "ALTER" or "CREATE" or "GRANT" or "REPLACE");

    /// <summary>Every value of every statement with what it carries.</summary>
    public static IReadOnlyList<ColumnUse> Uses(CheckContext context) => context.Kept<IReadOnlyList<ColumnUse>>(() => [.. FindUses(context)]);

    private static IEnumerable<ColumnUse> FindUses(CheckContext context)
    {
        foreach (var happening in context.EventsOf(EventKind.Query, EventKind.Run))
        {
            var text = happening.Role("text");
            var values = happening.Role("values");
            foreach (var statement in Of(text))
            {
                foreach (var slot in statement.Slots)
                {
                    if (slot.Hole is { } hole)
                    {
                        if (hole.Taints.Count > 0 && happening.Kind == EventKind.Query)
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
    }

    private static IReadOnlyList<Taint>? Bound(Value values, string placeholder)
    {
        var value = values.Field(placeholder) ?? values.Field(":" + placeholder) ?? values.Field("@" + placeholder);
        if (value is null && values.Fields is null && placeholder == "0" && values.IsTainted)
        {
            value = values;
        }

        return value?.Taints.Count > 0 ? value.Taints : null;
    }
}
