using System.Globalization;
using Bellator.Core.Facts;
using Bellator.Core.Syntax;

namespace Bellator.Core.Flow;

/// <summary>Notes which columns and keys calls declare of tables.</summary>
internal sealed partial class FunctionFlow
{
    private void RaiseColumn(CallFact fact, ColumnTypeFact column, string table, CallSite site)
    {
        var length = column.Length.Length == 0 ? null
            : int.TryParse(column.Length, NumberStyles.None, CultureInfo.InvariantCulture, out var at) ? site.Argument(at) : site.Option(column.Length);
        foreach (var given in column.Name is { } position ? site.Arguments.Where((a, i) => i == position && a.Constant is not null && !(i < site.Names.Count && site.Names[i] is not null)) : [])
        {
            Raise(EventKind.Columns, fact, site, false, ("name", Value.OfConstant(LiteralKind.Text, table)), ("column", given), ("length", length ?? Value.Unknown),
                ("null", site.Option("null") ?? Value.Unknown), ("type", column.TypeAt is { } kind ? site.Argument(kind) : Value.Unknown), ("index", column.IndexOptions.Select(site.Option).FirstOrDefault(o => o is not null) ?? Value.Unknown),
                ("refers", site.Option(column.RefersOption ?? "") ?? Value.Unknown));
        }
    }

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
