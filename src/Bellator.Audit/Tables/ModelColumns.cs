using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Reads the columns that classes declare for a mapper, by the marks on their fields.</summary>
public static class ModelColumns
{
    /// <summary>Adds the classes' columns to the tables; what SQL declares of the same column is not overwritten.</summary>
    public static void Add(DatabaseSchema schema, ProgramModel program, LibraryModels facts)
    {
        foreach (var type in program.Classes.Where(c => ReferenceEquals(c.Primary, c)))
        {
            var marks = facts.For(Languages.Family(type.File.Source.Language)).ColumnMarks;
            if (marks.Count == 0 || !(ClassTables.StandsForTable(type, program, facts) || type.Fields.Any(f => f.Name.EndsWith("id", StringComparison.OrdinalIgnoreCase)) || type.Fields.All(f => MarkOf(f, marks) is not null)))
            {
                // A class with lengths on its fields may only carry a form.
                continue;
            }

            foreach (var field in type.Fields)
            {
                if (MarkOf(field, marks) is { } mark)
                {
                    var fact = marks[IrClass.ShortOf(mark.Name)];
                    var isText = IsText(field.Type);
                    var length = LengthOf(mark, fact) ?? (fact.Default > 0 ? fact.Default : null);
                    var at = new Location(type.File.Index, field.Span.Start, field.Span.End);
                    var table = schema.Declare(ClassTables.TableOf(type, schema, facts), at);
                    table.Add(new Column(field.Name, isText ? "text" : field.Type!.Name.TrimStart('?').ToLowerInvariant(), isText ? length : null, false, null, at, ColumnOrigin.Class));
                    if (Option(mark, "unique") is Literal { Text: "true" })
                    {
                        table.AddUnique([field.Name]);
                    }
                }
            }
        }
    }

    /// <summary>True if the field is a column of the class's table.</summary>
    public static bool IsColumn(Field field, IrClass type, LibraryModels facts) => MarkOf(field, facts.For(Languages.Family(type.File.Source.Language)).ColumnMarks) is not null;

    private static Annotation? MarkOf(Field field, Dictionary<string, ColumnMarkModel> marks) => field.Annotations.FirstOrDefault(a => marks.ContainsKey(IrClass.ShortOf(a.Name)));

    private static bool IsText(TypeName? type) => type is null || type.Name.TrimStart('?').ToLowerInvariant() is "string" or "str" or "text";

    private static int? LengthOf(Annotation mark, ColumnMarkModel fact)
    {
        if (int.TryParse(fact.Length, NumberStyles.None, CultureInfo.InvariantCulture, out var position))
        {
            return position < mark.Arguments.Count ? Number(mark.Arguments[position].Value) : null;
        }

        return Number(Option(mark, fact.Length));
    }

    /// <summary>A named argument of a mark, or an entry of an object among its arguments.</summary>
    private static Expression? Option(Annotation mark, string name) =>
        mark.Arguments.FirstOrDefault(a => a.Name == name)?.Value
        ?? mark.Arguments.Select(a => a.Value).OfType<ObjectLiteral>().SelectMany(o => o.Entries).FirstOrDefault(e => e.Name == name || (e.Key is Literal key && key.Text == name))?.Value;

    private static int? Number(Expression? value) =>
        value is Literal { Kind: LiteralKind.Number } literal && int.TryParse(literal.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
}
