using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Syntax;

namespace Bellator.Analysis.Interpreter;

/// <summary>Conditions that a mapper is given as expressions over its columns, and that a query carries until it is run.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>The type of what a query carries: its fields are columns, with what they are held against.</summary>
    private const string QueryConditions = "conditions";

    /// <summary>Under this name stands a condition that was not understood.</summary>
    private const string UnknownCondition = "unknown";

    /// <summary>A column that is held against something else than one value.</summary>
    private static readonly AbstractValue Tested = AbstractValue.OfConstant(LiteralKind.Text, "");

    /// <summary>What the query carries after the call.</summary>
    private AbstractValue WithConditions(CallSite site)
    {
        var columns = new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
        if (site.Receiver.Payload is { Fields: { } before } carried && carried.Types.Contains(QueryConditions))
        {
            foreach (var (column, value) in before)
            {
                columns[column] = value;
            }
        }

        var about = RecordsName(site.Receiver);
        for (var i = 0; i < site.Arguments.Count; i++)
        {
            if (i < site.Names.Count && site.Names[i] is { } named)
            {
                columns[named] = site.Arguments[i];
            }
            else if (!AddCondition(site.Operand(i), about, columns, 0))
            {
                columns[UnknownCondition] = AbstractValue.Unknown;
            }
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(columns), Types = [QueryConditions] };
    }

    /// <summary>The condition of a use of records, with what its query carries.</summary>
    private static AbstractValue OnConditions(AbstractValue where, AbstractValue records)
    {
        if (records.Payload is not { Fields: { Count: > 0 } carried } payload || !payload.Types.Contains(QueryConditions))
        {
            return where;
        }

        var columns = new Dictionary<string, AbstractValue>(carried, StringComparer.Ordinal);
        foreach (var (column, value) in where.Fields ?? [])
        {
            columns[column] = value;
        }

        return new AbstractValue { Fields = AbstractValue.Bounded(columns), Taints = where.Taints };
    }

    /// <summary>Adds the columns that an expression holds against something; false if it was not understood.</summary>
    private bool AddCondition(int at, string? about, Dictionary<string, AbstractValue> columns, int depth)
    {
        if (at < 0 || depth > AbstractValue.MaxDepth)
        {
            return false;
        }

        var instruction = _function.Instructions[at];
        switch (instruction.Op)
        {
            case Opcode.Binary when instruction.Text is "&" or "and":
                return AddCondition(instruction.A, about, columns, depth + 1) & AddCondition(instruction.B, about, columns, depth + 1);
            case Opcode.Binary when instruction.Text is "==" && (ColumnAt(instruction.A, about) ?? ColumnAt(instruction.B, about)) is { } column:
                columns[column] = Get(ColumnAt(instruction.A, about) is null ? instruction.A : instruction.B) is var value && value is { Constant: null, IsTainted: false, Fields: null } ? AbstractValue.Unknown : value;
                return true;
            case Opcode.Binary when instruction.Text is "!=" or "<" or ">" or "<=" or ">=" && (ColumnAt(instruction.A, about) ?? ColumnAt(instruction.B, about)) is { } column:
                columns[column] = Tested;
                return true;
            case Opcode.Unary when ColumnAt(instruction.A, about) is { } column:
                columns[column] = Tested;
                return true;
            case Opcode.CallMethod when ColumnAt(instruction.A, about) is { } column:
                columns[column] = instruction is { C: > 0, Text: { } method } && _program.Vocabulary.HoldsValue(method) ? Get(_function.Operands[instruction.B].Value) : Tested;
                return true;
            case Opcode.GetField when ColumnAt(at, about) is { } column:
                columns[column] = Tested;
                return true;
            default:
                return false;
        }
    }

    /// <summary>The column of the records in question that the expression is.</summary>
    private string? ColumnAt(int at, string? about) =>
        at >= 0 && _function.Instructions[at] is { Op: Opcode.GetField, Text: { } column, A: var of } && Get(of).Targets.OfType<IrClass>().FirstOrDefault() is { } type && (about is null || type.ShortName == about) ? column : null;
}
