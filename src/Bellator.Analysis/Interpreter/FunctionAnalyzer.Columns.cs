using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Notes which columns and keys calls declare of tables, and which columns of fetched records are changed.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>By the table, what is known of its fetched records of which fields were set in this pass, and these fields.</summary>
    private readonly Dictionary<string, (AbstractValue Record, Dictionary<string, AbstractValue> Fields)> _changed = new(StringComparer.Ordinal);

    private void NoteChange(AbstractValue record, string field, AbstractValue value)
    {
        foreach (var type in record.Types)
        {
            var table = type[0] == WholeMark || (type[0] == RecordsMark && record.Types.Contains("row")) ? type[1..]
                : type[0] == '#' && record.Taints.Any(t => t.IsParameter) && IsMapped(type) ? _program.Program.Classes[ClassNumber(type)].ShortName : null;
            if (table is not null)
            {
                var known = _changed.TryGetValue(table, out var before) ? before : (Record: AbstractValue.Unknown, Fields: new(StringComparer.Ordinal));
                known.Fields[field] = value;
                _changed[table] = (new AbstractValue { Types = [RecordsMark + table, "row"], Taints = AbstractValue.Union(known.Record.Taints, [.. record.Taints.Where(t => t.Selects || t.Origin.Kind == OriginKind.Subject)]) }, known.Fields);
            }
        }
    }

    /// <summary>Objects of the class are records, by what it is based on.</summary>
    private bool IsMapped(string type) =>
        _program.Program.OutsideBase(_program.Program.Classes[ClassNumber(type)].Primary) is { } outside && _facts.Field(OutsideName(type, outside), "query") is { Records: true };

    /// <summary>What was set on fetched records of the table before, where the object is one: saving it writes that.</summary>
    private AbstractValue ChangedOn(AbstractValue record)
    {
        var table = RecordsName(record) ?? (record.Types.FirstOrDefault(t => t[0] == '#') is { } type ? _program.Program.Classes[ClassNumber(type)].ShortName : null);
        return table is not null && _changed.TryGetValue(table, out var known) ? new AbstractValue { Fields = AbstractValue.Bounded(new(known.Fields)) } : AbstractValue.Unknown;
    }

    /// <summary>All that was changed is written.</summary>
    private void RaiseTracked(CallModel fact, CallSite site)
    {
        foreach (var (record, fields) in _changed.Values)
        {
            Raise(EventKind.Access, fact, site.Index, false, ("model", record), ("fields", new AbstractValue { Fields = AbstractValue.Bounded(new(fields)) }));
        }
    }

    private void RaiseColumn(CallModel fact, ColumnTypeModel column, string table, CallSite site)
    {
        // A call that is told the type means what the call named for that type does.
        var said = column.TypeAt is { } kind ? site.Argument(kind).Constant?.TrimStart(':') : null;
        var meant = said is null ? null : _facts.Method(DeclaredTable, said)?.Column;
        var type = meant?.Type ?? said;
        var length = column.Length.Length == 0 ? null
            : int.TryParse(column.Length, NumberStyles.None, CultureInfo.InvariantCulture, out var at) ? site.Argument(at) : site.Option(column.Length);
        foreach (var given in column.Name is { } position ? site.Arguments.Where((a, i) => i == position && a.Constant is not null && !(i < site.Names.Count && site.Names[i] is not null)) : [])
        {
            Raise(EventKind.Columns, fact, site, false, ("name", AbstractValue.OfConstant(LiteralKind.Text, table)), ("column", given), ("length", length ?? Constant(meant?.Default?.ToString(CultureInfo.InvariantCulture))),
                ("null", site.Option("null") ?? AbstractValue.Unknown), ("type", Constant(type)), ("index", column.IndexOptions.Select(site.Option).FirstOrDefault(o => o is not null) ?? AbstractValue.Unknown),
                ("refers", site.Option(column.RefersOption ?? "") ?? AbstractValue.Unknown));
        }
    }

    private void RaiseChange(CallModel fact, ChangeModel change, CallSite site)
    {
        if ((change.Table is { } at ? site.Argument(at).Constant?.TrimStart(':') : RecordsName(site.Receiver)) is not { } table)
        {
            return;
        }

        var to = change.To is { } renamed ? site.Argument(renamed) : AbstractValue.Unknown;
        if (change.To is not null && to.Constant is null)
        {
            return;
        }

        IEnumerable<AbstractValue> columns = change.Columns is not { } first ? [AbstractValue.Unknown]
            : change.Variadic ? site.Arguments.Skip(first) : site.Argument(first) is { Constant: null } list ? list.Parts : [site.Argument(first)];
        foreach (var column in columns.Where(c => change.Columns is null || c.Constant is not null))
        {
            Raise(EventKind.Columns, fact, site, false, ("name", AbstractValue.OfConstant(LiteralKind.Text, table)), ("changed", column), ("to", to));
        }
    }

    private static AbstractValue Constant(string? text) => text is null ? AbstractValue.Unknown : AbstractValue.OfConstant(LiteralKind.Text, text);

    private void RaiseKey(CallModel fact, KeyModel key, CallSite site, CallSite named)
    {
        var table = key.Table is { } at ? site.Argument(at).Constant?.TrimStart(':') : RecordsName(site.Receiver);
        if (table is null)
        {
            return;
        }

        var columns = named.Option(key.ColumnOption ?? "") ?? (key.Columns is { } given ? site.Argument(given) : site.Receiver.Name is { } label ? AbstractValue.OfConstant(LiteralKind.Text, label) : AbstractValue.Unknown);
        Raise(EventKind.Columns, fact, site, false, ("name", AbstractValue.OfConstant(LiteralKind.Text, table)), ("keys", columns),
            ("unique", named.Option(key.UniqueOption ?? "") ?? AbstractValue.Unknown), ("target", key.Target is { } other ? site.Argument(other) : AbstractValue.Unknown));
    }
}
