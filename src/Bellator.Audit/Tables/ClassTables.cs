using System.Globalization;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Programs;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Reads tables from classes whose objects are rows: by their base class, by a mark, or by being listed as records.</summary>
public static class ClassTables
{
    public static void Add(DatabaseSchema schema, ProgramModel program, LibraryModels facts, IdentifierClassifier words)
    {
        var references = new List<Reference>();

        // A class that holds nothing, and that others are based on, only gives them what makes them tables.
        var bases = program.Classes.Select(program.BaseOf).OfType<IrClass>().Select(c => c.Primary).ToHashSet();
        foreach (var type in program.Classes.Where(c => ReferenceEquals(c.Primary, c) && c.Kind == ClassKind.Class && !(c.Fields.Count == 0 && bases.Contains(c))))
        {
            foreach (var fact in facts.For(Languages.Family(type.File.Source.Language)).Tables)
            {
                if (StandsForTable(type, fact, program))
                {
                    Read(schema, type, fact, program, facts, words, references);
                }
            }
        }

        // All tables are known now.
        foreach (var reference in references)
        {
            var parts = reference.Target.Split('.');
            var target = parts[^1];
            if (schema.OfModel(target) is { } known)
            {
                reference.Table.AddReference([reference.Column], known.Name);
            }
            else if (parts.Length == 2)
            {
                reference.Table.AddReference([reference.Column], schema.OfModel(parts[0])?.Name ?? parts[0], [target]);
            }
        }
    }

    private sealed record Reference(Table Table, string Column, string Target);

    /// <summary>The facts know the class for one whose objects are rows.</summary>
    public static bool StandsForTable(IrClass type, ProgramModel program, LibraryModels facts) => facts.For(Languages.Family(type.File.Source.Language)).Tables.Exists(f => StandsForTable(type, f, program));

    /// <summary>The table of the class: as it says itself, as one is named that there is, or by its own name.</summary>
    public static string TableOf(IrClass type, DatabaseSchema schema, LibraryModels facts) =>
        facts.For(Languages.Family(type.File.Source.Language)).Tables.Select(f => NameOf(type, f)).FirstOrDefault(n => n is not null) ?? schema.NameOf(type.ShortName) ?? schema.OfModel(type.ShortName)?.Name ?? type.ShortName;

    private static bool StandsForTable(IrClass type, TableClassModel fact, ProgramModel program) =>
        type.Annotations.Any(a => fact.Annotated.Contains(IrClass.ShortOf(a.Name)))
        || (fact.Base.Count > 0 && program.Kinds(type).Skip(1).Any(k => fact.Base.Contains(k) || fact.Base.Contains(IrClass.ShortOf(k))) && !IsAbstract(type))
        || (fact.ListedBy is { } list && program.Classes.Any(c => c.Fields.Any(f => f.Type is { Arguments: [var of] } declared && IrClass.ShortOf(declared.Name) == list && IrClass.ShortOf(of.Name) == type.ShortName)));

    private static bool IsAbstract(IrClass type) => type.Fields.Any(f => f.Name is "__abstract__" or "abstract_class");

    private static void Read(DatabaseSchema schema, IrClass type, TableClassModel fact, ProgramModel program, LibraryModels facts, IdentifierClassifier words, List<Reference> references)
    {
        var at = new Location(type.File.Index, type.Span.Start, type.Span.Start + 1);
        var table = schema.Declare(TableOf(type, schema, facts), at);
        table.NoteOrigin(ColumnOrigin.Class, at);

        // Fields of base classes in the program are columns as well.
        for (var part = type.Primary; part is not null; part = program.BaseOf(part)?.Primary)
        {
            foreach (var field in part.Fields.Where(f => !f.IsStatic || f.Value is not null || IsColumnType(f, fact)))
            {
                if (ColumnOf(field, part, fact, words) is { } column)
                {
                    table.Add(column);
                    if (CalledIn(field.Value) is not var (name, arguments))
                    {
                        continue;
                    }

                    var declared = fact.Columns.GetValueOrDefault(name);
                    if (IsTrue(arguments, "unique") || IsTrue(arguments, "primary_key"))
                    {
                        table.AddUnique([column.Name]);
                    }
                    else if (declared is not null && (declared.Indexed || declared.IndexOptions.Exists(o => IsTrue(arguments, o))))
                    {
                        table.AddIndex([column.Name]);
                    }

                    if (declared is not null && ClassKeys.TargetOf(arguments, declared, fact) is { } target)
                    {
                        references.Add(new Reference(table, column.Name, target == "self" ? type.ShortName : target));
                    }
                }
            }

            foreach (var (name, length) in part.Base is { } above && fact.Inherited.TryGetValue(IrClass.ShortOf(above), out var brought) ? brought : [])
            {
                table.Add(new Column(name, length is null ? "" : "varchar", length, true, null, at, ColumnOrigin.Class));
            }

            ClassKeys.Add(table, part, fact);
            ClassKeys.AddFields(table, part, fact, (column, target) => references.Add(new Reference(table, column, target)));
        }
    }

