using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// Conditions that are put together by calls: <c>and(eq(hives.id, id), eq(hives.keeperId, me))</c>. Each gives an object of columns with what
/// they are held against, so that it may be made by a helper, kept in a variable, or be one of several, and is the same.
/// </summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The key of alternatives in an object of conditions, and the one for what must not be.</summary>
    private const string AnyOf = "OR";

    private const string NoneOf = "NOT";

    /// <summary>The condition that a call states; null where it states none.</summary>
    private AbstractValue? StatedByCall(CallModel fact, CallSite site) => fact.States switch
    {
        null => null,
        ConditionKind.Equal => Equality(site),
        ConditionKind.Test => ColumnGiven(site, 0) is { } column ? ConditionOf(column, Tested) : UnknownStated(),
        ConditionKind.All => AllOf(site.Arguments),
        ConditionKind.Any => Of(AnyOf, site.Arguments),
        _ => Of(NoneOf, site.Arguments),
    };

    private AbstractValue Equality(CallSite site) => (ColumnGiven(site, 0), ColumnGiven(site, 1)) switch
    {
        // Two columns held against each other join two tables.
        ({ }, { }) => new AbstractValue { Types = [QueryConditions] },
        ({ } column, null) => ConditionOf(column, TestedValue(site.Argument(1))),
        (null, { } column) => ConditionOf(column, TestedValue(site.Argument(0))),
        _ => UnknownStated(),
    };

    private static AbstractValue ConditionOf(string column, AbstractValue value) =>
        new() { Types = [QueryConditions], Fields = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { [column] = value } };

    private static AbstractValue UnknownStated() => ConditionOf(UnknownCondition, AbstractValue.Unknown);

    /// <summary>The column that an argument names, as <c>hives.keeperId</c>: a part of what stands for a table, and not for a row of it.</summary>
    private string? ColumnGiven(CallSite site, int position) =>
        site.Operand(position) is >= 0 and var at && _function.Instructions[at] is { Op: Opcode.GetField, Text: { } column } part && Get(part.A) is var of && !of.Types.Any(IsRecordType) && RecordsName(of) is { } table ? $"{table}.{column}" : null;

    /// <summary>All must hold: what any of them tells is told.</summary>
    private static AbstractValue AllOf(IReadOnlyList<AbstractValue> conditions)
    {
        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var condition in conditions.SelectMany(Several))
        {
            foreach (var (column, value) in condition.Types.Contains(QueryConditions) ? condition.Fields ?? new Dictionary<string, AbstractValue>() : OtherCondition(condition))
            {
                // A column that is tested twice is the person's where one of the tests says so.
                columns[column] = columns.TryGetValue(column, out var known) && NamesSubject(known) ? known : value;
            }
        }

        return new AbstractValue { Types = [QueryConditions], Fields = AbstractValue.Bounded(columns) };
    }

    private static AbstractValue Of(string key, IReadOnlyList<AbstractValue> conditions)
    {
        var several = conditions.SelectMany(Several).Select((c, i) => (Name: i.ToString(CultureInfo.InvariantCulture), Value: c.Types.Contains(QueryConditions) ? c : new AbstractValue { Fields = OtherCondition(c) }));
        return ConditionOf(key, new AbstractValue { Fields = AbstractValue.Bounded(several.ToDictionary(c => c.Name, c => c.Value, StringComparer.Ordinal)) });
    }

    /// <summary>The conditions in a list that is handed over, or the one that is.</summary>
    private static IEnumerable<AbstractValue> Several(AbstractValue given) =>
        given.Types.Contains("list") && !given.Types.Contains(QueryConditions) && given.Fields is { Count: > 0 } ? given.Parts
        : given is { Constant: not null, Fields: null, ConstantKind: not LiteralKind.Text } ? [] : [given];

    /// <summary>A condition in words of its own: the text is known, so the person is among what stands in it, or is not there.</summary>
    private static Dictionary<string, AbstractValue> OtherCondition(AbstractValue given) =>
        NamesSubject(given) ? new(StringComparer.Ordinal) { ["?"] = given }
        : given.Text is not null || given.Constant is not null ? new(StringComparer.Ordinal) { ["?"] = Tested }
        : new(StringComparer.Ordinal) { [UnknownCondition] = AbstractValue.Unknown };

    /// <summary>The columns of the records in question by their own names, those of others with their table's.</summary>
    private static AbstractValue OfTable(AbstractValue condition, string? table, int depth = 0)
    {
        if (table is null || condition.Fields is not { Count: > 0 } fields)
        {
            return condition;
        }

        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        foreach (var (name, value) in fields)
        {
            var own = name.StartsWith(table, StringComparison.Ordinal) && name.Length > table.Length && name[table.Length] == '.' ? name[(table.Length + 1)..] : name;
            columns[own] = depth < 2 && (name is AnyOf or NoneOf || char.IsAsciiDigit(name[0])) ? OfTable(value, table, depth + 1) : value;
        }

        return condition.With(fields: columns);
    }
}
