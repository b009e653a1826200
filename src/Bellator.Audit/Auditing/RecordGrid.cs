namespace Bellator.Audit.Auditing;

/// <summary>The access map as a grid: record types × kinds of people × actions.</summary>
public sealed class RecordGrid
{
    public static readonly IReadOnlyList<string> Actions = ["list", "view", "create", "edit", "delete"];

    /// <summary>Kinds of people: nobody signed in, anybody signed in, people of a role, and those of whom it is not clear.</summary>
    public static readonly IReadOnlyList<string> People = ["nobody", "signedIn", "role", "unclear"];

    private readonly Dictionary<(string Table, string Person, string Action), List<ReportedRecordUse>> _cells = [];

    public RecordGrid(ReportedRecords records)
    {
        foreach (var use in records.Uses)
        {
            var key = (use.Table.ToLowerInvariant(), PersonOf(use), use.Action);
            (_cells.TryGetValue(key, out var cell) ? cell : _cells[key] = []).Add(use);
        }

        Tables = [.. records.Uses.GroupBy(u => u.Table, StringComparer.OrdinalIgnoreCase).OrderByDescending(g => Unlike(g.Key).Count > 0).ThenBy(g => g.Key, StringComparer.OrdinalIgnoreCase).Select(g => g.Key)];
    }

    /// <summary>Record types, those first whose entry points are not alike.</summary>
    public IReadOnlyList<string> Tables { get; }

    public IReadOnlyList<ReportedRecordUse> Uses(string table, string person, string action) => _cells.GetValueOrDefault((table.ToLowerInvariant(), person, action)) ?? [];

    /// <summary>The furthest that any entry point of the cell reaches: all, unclear, own, new or none.</summary>
    public string Reach(string table, string person, string action)
    {
        var uses = Uses(table, person, action);
        return uses.Count == 0 ? "none"
            : uses.Any(u => u.Rows is "all" or "chosen" or "role") ? "all"
            : uses.Any(u => u.Rows == "unclear") ? "unclear"
            : uses.Any(u => u.Rows == "new") ? "new" : "own";
    }

    /// <summary>Uses that reach all rows where others of the same record type and kind of action are limited to the person’s own.</summary>
    public IReadOnlyList<ReportedRecordUse> Unlike(string table)
    {
        var all = People.SelectMany(p => Actions.SelectMany(a => Uses(table, p, a))).ToList();
        return [.. all.Where(u => u is { Rows: "all" or "chosen", IsJourney: false } && all.Exists(o => o is { Rows: "own", IsJourney: false } && (IsRead(o) || !IsRead(u))))];
    }

    private static bool IsRead(ReportedRecordUse use) => use.Action is "list" or "view";

    public static string PersonOf(ReportedRecordUse use) => use.Rows == "role" ? "role" : use.SignIn switch { "needed" => "signedIn", "notNeeded" => "nobody", _ => "unclear" };

    /// <summary>A kind of people in words.</summary>
    public static string Words(string person) => person switch { "nobody" => "nobody signed in", "signedIn" => "anybody signed in", "role" => "a role", _ => "unclear who" };
}
