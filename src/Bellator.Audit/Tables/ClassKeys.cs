using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;
using Bellator.Text;

namespace Bellator.Audit.Tables;

/// <summary>Reads which columns a class lists as unique, as indexed, or as referring to another table.</summary>
internal static class ClassKeys
{
    private const int MaxDepth = 4;

    /// <summary>Keys that the class lists for itself: in a member, or by a mark.</summary>
    public static void Add(Table table, IrClass type, TableClassModel fact)
    {
        foreach (var name in fact.Keys)
        {
            if (ClassTables.FieldOf(type, name)?.Value is { } listed)
            {
                AddListed(table, listed, fact, SaysUnique(name), 0);
            }

            foreach (var mark in type.Annotations.Where(a => IrClass.ShortOf(a.Name) == name))
            {
                AddKey(table, mark.Arguments, fact, SaysUnique(name));
            }
        }
    }

    /// <summary>Marks on fields that make keys of them, and fields that hold an object of another table.</summary>
    public static void AddFields(Table table, IrClass type, TableClassModel fact, Action<string, string> refers)
    {
        foreach (var field in type.Fields)
        {
            foreach (var mark in field.Annotations.Where(a => fact.Keys.Contains(IrClass.ShortOf(a.Name))))
            {
                AddColumns(table, [field.Name], SaysUnique(mark.Name) || IsUnique(mark.Arguments, fact));
            }

            if (fact.ReferenceSuffix is not { } suffix)
            {
                continue;
            }

            var relation = field.Annotations.FirstOrDefault(a => fact.RefersBy.Contains(IrClass.ShortOf(a.Name)));
            var own = field.Name + suffix;
            if (relation is not null && table.Find(own) is null && table.Find(field.Name) is null && !relation.Arguments.Any(a => a.Name is { } name && fact.ReferredBy.Contains(name)))
            {
                var join = field.Annotations.SelectMany(a => a.Arguments).ToList();
                own = join.Find(a => a.Name == fact.JoinName) is { Value: Literal { Kind: LiteralKind.Text } named } ? named.Text : own;
                table.Add(new Column(own, "", null, join.Exists(a => a is { Name: "nullable", Value: Literal { Text: "false" } }), null, new Location(type.File.Index, field.Span.Start, field.Span.End), ColumnOrigin.Class));
            }

            if (relation is not null || (fact.RefersBy.Count == 0 && table.Find(own) is not null))
            {
                var target = relation?.Arguments.Select(a => a.Name is null || fact.TargetOptions.Contains(a.Name) ? NameIn(a.Value) : null).FirstOrDefault(n => n is not null) ?? field.Type?.Name.TrimStart('?').TrimEnd('?');
                if (target is not null)
                {
                    refers(own, IrClass.ShortOf(target));
                }
            }
        }
    }

    /// <summary>The table, or table and column, that a field's declaration says it refers to; null if it does not.</summary>
    public static string? TargetOf(IReadOnlyList<Argument> arguments, ColumnTypeModel column, TableClassModel fact) =>
        column.Refers ? NameIn(arguments.FirstOrDefault(a => a.Name is null || fact.TargetOptions.Contains(a.Name))?.Value)
        : arguments.Select(a => ClassTables.CalledIn(a.Value)).Where(c => c is not null && fact.RefersBy.Contains(c.Value.Name)).Select(c => NameIn(c!.Value.Arguments.FirstOrDefault()?.Value)).FirstOrDefault();

    private static bool SaysUnique(string name) => name.Contains("unique", StringComparison.OrdinalIgnoreCase);

    /// <summary>A list of calls that each make a key, a list of lists of columns, or one list of columns.</summary>
    private static void AddListed(Table table, Expression listed, TableClassModel fact, bool unique, int depth)
    {
        if (depth > MaxDepth)
        {
            return;
        }

        if (ClassTables.CalledIn(listed) is var (name, arguments))
        {
            if (name.Contains("Index", StringComparison.Ordinal) || SaysUnique(name))
            {
                AddKey(table, arguments, fact, unique || SaysUnique(name));
            }

            return;
        }

        var items = ItemsOf(listed);
        if (items.Count > 0 && items.All(i => NameIn(i) is not null))
        {
            AddColumns(table, [.. items.Select(i => NameIn(i)!)], unique);
            return;
        }

        foreach (var item in items)
        {
            AddListed(table, item, fact, unique, depth + 1);
        }
    }

    private static void AddKey(Table table, IReadOnlyList<Argument> arguments, TableClassModel fact, bool unique)
    {
        unique |= IsUnique(arguments, fact);
        var given = arguments.FirstOrDefault(a => a.Name is { } name && fact.KeyColumns.Contains(name))?.Value;
        var names = given is not null ? ItemsOf(given).Select(NameIn) : arguments.Where(a => a.Name is null).SelectMany(a => ItemsOf(a.Value) is { Count: > 0 } items ? items.Select(NameIn) : [NameIn(a.Value)]);

        // The key's own name stands among its columns in some libraries: only what is a column counts.
        AddColumns(table, [.. names.OfType<string>().Where(n => given is not null || table.Find(n) is not null)], unique);
    }

    private static bool IsUnique(IReadOnlyList<Argument> arguments, TableClassModel fact) =>
        arguments.Any(a => a.Name is { } name && fact.UniqueOptions.Contains(name) && a.Value is Literal { Text: "true" or "True" })
        || arguments.Select(a => a.Value).OfType<ObjectLiteral>().SelectMany(o => o.Entries).Any(e => e.Name is { } name && fact.UniqueOptions.Contains(name) && e.Value is Literal { Text: "true" });

    private static void AddColumns(Table table, IReadOnlyList<string> names, bool unique)
    {
        List<string> columns = [.. names.Select(n => n.TrimStart('-')).Select(n => table.Find(n)?.Name ?? table.Find(n + "_id")?.Name ?? n)];
        if (unique)
        {
            table.AddUnique(columns);
        }
        else
        {
            table.AddIndex(columns);
        }
    }

    private static IReadOnlyList<Expression> ItemsOf(Expression value) => value switch
    {
        ObjectLiteral list => [.. list.Entries.Where(e => e.Name is null && e.Key is null).Select(e => e.Value)],
        Sequence sequence => sequence.Items,
        PassThrough pass => ItemsOf(pass.Value),
        _ => [],
    };

    private static string? NameIn(Expression? value) => value switch
    {
        Literal { Kind: LiteralKind.Text } text => text.Text,
        Name name => name.Text,
        StaticMember { Target: Name type } => type.Text,
        Lambda { Function.Body.Statements: [Return { Value: { } made }] } => NameIn(made),
        Call { Callee: Name { Text: "nameof" }, Arguments: [var of] } => NameIn(of.Value),
        Member member => member.MemberName,
        PassThrough pass => NameIn(pass.Value),
        _ => null,
    };
}
