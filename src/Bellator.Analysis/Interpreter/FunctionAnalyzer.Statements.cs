using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Rows remember the statement that they came by: it says which columns they have.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>What a statement gives, or what is fetched from that.</summary>
    private AbstractValue WithStatement(CallModel fact, CallSite site, AbstractValue result)
    {
        if (fact.Query is { Prepare: false } run && (site.Receiver.Types.Count > 0 || result.Types.Count > 0) && !result.Types.Any(IsFetched) && QueryText(run, site) is var given && (given.Payload ?? given) is var ran && IsSelect(ran))
        {
            // A cursor gives the rows of what it ran last.
            if (site.Receiver.Types.Count > 0)
            {
                UpdateReceiver(site, site.Receiver.With(carried: ran));
            }

            return result.Types.Count == 0 ? result : result.With(carried: ran);
        }

        if (fact.HasConditions || fact.StoresArgument is not null || fact.Access is not null || !result.Types.Any(IsFetched))
        {
            return result;
        }

        var statement = fact.Query is { Prepare: false } query && QueryText(query, site) is var text ? text.Payload ?? text : CarriedBy(site.Receiver) ?? (site.Has(0) ? CarriedBy(site.Argument(0)) : null);
        return statement is null || !IsSelect(statement) ? result : result.With(carried: statement);
    }

    /// <summary>
    /// A call of something unknown that is given a whole statement runs it, whatever it is called, and answers with the rows: handles come by
    /// injection, from containers and from wrappers of the application's own.
    /// </summary>
    private AbstractValue? RunsStatement(CallSite site, string name)
    {
        for (var i = 0; i < Math.Min(site.Arguments.Count, 3); i++)
        {
            if (AbstractValue.IsTextual(site.Arguments[i]) && StatementText.Reads(site.Arguments[i]) && !_program.Vocabulary.OnlyNotes(name))
            {
                // What is bound follows as a list or object, or one by one.
                var values = i + 1 < site.Arguments.Count && site.Arguments[i + 1] is { Fields: not null } bound ? bound : ListFrom(site, i + 1);
                return RunUnknown(site, site.Arguments[i], values);
            }
        }

        return null;
    }

    /// <summary>A tag around a whole statement binds the values that stand in it: that is what such tags are for.</summary>
    private AbstractValue RunsTagged(CallSite site)
    {
        var statement = AbstractValue.OfConstant(LiteralKind.Text, string.Join(" ? ", site.Argument(0).Parts.Select(p => p.Constant)));
        return StatementText.Reads(statement) ? RunUnknown(site, statement, ListFrom(site, 1)) : AbstractValue.Unknown;
    }

    /// <summary>The call with what stands in the holes of its first argument as values that are bound, for calls that take an interpolated text apart.</summary>
    private CallSite WithBoundHoles(CallSite site)
    {
        if (site.Operand(0) is not (>= 0 and var operand) || _function.Instructions[operand] is not { Op: Opcode.Concat } text)
        {
            return site;
        }

        var written = new System.Text.StringBuilder();
        var (values, operands) = (new List<AbstractValue>(), new List<int>());
        foreach (var part in _function.List(text))
        {
            if (_function.Instructions[part.Value].Op == Opcode.Constant)
            {
                written.Append(Get(part.Value).Constant);
            }
            else
            {
                written.Append('?');
                values.Add(Get(part.Value));
                operands.Add(part.Value);
            }
        }

        return site with { Arguments = [AbstractValue.OfConstant(LiteralKind.Text, written.ToString()), .. values], Operands = [-1, .. operands] };
    }

    private static readonly CallModel UnknownQuery = new() { Query = new QueryModel() };

    private AbstractValue RunUnknown(CallSite site, AbstractValue statement, AbstractValue values)
    {
        Raise(EventKind.Query, UnknownQuery, site, false, ("text", statement), ("values", values));
        var rows = IsSelect(statement) ? new AbstractValue { Types = ["rows", "row"], Payload = statement } : AbstractValue.Unknown;
        return ChosenBySubject(UnknownQuery, site, rows, values);
    }

    /// <summary>What is taken out of a record is not in it any more.</summary>
    private void WithoutFields(CallSite site, int from)
    {
        var without = site.Receiver;
        foreach (var name in site.Arguments.Skip(from).SelectMany(a => a.Constant is { } only ? [only] : a.Parts.Select(p => p.Constant).OfType<string>()))
        {
            without = WithPart(without, name.TrimStart(':'), AbstractValue.OfConstant(LiteralKind.Null, "null"));
        }

        if (IsOfRecords(site.Receiver))
        {
            UpdateReceiver(site, without);
        }
    }

    private static AbstractValue WithStatementOf(AbstractValue source, AbstractValue part) =>
        part.Types.Any(IsFetched) && CarriedBy(source) is { } statement ? part.With(carried: statement) : part;

    /// <summary>The type of a text that an object was written out to; the object is its payload.</summary>
    internal const string Serialized = "serialized";

    private static AbstractValue AsSerialized(AbstractValue text, AbstractValue whole) =>
        text.With(types: text.Types.Contains(Serialized) ? null : [.. text.Types, Serialized], carried: whole);

    /// <summary>What leaves as text is the object that it was made of.</summary>
    private void NoteSerialized(int index, AbstractValue text)
    {
        if (text.Payload is { } whole && text.Types.Contains(Serialized))
        {
            Raise(EventKind.Sink, Answer, index, whole);
        }
    }

    private void Raise(EventKind kind, SinkModel sink, int index, AbstractValue value) => AddEvent(new AnalysisEvent
    {
        Kind = kind,
        Fact = null,
        Sink = sink,
        Function = _function,
        At = At(index),
        Roles = new Dictionary<string, AbstractValue>(StringComparer.Ordinal) { ["value"] = value },
    });

    private static AbstractValue? CarriedBy(AbstractValue value) => value.Payload is { } statement && IsSelect(statement) ? statement : null;

    /// <summary>The text begins like a statement that gives rows, or is still to come from the caller.</summary>
    private static bool IsSelect(AbstractValue text) =>
        text.WholeParameter is not null || (Beginning(text)?.TrimStart() is { } beginning && (StartsWith(beginning, "select") || StartsWith(beginning, "with ") || (text.Constant ?? "").Contains("returning", StringComparison.OrdinalIgnoreCase)));

    private static bool StartsWith(string text, string word) => text.StartsWith(word, StringComparison.OrdinalIgnoreCase);

    private static bool IsFetched(string type) => type is "row" or "rows" or "result";

    private static bool IsRowType(string type) => type[0] == WholeMark || IsFetched(type);

    private static bool IsOfRecords(AbstractValue value) => value.Types.Any(IsRowType);

    /// <summary>The statement that a call gives to a function which runs what it is given.</summary>
    private static AbstractValue? StatementGiven(AnalysisEvent open, AnalysisEvent here) =>
        open.Kind == EventKind.Query && open.Role("text").WholeParameter is not null && here.Role("text") is var text && IsSelect(text) ? text : null;

    /// <summary>
    /// What a function that runs the statement it is given answers with: rows, however it read them, unless it says or shows that it is
    /// something else. Whether one or many its name does not tell, so it is taken for both.
    /// </summary>
    private AbstractValue AsRows(IrFunction function, AbstractValue? statement, AbstractValue answer)
    {
        if (statement is null || answer.Payload is not null || answer.Constant is not null || answer.Text is not null || answer.Types.Any(t => t != "list")
            || answer.Targets.Count > 0 || answer.IsTainted || answer.Parts.Any(p => p.Types.Count > 0 || p.IsTainted || p.Payload is not null || p.Targets.Count > 0)
            || _program.Vocabulary.IsScalarType(function.ReturnType?.Name))
        {
            return answer;
        }

        return answer.With(types: [.. answer.Types, "rows", "row"], carried: statement);
    }
}
