using Bellator.Audit.Endpoints;

namespace Bellator.Audit.Access;

/// <summary>The columns to which a change gives a new value, not those that choose the row.</summary>
internal static class WrittenColumns
{
    /// <summary>Those that the statement sets; of a mapper's change all but keys, of which it is not known what they are there for.</summary>
    public static IReadOnlyList<string> Of(TableAccess change) =>
        SetIn(change.How).ToList() is { Count: > 0 } set ? set : [.. change.Columns.Where(c => !c.EndsWith("id", StringComparison.OrdinalIgnoreCase))];

    /// <summary>The names before the signs of equality: <c>stamp = stamp + 1</c> has no value from outside.</summary>
    private static IEnumerable<string> SetIn(string statement)
    {
        var (from, to) = (statement.IndexOf(" set ", StringComparison.OrdinalIgnoreCase), statement.IndexOf(" where ", StringComparison.OrdinalIgnoreCase));
        return from < 0 ? [] : statement[(from + 5)..(to > from ? to : statement.Length)].Split(',').Select(p => p.Split('=', 2)).Where(p => p.Length == 2).Select(p => p[0].Trim().Split('.')[^1].Trim('"', '`', '[', ']')).Where(n => n.Length > 0 && n.All(c => char.IsLetterOrDigit(c) || c == '_'));
    }
}
