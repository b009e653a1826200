using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>
/// Reads tables from objects that a module gives to others: one object for each table by its name, with an object for each column that
/// says its type; or the columns of one table, which is named for the file.
/// </summary>
internal static class ObjectTables
{
    /// <summary>Fewer columns that say their type, or tables in a file, may be anything.</summary>
    private const int Few = 2;

    public static void Add(DatabaseSchema schema, ProgramModel program, LibraryModels facts)
    {
        foreach (var file in program.Files)
        {
            var language = facts.For(Languages.Family(file.Source.Language));
            if (language.ColumnObjects.Count == 0)
            {
                continue;
            }

            var module = file.Functions[0];
            foreach (var given in module.Instructions.Where(i => i.Op == Opcode.Export && i.A >= 0 && module.Instructions[i.A].Op == Opcode.Object).ToArray())
            {
                foreach (var fact in language.ColumnObjects)
                {
                    Read(schema, module, module.Instructions[given.A], fact);
                }
            }
        }
    }

    private static void Read(DatabaseSchema schema, IrFunction module, Instruction given, ColumnObjectsModel fact)
    {
        var path = module.File.Source.Path;
        if (fact.Folder is { } folder && !("/" + path).Contains("/" + folder, StringComparison.Ordinal))
        {
            return;
        }

        var objects = module.List(given).ToArray().Where(p => p.Name is { Length: > 0 } && module.Instructions[p.Value].Op == Opcode.Object).ToList();
        if (fact.Member is { } member)
        {
            foreach (var part in objects.Where(p => p.Name == member && ColumnsIn(module, p.Value, fact).Count >= Few))
            {
                AddTable(schema, Path.GetFileNameWithoutExtension(path), module, part.Value, fact);
            }

            return;
        }

        // Options of a tool and descriptions of data look alike; several of them with a number each are tables.
        var tables = objects.Where(p => ColumnsIn(module, p.Value, fact) is { Count: >= Few } columns && columns.Exists(c => c.Name == fact.Number)).ToList();
        if (tables.Count >= Few)
        {
            tables.ForEach(p => AddTable(schema, p.Name!, module, p.Value, fact));
        }
    }

    private static List<Operand> ColumnsIn(IrFunction module, int columns, ColumnObjectsModel fact) =>
        [.. module.List(module.Instructions[columns]).ToArray().Where(e => e.Name is { Length: > 0 } column && (char.IsLetter(column[0]) || column[0] == '_') && SaysType(module, e.Value, fact))];

    private static void AddTable(DatabaseSchema schema, string name, IrFunction module, int columns, ColumnObjectsModel fact)
    {
        var at = module.LocationOf(columns);
        var table = schema.Declare(schema.OfModel(name)?.Name ?? name, at);
        table.NoteOrigin(ColumnOrigin.Model, at);
        foreach (var entry in ColumnsIn(module, columns, fact))
        {
            DeclaredTables.AddEntry(schema, table, (entry.Name!, module, entry.Value));
        }
    }

    /// <summary>An object whose type is one that columns have.</summary>
    private static bool SaysType(IrFunction module, int value, ColumnObjectsModel fact)
    {
        if (module.Instructions[value] is not { Op: Opcode.Object } column)
        {
            return false;
        }

        foreach (var option in module.List(column))
        {
            if (option.Name == fact.Type && module.Instructions[option.Value] is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: { } type })
            {
                return fact.Types.Contains(type);
            }
        }

        return false;
    }
}
