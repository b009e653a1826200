using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>A form or serialiser that lets the request set every column of a record.</summary>
/// <param name="Column">One that decides about rights.</param>
public sealed record FilledRecord(string Record, string Column, Location At);

/// <summary>Finds forms and serialisers that list all columns of a record, by the class in them that says so. The names are Django's, from memory.</summary>
public sealed class FilledRecords(ProgramModel program, IdentifierClassifier words, Func<string, string, bool> saysWhose)
{
    private const string Settings = "Meta";
    private const string AllColumns = "__all__";

    /// <summary>Fields by which a view names its form or serialiser.</summary>
    private static readonly string[] Naming = ["form_class", "serializer_class"];

    /// <summary>Code makes one, or a view names it: others are there for an administration of the framework's.</summary>
    private bool IsUsed(IrClass type) =>
        program.Functions.Any(f => f.NamedCalls.Any(c => c.Name == type.ShortName))
        || program.Classes.Any(c => c.Fields.Any(f => Naming.Contains(f.Name) && f.Value is Name named && IrClass.ShortOf(named.Text) == type.ShortName));

    public IEnumerable<FilledRecord> All()
    {
        foreach (var type in program.Classes.Where(c => ReferenceEquals(c, c.Primary) && program.Kinds(c).Any(k => words.FillsRecord(IrClass.ShortOf(k)))))
        {
            if (type.Fields.FirstOrDefault(f => f.Name == Settings)?.Value is not ClassExpression { Declaration.Fields: var settings }
                || settings.FirstOrDefault(f => f.Name == "fields") is not { Value: Literal { Text: AllColumns } } listed
                || settings.FirstOrDefault(f => f.Name == "model")?.Value is not Name model
                || program.FindClass(model.Text, type.File) is not { } record
                || !IsUsed(type))
            {
                continue;
            }

            var readOnly = (settings.FirstOrDefault(f => f.Name == "read_only_fields")?.Value as ObjectLiteral)?.Entries.Select(e => (e.Value as Literal)?.Text).ToHashSet() ?? [];
            var column = record.Primary.Fields.Select(f => f.Name).Concat(program.Kinds(record).Any(k => words.MakesAccount(IrClass.ShortOf(k))) ? ["is_superuser"] : [])
                .FirstOrDefault(n => (words.IsSensitiveColumn(n) || saysWhose(record.ShortName, n)) && !readOnly.Contains(n) && !type.Fields.Any(f => f.Name == n));
            if (column is not null)
            {
                yield return new FilledRecord(record.ShortName, column, new Location(type.File.Index, listed.Span.Start, listed.Span.End));
            }
        }
    }
}
