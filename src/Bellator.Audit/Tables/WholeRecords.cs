using Bellator.Analysis.Domain;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Audit.Sql;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Records that are given out as they are fetched, with all columns that nothing hides.</summary>
public sealed class WholeRecords(ProgramModel program, DatabaseSchema schema, AccountTables accounts, IdentifierClassifier words)
{
    private readonly Dictionary<(string Record, string Family), string?> _columns = [];

    /// <summary>A column with a password that comes along with a value; null if there is none. Where it is one of related records, the relation stands before it.</summary>
    /// <param name="from">Where it is given out: of several applications each has records of its own.</param>
    public string? PasswordIn(AbstractValue value, IrFile from, int depth = 0)
    {
        if (depth < AbstractValue.MaxDepth && value.Payload is { } madeOf && value.Types.Contains(FunctionAnalyzer.Serialized))
        {
            return PasswordIn(madeOf, from, depth + 1);
        }

        foreach (var type in value.Types.Where(t => t[0] == FunctionAnalyzer.WholeMark))
        {
            var family = Languages.Family(from.Source.Language);
            var whole = type[1..];
            var relation = whole.IndexOf(FunctionAnalyzer.RelationMark, StringComparison.Ordinal);
            if ((relation < 0 ? whole : RelatedRecord(whole[..relation], whole[(relation + 1)..], family)) is { } record && PasswordOf(record, family) is { } column && !IsSetApart(value, column))
            {
                return relation < 0 ? column : whole[(relation + 1)..] + FunctionAnalyzer.RelationMark + column;
            }
        }

        if (value.Payload is { } statement && value.Types.Any(t => t is "row" or "rows" or "result") && PasswordSelected(value, statement) is { } selected)
        {
            return selected;
        }

        return depth >= AbstractValue.MaxDepth ? null : value.Fields?.Values.Select(f => PasswordIn(f, from, depth + 1)).FirstOrDefault(c => c is not null);
    }

    /// <summary>A column with a password among those that a statement gives.</summary>
    private string? PasswordSelected(AbstractValue rows, AbstractValue statement)
    {
        foreach (var column in SelectedColumns.Of(statement))
        {
            var found = column.Name != "*" ? words.IsPasswordColumn(column.Name) && (column.Table is null || schema.Find(column.Table) is not { } known || known.Find(column.Name) is not null) ? column.As : null
                : column.Table is { } table ? schema.Find(table)?.Columns.Find(c => words.IsPasswordColumn(c.Name))?.Name ?? accounts.WrittenPassword(table) : null;
            if (found is not null && !IsSetApart(rows, found))
            {
                return found;
            }
        }

        return null;
    }

    /// <summary>The table or class of the records that come along under a relation's name: as keys, members and lastly the name itself tell.</summary>
    private string? RelatedRecord(string record, string relation, string family)
    {
        var key = schema.OfModel(record)?.ForeignKeys.Find(k => k.Columns.Any(c => IdentifierClassifier.SameName(c, relation) || IdentifierClassifier.SameName(c, relation + "_id")));
        if (key is not null)
        {
            return key.Table;
        }

        var member = program.Classes.Where(c => c.ShortName == record && Languages.Family(c.File.Source.Language) == family).SelectMany(c => c.Fields).FirstOrDefault(f => f.Name == relation)?.Type;
        return member is not null ? IrClass.ShortOf((member.Arguments is [var of] ? of : member).Name.TrimEnd('?')) : schema.OfModel(relation)?.Name;
    }

    /// <summary>The column was taken out of the record, or something else put there.</summary>
    private static bool IsSetApart(AbstractValue record, string column) => record.Fields?.FirstOrDefault(f => IdentifierClassifier.SameName(f.Key, column)).Value is { IsTainted: false, Types.Count: 0 };

    /// <summary>The column with the password of the records of a name, if it is not hidden.</summary>
    private string? PasswordOf(string record, string family)
    {
        if (!_columns.TryGetValue((record, family), out var column))
        {
            _columns[(record, family)] = column = Find(record, family);
        }

        return column;
    }

    private string? Find(string record, string family)
    {
        bool IsOurs(int file) => Languages.Family(program.Files[file].Source.Language) == family;
        var classes = program.Classes.Where(c => c.ShortName == record && IsOurs(c.File.Index)).ToList();
        var table = schema.OfModel(record);
        var column = table?.Columns.Where(c => words.IsPasswordColumn(c.Name)).OrderByDescending(c => IsOurs(c.At.File)).FirstOrDefault()?.Name
            ?? classes.SelectMany(c => c.Fields).FirstOrDefault(f => words.IsPasswordColumn(f.Name))?.Name;
        if (column is null || classes.Exists(c => Hides(c, column)))
        {
            return null;
        }

        var files = (table?.Origins ?? []).Select(o => o.At.File).Concat(classes.Select(c => c.File.Index)).Distinct();
        return files.SelectMany(f => program.Files[f].Functions).Any(Hides) ? null : column;
    }

    private bool Hides(IrClass type, string column) =>
        type.Methods.Keys.Any(m => words.HidesColumns(m.Replace(IrClass.OfClass, "", StringComparison.Ordinal)))
        || type.Fields.Any(f => words.HidesColumns(f.Name) || (f.Name.Equals(column, StringComparison.OrdinalIgnoreCase) && f.Annotations.Any(IsHiding)));

    private bool IsHiding(Annotation mark) =>
        words.HidesColumns(IrClass.ShortOf(mark.Name))
        || mark.Arguments.Select(a => a.Value).OfType<ObjectLiteral>().SelectMany(o => o.Entries).Any(e => e.Name == Select && e.Value is Literal { Text: "false" });

    /// <summary>An option of a schema that keeps a column out where nobody asks for it.</summary>
    private const string Select = "select";

    /// <summary>Code that declares the record sets how it is made into an answer, or keeps the password out of what is fetched.</summary>
    private bool Hides(IrFunction function)
    {
        for (var i = 0; i < function.Instructions.Length; i++)
        {
            var instruction = function.Instructions[i];
            if (instruction.Op == Opcode.SetField && words.HidesColumns(instruction.Text!))
            {
                return true;
            }

            if (instruction.Op == Opcode.Object)
            {
                foreach (var entry in function.List(instruction))
                {
                    if (entry.Name is { } name && (words.HidesColumns(name) || (words.IsPasswordColumn(name) && function.Instructions[entry.Value] is { Op: Opcode.Object } options && function.List(options).ToArray().Any(o => o.Name == Select))))
                    {
                        return true;
                    }
                }
            }
        }

        return false;
    }
}
