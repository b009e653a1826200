using System.Globalization;
using Bellator.Analysis.Events;
using Bellator.Analysis.Interpreter;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;

namespace Bellator.Audit.Tables;

/// <summary>Reads tables that code declares by calls: models with an object of columns, and migrations column by column.</summary>
public static class DeclaredTables
{
    private const int MaxDepth = 2;

    public static void Add(DatabaseSchema schema, ProgramModel program, EventIndex happenings, IdentifierClassifier words)
    {
        // In the order in which the steps stand: later ones change what earlier ones have made.
        var all = happenings.Of(EventKind.Columns).OrderBy(h => h.At.File).ThenBy(h => h.At.Start).ToList();
        foreach (var happening in all)
        {
            if (happening.Role("name").Constant is not { } name)
            {
                continue;
            }

            if (IsUndoing(happening.Function, words))
            {
                continue;
            }

            if (happening.Fact?.Change is { } change)
            {
                Change(schema, name, happening, change);
                continue;
            }

            if (happening.Fact?.Key is { } key)
            {
                DeclaredKeys.Add(schema, schema.Declare(name, happening.At), happening, key);
                continue;
            }

            if (happening.Role("column").Constant is { } column)
            {
                AddColumn(schema, schema.Declare(name, happening.At), happening, column);
                continue;
            }

            // A schema that was made elsewhere is known by the place where it was made.
            var made = happening.Role("columns").Types.Where(t => t[0] == FunctionAnalyzer.OwnMark).ToList();
            var source = made.Count == 0 ? happening : all.Find(e => e.Role("self").Types.Any(made.Contains)) ?? happening;
            var entries = Entries(program, source).ToList();
            if (entries.Count > 0)
            {
                var table = schema.Declare(schema.OfModel(name)?.Name ?? name, happening.At);
                entries.ForEach(e => AddEntry(schema, table, e));
            }
        }
    }

