using System.Globalization;
using Bellator.Core.Facts;
using Bellator.Core.Syntax;

namespace Bellator.Core.Flow;

/// <summary>Notes which columns and keys calls declare of tables, and which columns of fetched records are changed.</summary>
internal sealed partial class FunctionFlow
{
    /// <summary>By the table, the fields of its fetched records that were set in this pass.</summary>
    private readonly Dictionary<string, Dictionary<string, Value>> _changed = new(StringComparer.Ordinal);

    private void NoteChange(Value record, string field, Value value)
    {
        foreach (var type in record.Types)
        {
            if (type[0] == WholeMark)
            {
                (_changed.TryGetValue(type[1..], out var fields) ? fields : _changed[type[1..]] = new(StringComparer.Ordinal))[field] = value;
            }
        }
    }

    /// <summary>All that was changed is written.</summary>
    private void RaiseTracked(CallFact fact, CallSite site)
    {
        foreach (var (table, fields) in _changed)
        {
            Raise(EventKind.Access, fact, site.Index, false, ("model", Value.OfType(RecordsMark + table)), ("fields", new Value { Fields = Value.Bounded(new(fields)) }));
        }
    }

    private void RaiseColumn(CallFact fact, ColumnTypeFact column, string table, CallSite site)
    {
        // A call that is told the type means what the call named for that type does.
        var said = column.TypeAt is { } kind ? site.Argument(kind).Constant?.TrimStart(':') : null;
        var meant = said is null ? null : _facts.Method(DeclaredTable, said)?.Column;
        var type = meant?.Type ?? said;
        var length = column.Length.Length == 0 ? null
            : int.TryParse(column.Length, NumberStyles.None, CultureInfo.InvariantCulture, out var at) ? site.Argument(at) : site.Option(column.Length);
        foreach (var given in column.Name is { } position ? site.Arguments.Where((a, i) => i == position && a.Constant is not null && !(i < site.Names.Count && site.Names[i] is not null)) : [])
        {
            Raise(EventKind.Columns, fact, site, false, ("name", Value.OfConstant(LiteralKind.Text, table)), ("column", given), ("length", length ?? Constant(meant?.Default?.ToString(CultureInfo.InvariantCulture))),
                ("null", site.Option("null") ?? Value.Unknown), ("type", Constant(type)), ("index", column.IndexOptions.Select(site.Option).FirstOrDefault(o => o is not null) ?? Value.Unknown),
                ("refers", site.Option(column.RefersOption ?? "") ?? Value.Unknown));
        }
    }

    private void RaiseChange(CallFact fact, ChangeFact change, CallSite site)
    {
        if ((change.Table is { } at ? site.Argument(at).Constant?.TrimStart(':') : RecordsName(site.Receiver)) is not { } table)
        {
            return;
        }

        var to = change.To is { } renamed ? site.Argument(renamed) : Value.Unknown;
        if (change.To is not null && to.Constant is null)
        {
            return;
        }

        IEnumerable<Value> columns = change.Columns is not { } first ? [Value.Unknown]
            : change.AndMore ? site.Arguments.Skip(first) : site.Argument(first) is { Constant: null } list ? list.Parts : [site.Argument(first)];
        foreach (var column in columns.Where(c => change.Columns is null || c.Constant is not null))
        {
            Raise(EventKind.Columns, fact, site, false, ("name", Value.OfConstant(LiteralKind.Text, table)), ("changed", column), ("to", to));
        }
    }

    private static Value Constant(string? text) => text is null ? Value.Unknown : Value.OfConstant(LiteralKind.Text, text);

    private void RaiseKey(CallFact fact, KeyFact key, CallSite site, CallSite named)
    {
        var table = key.Table is { } at ? site.Argument(at).Constant?.TrimStart(':') : RecordsName(site.Receiver);
        if (table is null)
        {
            return;
        }

        var columns = named.Option(key.ColumnOption ?? "") ?? (key.Columns is { } given ? site.Argument(given) : site.Receiver.Label is { } label ? Value.OfConstant(LiteralKind.Text, label) : Value.Unknown);
        Raise(EventKind.Columns, fact, site, false, ("name", Value.OfConstant(LiteralKind.Text, table)), ("keys", columns),
            ("unique", named.Option(key.UniqueOption ?? "") ?? Value.Unknown), ("target", key.Target is { } other ? site.Argument(other) : Value.Unknown));
    }
}
