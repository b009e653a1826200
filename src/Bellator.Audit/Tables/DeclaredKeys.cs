using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Libraries;

namespace Bellator.Audit.Tables;

/// <summary>Reads from the calls of migrations which columns are unique, indexed, or refer to another table.</summary>
internal static class DeclaredKeys
{
    private const string IdEnding = "_id";

    public static void Add(DatabaseSchema schema, Table table, AnalysisEvent happening, KeyModel fact)
    {
        var columns = Names(happening.Role("keys"));
        var target = happening.Role("target").Constant?.TrimStart(':');
        if (fact.Refers)
        {
            // Told by the column or by the table, the other follows from the names.
            var parts = target?.Split('.');
            if (fact.Dotted && parts is not { Length: 2 })
            {
                return;
            }

            if (columns.Count == 0 && parts is not null)
            {
                columns = [IdentifierClassifier.Singular(parts[0]) + IdEnding];
            }

            if (columns.Count > 0)
            {
                table.AddReference(columns, parts?[0] ?? TableNamed(schema, columns[0]), parts is [_, var column] ? [column] : null);
            }
        }
        else if (fact.Unique || happening.Role("unique").Constant is "true")
        {
            table.AddUnique(columns);
        }
        else
        {
            table.AddIndex(columns);
        }
    }

    /// <summary>What the options of a column's own declaration say.</summary>
    public static void AddOptions(DatabaseSchema schema, Table table, AnalysisEvent happening, ColumnTypeModel fact, string column)
    {
        var index = happening.Role("index");
        if (index.Constant is "unique" || index.Field("unique")?.Constant is "true")
        {
            table.AddUnique([column + fact.Suffix]);
        }
        else if (index.Constant is "true" or "index" || index.Fields is not null || (fact.Indexed && index.Constant is not "false"))
        {
            table.AddIndex([column + fact.Suffix]);
        }

        var refers = happening.Role("refers");
        if (refers.Constant is "true" || refers.Fields is not null)
        {
            table.AddReference([column + fact.Suffix], refers.Field(fact.TargetEntry ?? "")?.Constant?.TrimStart(':') ?? TableNamed(schema, column));
        }
    }

    private static string TableNamed(DatabaseSchema schema, string column)
    {
        var one = column.EndsWith(IdEnding, StringComparison.OrdinalIgnoreCase) ? column[..^IdEnding.Length] : column;
        return schema.OfModel(one)?.Name ?? IdentifierClassifier.Plural(one);
    }

    private static List<string> Names(AbstractValue columns) =>
        columns.Constant is { } one ? [one.TrimStart(':')] : [.. columns.Parts.Select(p => p.Constant?.TrimStart(':')).OfType<string>()];
}