    /// <summary>It stands in a function that takes the changes of another one back.</summary>
    private static bool IsUndoing(IrFunction function, IdentifierClassifier words)
    {
        for (var at = function; at is not null; at = at.Outer)
        {
            if (!at.IsTopLevel && words.Undoes(at.Name.Length > 0 ? at.Name : ExportedAs(at)))
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>The name under which a module gives the function to others; empty if it does not.</summary>
    private static string ExportedAs(IrFunction function)
    {
        var module = function.File.Functions[0];
        foreach (var instruction in module.Instructions)
        {
            if (instruction is { Op: Opcode.Export, A: >= 0 and var given, Text: { } name } && module.Instructions[given] is { Op: Opcode.Function, A: var index } && function.File.Functions[index] == function)
            {
                return name;
            }
        }

        return "";
    }

    private static void Change(DatabaseSchema schema, string table, AnalysisEvent happening, ChangeModel change)
    {
        var column = happening.Role("changed").Constant?.TrimStart(':');
        var to = happening.Role("to").Constant?.TrimStart(':');
        if (change.Columns is null)
        {
            schema.Change(table, to);
        }
        else if (column is not null)
        {
            schema.Find(table)?.Change(column, to, ColumnOrigin.Migration);
        }
    }

    /// <summary>Adds what statements in the code declare: those of migrations that are written in SQL.</summary>
    public static void AddStatements(DatabaseSchema schema, EventIndex happenings)
    {
        foreach (var happening in happenings.Of(EventKind.Query, EventKind.Run))
        {
            if (happening.Depth == 0 && happening.Role("text").Constant is { } text && IsDeclaration(text))
            {
                DdlReader.Read(schema, happening.Place, text);
            }
        }
    }

    private static bool IsDeclaration(string text) =>
        text.AsSpan().TrimStart() is var start && (start.StartsWith("CREATE ", StringComparison.OrdinalIgnoreCase) || start.StartsWith("ALTER ", StringComparison.OrdinalIgnoreCase));

    private static void AddColumn(DatabaseSchema schema, Table table, AnalysisEvent happening, string column)
    {
        var fact = happening.Fact!.Column!;
        var length = int.TryParse(happening.Role("length").Constant, NumberStyles.None, CultureInfo.InvariantCulture, out var said) ? said : fact.Default;
        table.Add(new Column(column + fact.Suffix, happening.Role("type").Constant ?? fact.Type, length, happening.Role("null").Constant is "false", null, happening.At, ColumnOrigin.Migration));
        DeclaredKeys.AddOptions(schema, table, happening, fact, column);
    }

    /// <summary>The entries of the object that stands at the place, from the code itself, however many there are.</summary>
    private static IEnumerable<(string Name, IrFunction Function, int Value)> Entries(ProgramModel program, AnalysisEvent happening)
    {
        var at = happening.Places.Count > 0 ? happening.Places[0] : happening.At;
        foreach (var function in program.Files[at.File].Functions)
        {
            // A function that makes the object.
            var isMaker = function.Span.Start == at.Start && function.Span.End == at.End;
            for (var i = 0; i < function.Instructions.Length; i++)
            {
                if (function.Instructions[i].Op == Opcode.Object && (isMaker || function.LocationOf(i) == at))
                {
                    foreach (var operand in function.List(function.Instructions[i]).ToArray())
                    {
                        if (operand.Name is { Length: > 0 } name && name[0] != '=')
                        {
                            yield return (name, function, operand.Value);
                        }
                    }

                    yield break;
                }
            }
        }
    }

    /// <summary>Adds the column that an entry of an object of columns declares.</summary>
    internal static void AddEntry(DatabaseSchema schema, Table table, (string Name, IrFunction Function, int Value) entry)
    {
        var type = "";
        int? length = null;
        var notNull = false;
        var unique = false;
        var indexed = false;
        var refers = "";
        Look(entry.Value, 0);
        var at = entry.Function.LocationOf(entry.Value);
        table.Add(new Column(entry.Name, type, length, notNull, null, at, ColumnOrigin.Model));
        if (unique)
        {
            table.AddUnique([entry.Name]);
        }
        else if (indexed)
        {
            table.AddIndex([entry.Name]);
        }

        if (refers.Length > 0)
        {
            // With the column after a dot, as some write it.
            var target = refers.Split('.')[0];
            table.AddReference([entry.Name], schema.OfModel(target)?.Name ?? target);
        }

        void Look(int value, int depth)
        {
            if (value < 0 || depth > MaxDepth * 3)
            {
                return;
            }

            var instruction = entry.Function.Instructions[value];
            switch (instruction.Op)
            {
                case Opcode.Global when type.Length == 0:
                    type = (instruction.Text ?? "").ToLowerInvariant();
                    break;
                case Opcode.GetField when type.Length == 0:
                    type = instruction.Text!.ToLowerInvariant();
                    break;
                case Opcode.Constant when depth == 0 || type.Length == 0 && instruction.A == (int)LiteralKind.Text:
                    type = (instruction.Text ?? "").ToLowerInvariant();
                    break;
                case Opcode.Call:
                    type = type.Length == 0 ? IrClass.ShortOf(entry.Function.Instructions[instruction.A].Text ?? "").ToLowerInvariant() : type;
                    LookIntoArguments(instruction, depth);
                    break;
                case Opcode.CallMethod when instruction.Text == "Column":
                    foreach (var part in entry.Function.List(instruction).ToArray())
                    {
                        LookAtPart(part, depth);
                    }

                    break;
                case Opcode.CallMethod:
                    unique |= instruction.Text is "unique" or "primaryKey";
                    notNull |= instruction.Text is "notNull" or "primaryKey";
                    if (type.Length == 0 && instruction.Text is not ("unique" or "notNull" or "primaryKey" or "default" or "references"))
                    {
                        type = instruction.Text!.ToLowerInvariant();
                        LookIntoArguments(instruction, depth);
                    }
                    else
                    {
                        Look(instruction.A, depth + 1);
                    }

                    break;
                case Opcode.Object:
                    foreach (var part in entry.Function.List(instruction).ToArray())
                    {
                        LookAtPart(part, depth);
                    }

                    break;
            }
        }

        void LookIntoArguments(Instruction call, int depth)
        {
            foreach (var argument in entry.Function.List(call).ToArray())
            {
                var given = entry.Function.Instructions[argument.Value];
                if (given.Op == Opcode.Constant && given.A == (int)LiteralKind.Number && int.TryParse(given.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var number))
                {
                    length ??= number;
                }
                else if (given.Op == Opcode.Object)
                {
                    Look(argument.Value, depth + 1);
                }
                else if (depth == 0 && call is { Op: Opcode.Call, C: 1 } && given is { Op: Opcode.Constant, A: (int)LiteralKind.Text, Text: [>= 'A' and <= 'Z', ..] model })
                {
                    // A helper of the program's own makes columns that refer to the model it is given.
                    refers = model;
                }
            }
        }

        void LookAtPart(Operand part, int depth)
        {
            var text = entry.Function.Instructions[part.Value] is { Op: Opcode.Constant } constant ? constant.Text : null;
            switch (part.Name)
            {
                case "type":
                    Look(part.Value, depth + 1);
                    break;
                case "length" or "maxlength" or "maxLength" or "limit" when int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number):
                    length = number;
                    break;
                case "unique":
                    unique |= text != "false";
                    break;
                case "index":
                    indexed |= text != "false";
                    break;
                case "ref" or "model" when text is { Length: > 0 }:
                    refers = text;
                    break;
                case "references" when text is { Length: > 0 }:
                    refers = text;
                    break;
                case "references" when depth <= MaxDepth:
                    Look(part.Value, depth + 1);
                    break;
                case "required":
                    notNull |= text == "true";
                    break;
                case "allowNull" or "nullable":
                    notNull |= text == "false";
                    break;
            }
        }
    }
}
