using Bellator.Analysis.Domain;
using Bellator.Analysis.Summaries;

namespace Bellator.Analysis.Interpreter;

/// <summary>Conditions that name their columns in texts: one by one, or in a piece of a statement.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>A column by its name, with what it is held against: <c>where('keeper_id', '=', $id)</c>, <c>where(['keeper_id' => $id])</c>.</summary>
    private void AddColumn(CallSite site, Dictionary<string, AbstractValue> columns)
    {
        var first = site.Argument(0);
        if (first is { Constant: { Length: > 0 } column, Text: null })
        {
            var isEqual = site.Arguments.Count < 3 || site.Argument(1).Constant is "=" or "==";
            columns[column[(column.LastIndexOf('.') + 1)..]] = site.Arguments.Count > 1 && isEqual ? TestedValue(site.Arguments[^1]) : Tested;
        }
        else if (first.Fields is { Count: > 0 } several && several.Keys.All(k => k.Length > 0 && char.IsLetter(k[0])))
        {
            foreach (var (name, value) in several)
            {
                columns[name] = TestedValue(value);
            }
        }
        else if (NamesSubject(first))
        {
            columns["?"] = first;
        }
        else
        {
            columns[UnknownCondition] = AbstractValue.Unknown;
        }
    }

    /// <summary>Columns that a text holds against values by their names: <c>where("hive.keeperId = :keeper AND hive.open", { keeper })</c>.</summary>
    private static void AddText(CallSite site, Dictionary<string, AbstractValue> columns)
    {
        if (site.Argument(0).Constant is not { Length: > 0 } text || text.Contains('(', StringComparison.Ordinal) || text.Split(' ').Contains("or", StringComparer.OrdinalIgnoreCase))
        {
            columns[UnknownCondition] = AbstractValue.Unknown;
            return;
        }

        foreach (var term in text.Replace(" AND ", " and ", StringComparison.Ordinal).Split(" and "))
        {
            var sides = term.Split('=', StringSplitOptions.TrimEntries);
            var column = sides[0].Split(' ')[0].Trim('"', '`')[(sides[0].Split(' ')[0].LastIndexOf('.') + 1)..].Trim('"', '`');
            var value = sides is [_, [':', .. var name]] && sides[0][^1] is not ('<' or '>' or '!') ? site.Argument(1).Field(name.Trim()) ?? AbstractValue.Unknown : Tested;
            if (column.Length > 0)
            {
                columns[column] = value;
            }
        }
    }
}
