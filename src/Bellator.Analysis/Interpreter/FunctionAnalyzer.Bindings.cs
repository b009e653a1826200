using System.Globalization;
using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;

namespace Bellator.Analysis.Interpreter;

/// <summary>
/// Values that are bound to a statement one by one, before it is run: <c>bindValue(':id', $id)</c>, <c>cmd.Parameters.AddWithValue("id", id)</c>,
/// also in a loop over names and values, or over parameters, that came from elsewhere.
/// </summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The text of a statement keeps what is bound to it in parts of its own, whose names begin like this.</summary>
    private const string Bound = " ";

    /// <summary>What is known to be bound to a statement so far.</summary>
    private static AbstractValue BoundTo(AbstractValue statement)
    {
        if (statement.Payload is not { Fields: { } kept })
        {
            return AbstractValue.Unknown;
        }

        var whole = kept.GetValueOrDefault(Bound);
        var fields = new Dictionary<string, AbstractValue>(whole?.Fields ?? [], StringComparer.Ordinal);
        foreach (var (name, value) in kept.Where(k => k.Key.Length > Bound.Length && k.Key.StartsWith(Bound, StringComparison.Ordinal)))
        {
            fields[name[Bound.Length..]] = value;
        }

        return new AbstractValue { Fields = fields, Taints = whole?.Taints ?? [], Types = whole?.Types ?? [] };
    }

    private void RaiseBinding(CallModel fact, BindModel bind, CallSite site, bool guessed)
    {
        var isMethod = _function.Instructions[site.Index].Op == Opcode.CallMethod;
        var statement = isMethod ? site.Receiver : site.Argument(0);
        var pairs = bind.From is { } first ? SpreadAt(site, first) : GivenPairs(bind, site);
        var isWhole = pairs is not null;
        var values = pairs ?? (bind.From is { } from ? ListFrom(site, from) : OneBound(bind, site, statement));
        Raise(EventKind.Run, fact, site, guessed, ("text", statement.Payload ?? AbstractValue.Unknown), ("values", values));
        if (statement.Payload is not { } text || ReferenceEquals(values, AbstractValue.Unknown))
        {
            return;
        }

        var kept = new Dictionary<string, AbstractValue>(text.Fields ?? [], StringComparer.Ordinal);
        if (isWhole)
        {
            kept[Bound] = AbstractValue.Join(kept.GetValueOrDefault(Bound), values);
        }

        foreach (var (name, value) in isWhole ? [] : values.Fields ?? [])
        {
            kept[Bound + name] = value;
        }

        var updated = statement.With(carried: text.With(fields: AbstractValue.Bounded(kept)));
        var operand = isMethod ? _function.Instructions[site.Index].A : site.Operand(0);
        if (operand >= 0 && _values[operand] is not null && statement.Types.Count > 0)
        {
            _state = _state.WithObject(ObjectOf(operand), updated);
        }
    }

    /// <summary>All pairs of a loop, or of a list that is handed over whole; null where one value is bound.</summary>
    private AbstractValue? GivenPairs(BindModel bind, CallSite site)
    {
        if (bind.All is { } all && site.Has(all))
        {
            return site.Argument(all);
        }

        var value = site.Operand(bind.Value ?? 1);
        if (IterationOf(value >= 0 ? value : site.Operand(0)) is not (>= 0 and var container))
        {
            return null;
        }

        // The names come from the same list, or are counted; one that stands in the code is the name of this value alone.
        var named = IterationOf(site.Operand(bind.Name ?? 0));
        return value < 0 || named == container || (named < 0 && site.Argument(bind.Name ?? 0).Constant is null) ? Get(container) : null;
    }

    /// <summary>The list that is spread over the arguments from there on: its own order is the one of the values. Null where none is.</summary>
    private AbstractValue? SpreadAt(CallSite site, int position)
    {
        var given = _function.List(_function.Instructions[site.Index]);
        return position < given.Length && given[position].Spread ? Get(given[position].Value) : null;
    }

    /// <summary>What a value is an element, a key, or a part of an element of, where a loop goes over it; -1 for anything else.</summary>
    private int IterationOf(int at) => at < 0 ? -1 : _function.Instructions[at] switch
    {
        { Op: Opcode.Element or Opcode.ElementKey, A: var container } => container,
        { Op: Opcode.GetField or Opcode.GetItem or Opcode.Cast, A: >= 0 and var whole } => IterationOf(whole),
        _ => -1,
    };

    /// <summary>One value, by its name or its place; an object that has both counts as well.</summary>
    private static AbstractValue OneBound(BindModel bind, CallSite site, AbstractValue statement)
    {
        if (!site.Has(bind.Value ?? 1))
        {
            // Its name, if it has one, stands in it.
            var next = (BoundTo(statement).Fields?.Keys.Count(k => char.IsAsciiDigit(k[0])) ?? 0).ToString(CultureInfo.InvariantCulture);
            return site.Argument(0) is { Fields.Count: > 0 } one ? new AbstractValue { Fields = new Dictionary<string, AbstractValue> { [next] = one } } : AbstractValue.Unknown;
        }

        // PDO counts positions from 1; lists count from 0.
        var name = site.Argument(bind.Name ?? 0);
        var key = name.Constant is { } text && int.TryParse(text, out var position) ? (position - 1).ToString(CultureInfo.InvariantCulture) : name.Constant;
        return key is null ? AbstractValue.Unknown : new AbstractValue { Fields = new Dictionary<string, AbstractValue> { [key] = site.Argument(bind.Value ?? 1) } };
    }
}
