using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;

namespace Bellator.Analysis.Interpreter;

/// <summary>Notes which records are fetched with all their columns, and which related ones come along.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The records that are fetched with all their columns: those asked for, and those that come along.</summary>
    private AbstractValue WithWhole(AccessModel access, CallSite site, string records, AbstractValue result)
    {
        result = IsWhole(access, site) ? WithRecords(result, WholeMark + records) : result;
        foreach (var relation in access.Loads.Select(site.Option).OfType<AbstractValue>().SelectMany(Loaded))
        {
            result = WithRecords(result, WholeMark + records + RelationMark + relation);
        }

        return result;
    }

    /// <summary>The result with the relations whose records come along.</summary>
    private AbstractValue WithLoaded(LoadsModel loads, CallSite site, AbstractValue result)
    {
        if (!_facts.AnswersRecords || site.Has(loads.Projection) || (RecordsName(site.Receiver) ?? RecordsName(result)) is not { } records)
        {
            return result;
        }

        var named = site.Arguments.Skip(loads.At).SelectMany(a => a.Targets.OfType<IrFunction>().Any() ? a.Targets.OfType<IrFunction>().SelectMany(FieldNames.ReadIn).Take(1) : Loaded(a));
        foreach (var relation in named)
        {
            result = WithRecords(result, WholeMark + records + RelationMark + relation);
        }

        return result;
    }

    /// <summary>Stands between the record and the relation in the type of what came along.</summary>
    internal const char RelationMark = '.';

    /// <summary>The relations that an option names whole: a name, a list, an object with a relation for each key. Where columns of it are chosen it is none.</summary>
    private IEnumerable<string> Loaded(AbstractValue named)
    {
        if (named.Constant is { Length: > 0 } name)
        {
            return name.Contains(':', StringComparison.Ordinal) ? [] : name.Split([' ', ',', '.'], StringSplitOptions.RemoveEmptyEntries).Take(1);
        }

        if (RecordsName(named) is { } model)
        {
            return [model];
        }

        if (named.Field("path") is { Constant: not null } only)
        {
            return named.Field("select") is null ? Loaded(only) : [];
        }

        return (named.Fields ?? []).SelectMany(f => f.Value switch
        {
            { Constant: "false" or "null" } => [],
            { Constant: "true" } => [f.Key],
            { Constant: not null } => Loaded(f.Value),
            var given when RecordsName(given) is { } listed => [listed],
            var given when given.Field("model") is { } associated && given.Field("attributes") is null => Loaded(associated),
            var given when given.Field("path") is { } path && given.Field("select") is null => Loaded(path),
            { Fields: { } inner } when f.Key is not ([] or [>= '0' and <= '9', ..]) && !inner.ContainsKey("select") && !inner.ContainsKey("attributes") && !inner.ContainsKey("omit") => [f.Key],
            _ => (IEnumerable<string>)[],
        });
    }
}
