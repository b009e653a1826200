using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;
using Bellator.Analysis.Libraries;
using Bellator.Analysis.Queries;

namespace Bellator.Analysis.Interpreter;

/// <summary>What a function adds to the query that it is given: code that a mapper runs on every query of a class.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>
    /// The columns that the function puts conditions on, of the query that is its first parameter, or of the class in whose body it stands.
    /// Without columns where it only says in which order; null where it adds nothing, or is no code of this kind: such code is short.
    /// </summary>
    private AbstractValue? AddedConditions()
    {
        if (_function.Instructions.Length > MaxScopeLength || !MayBeScope())
        {
            return null;
        }

        Dictionary<string, AbstractValue>? columns = null;
        var addsOther = false;
        foreach (var i in _function.OutgoingCalls)
        {
            // The full name of a column is asked of the query too.
            if (!ScopeBodies.Adds(_function, i) || Get(i) is { Constant: not null } or { Text: not null })
            {
                continue;
            }

            var call = _function.Instructions[i];
            if (FactOn(call) is { Query: null, HasConditions: false } fact && fact.Access is null or { Where: null })
            {
                // Only in which order, or with what beside.
                addsOther = true;
                continue;
            }

            columns ??= new Dictionary<string, AbstractValue>(StringComparer.Ordinal);
            if (_function.List(call).ToArray().Any(o => o.Value >= 0 && Get(o.Value).Targets.OfType<IrFunction>().Any()))
            {
                // What a function within adds, over a relation or as an alternative, may hold the rows against the person.
                columns[UnknownCondition] = AbstractValue.Unknown;
            }
            else if (Get(i).Payload is { Fields: { } carried } payload && payload.Types.Contains(QueryConditions))
            {
                foreach (var (column, value) in carried)
                {
                    columns[column] = value;
                }
            }
            else
            {
                AddGivenColumns(call, columns);
            }
        }

        return columns is { Count: > 0 } ? new AbstractValue { Fields = AbstractValue.Bounded(columns), Types = [QueryConditions] } : addsOther ? AbstractValue.OfType(QueryConditions) : null;
    }

    private CallModel? FactOn(in Instruction call)
    {
        foreach (var type in Get(call.A).Types)
        {
            if (type[0] is not ('#' or RecordsMark) && _facts.Method(type, call.Text!) is { } fact)
            {
                return fact;
            }
        }

        return _facts.Method("*", call.Text!);
    }

    /// <summary>It has the name by which mappers run it, or is written in a file that gives such code to one.</summary>
    private bool MayBeScope() => _facts.ScopeMethods.Contains(_function.Name)
        || (_function.Name.Length == 0 && _facts.ScopeCalls.Count > 0 && _file.Functions.Exists(f => f.NamedCalls.Any(n => _facts.ScopeCalls.Contains(n.Name))));

    /// <summary>The columns of a condition by their names: <c>where(bureau: Current.bureau)</c>, <c>where(bureau_id: 3, gone: false)</c>.</summary>
    private void AddGivenColumns(in Instruction call, Dictionary<string, AbstractValue> columns)
    {
        foreach (var operand in _function.List(call).ToArray())
        {
            var given = OfState(operand.Value, Get(operand.Value));
            if (operand.Name is { Length: > 0 } named && char.IsLetter(named[0]))
            {
                columns[ColumnNamed(named)] = TestedValue(given);
            }
            else if (given.Fields is { Count: > 0 } several && several.Keys.All(k => k.Length > 0 && char.IsLetter(k[0])))
            {
                foreach (var (name, value) in several)
                {
                    columns[name] = TestedValue(OfState(MemberAt(operand.Value, name), value));
                }
            }
            else
            {
                columns[UnknownCondition] = AbstractValue.Unknown;
            }
        }
    }

    /// <summary>The value as one of the person's, where it is, or is a part of, what the program keeps for the time of the request: <c>Current.bureau.id</c>.</summary>
    private AbstractValue OfState(int at, AbstractValue value)
    {
        for (var depth = 0; depth < MaxStateParts && at >= 0 && _function.Instructions[at] is { Op: Opcode.GetField or Opcode.CallMethod, A: >= 0 and var of, Text: { } name } part; depth++)
        {
            if (Get(of).Targets.OfType<IrClass>().FirstOrDefault() is { } type && _program.Program.OutsideBase(type.Primary) is { } outside && _facts.RequestState.Contains(IrClass.ShortOf(outside)))
            {
                return value.With(types: [.. value.Types, StateMark + name], taints: AbstractValue.Union(value.Taints, [SubjectTaint(at, name)]));
            }

            at = part.Op == Opcode.GetField || part.C == 0 ? of : -1;
        }

        return value;
    }

    /// <summary>The value of a member where the object is written; -1 elsewhere.</summary>
    private int MemberAt(int at, string name)
    {
        if (at < 0 || _function.Instructions[at].Op != Opcode.Object)
        {
            return -1;
        }

        foreach (var member in _function.List(_function.Instructions[at]))
        {
            if (member.Name == name)
            {
                return member.Value;
            }
        }

        return -1;
    }

    /// <summary>Begins a type that names the part of the request's state that a value is, or is of.</summary>
    public const string StateMark = "current:";

    /// <summary>How many members deep what is kept for the time of the request is asked for its parts.</summary>
    private const int MaxStateParts = 4;

    /// <summary>Code that adds a condition is short; what is longer is other code.</summary>
    private const int MaxScopeLength = 120;
}