    /// <summary>A field of a class, or with a dot one of a class in it.</summary>
    internal static Field? FieldOf(IrClass type, string name) =>
        name.Split('.') is [var outer, var inner] ? (type.Fields.FirstOrDefault(f => f.Name == outer)?.Value as ClassExpression)?.Declaration.Fields.FirstOrDefault(f => f.Name == inner)
        : type.Fields.FirstOrDefault(f => f.Name == name);

    private static string? NameOf(IrClass type, TableClassModel fact)
    {
        foreach (var field in fact.NameFields)
        {
            if (FieldOf(type, field)?.Value is Literal { Kind: LiteralKind.Text } said)
            {
                return said.Text;
            }

            var mark = type.Annotations.FirstOrDefault(a => IrClass.ShortOf(a.Name) == field);
            if (mark?.Arguments.FirstOrDefault(a => a.Name is null or "name" or "Name")?.Value is Literal { Kind: LiteralKind.Text } given)
            {
                return given.Text.Trim('`', '"', '[', ']');
            }
        }

        return null;
    }

    private static Column? ColumnOf(Field field, IrClass type, TableClassModel fact, IdentifierClassifier words)
    {
        var at = new Location(type.File.Index, field.Span.Start, field.Span.End);
        if (CalledIn(field.Value) is var (name, arguments) && fact.Columns.TryGetValue(name, out var declared))
        {
            var called = declared.Type.Length > 0 ? null : arguments.Select(a => CalledIn(a.Value)).FirstOrDefault(c => c is not null);
            var length = LengthIn(arguments, declared.Length) ?? (called is var (_, inner) ? Number(inner.FirstOrDefault()?.Value) ?? LengthIn(inner, declared.Length) : null) ?? declared.Default;
            var kind = declared.Type.Length > 0 ? declared.Type
                : called is var (typeName, _) ? typeName.ToLowerInvariant()
                : arguments.Select(a => (a.Value as Name)?.Text ?? (a.Value as Member)?.MemberName).OfType<string>().FirstOrDefault()?.ToLowerInvariant() ?? field.Type?.Name.ToLowerInvariant() ?? "";
            return new Column(field.Name + declared.Suffix, kind, length, !IsTrue(arguments, "null") && !IsTrue(arguments, "nullable"), null, at, ColumnOrigin.Class);
        }

        if (field is { Value: null, Type.Arguments: [var of, ..] } && IsColumnType(field, fact))
        {
            return new Column(field.Name, of.Name.ToLowerInvariant(), null, false, null, at, ColumnOrigin.Class);
        }

        if (fact.AllFields && field.Type is { } plain && !field.IsStatic && !field.Annotations.Any(a => fact.Not.Contains(IrClass.ShortOf(a.Name)))
            && (words.IsScalarType(plain.Name) || IrClass.ShortOf(plain.Name.TrimEnd('?')) is "string" or "String"))
        {
            var length = field.Annotations.Where(a => IrClass.ShortOf(a.Name) is "MaxLength" or "StringLength").Select(a => Number(a.Arguments.FirstOrDefault()?.Value)).FirstOrDefault();
            return new Column(field.Name, plain.Name.TrimEnd('?').ToLowerInvariant() is "string" ? "text" : plain.Name.TrimEnd('?').ToLowerInvariant(), length, !plain.Name.EndsWith('?'), null, at, ColumnOrigin.Class);
        }

        return null;
    }

    private static bool IsColumnType(Field field, TableClassModel fact) => field.Type is { } type && fact.ColumnTypes.Contains(IrClass.ShortOf(type.Name));

    private static bool IsTrue(IReadOnlyList<Argument> arguments, string name) => arguments.Any(a => a.Name == name && a.Value is Literal { Text: "true" or "True" });

    internal static (string Name, IReadOnlyList<Argument> Arguments)? CalledIn(Expression? value) => value switch
    {
        Call { Callee: Name name } call => (IrClass.ShortOf(name.Text), call.Arguments),
        Call { Callee: Member member } call => (member.MemberName, call.Arguments),
        NewExpression { Type: Name name } made => (IrClass.ShortOf(name.Text), made.Arguments),
        _ => default((string, IReadOnlyList<Argument>)?),
    };

    private static int? LengthIn(IReadOnlyList<Argument> arguments, string name) => name.Length == 0 ? null : Number(arguments.FirstOrDefault(a => a.Name == name)?.Value);

    private static int? Number(Expression? value) =>
        value is Literal { Kind: LiteralKind.Number } literal && int.TryParse(literal.Text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
}
