using Bellator.Analysis.Domain;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>What stands beside a comparison with the person and lets through those who fail it: <c>if (owner &amp;&amp; owner !== me) refuse()</c>.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>Parts of one condition that are looked at.</summary>
    private const int MaxConditionParts = 6;

    /// <summary>The member that is compared, where without a value of its own nobody is refused.</summary>
    public const string UnlessNull = "unlessNull";

    /// <summary>What the request says, where with it nobody is refused.</summary>
    public const string UnlessAsked = "unlessAsked";

    private Dictionary<int, List<int>>? _conditionUses;

    /// <summary>The exceptions of a decision, as roles of its event.</summary>
    private IEnumerable<(string Role, AbstractValue Value)> ExceptionsOf(int decision, AbstractValue compared, int operand)
    {
        var comparedName = operand < 0 ? null : TestedMember(operand);
        // Whoever is not equal is refused where it is tested for that; whoever is, is let in.
        var refuses = _function.Instructions[decision] is { Op: Opcode.Binary, Text: "!=" or "!==" or "<>" or "not in" };
        var at = decision;
        while (UsesOf(at).FirstOrDefault(u => _function.Instructions[u] is { Op: Opcode.Unary, Text: "!" or "not" }, -1) is >= 0 and var negated)
        {
            (at, refuses) = (negated, !refuses);
        }

        foreach (var part in PartsBeside(at, refuses, 0).Concat(TestsBefore(at, refuses)).Take(MaxConditionParts))
        {
            var inner = Stripped(part);
            if (comparedName is not null && TestedMember(inner) == comparedName)
            {
                yield return (UnlessNull, Named(comparedName));
            }
            else if (IsAskedByRequest(inner, 0) && SentIn(inner, 0) is { } sent && !compared.Taints.Any(t => t.Origin.IsSameValue(sent.Origin)))
            {
                yield return (UnlessAsked, AbstractValue.OfTaints([sent]));
            }
        }
    }

    /// <summary>The other operands of the conditions that a value is an operand of, as far as these are of one kind.</summary>
    private IEnumerable<int> PartsBeside(int at, bool both, int depth)
    {
        foreach (var use in depth > 3 ? [] : UsesOf(at))
        {
            if (_function.Instructions[use].Op == Opcode.Phi && ShortCircuit(use) is { } pair && pair.Both == both)
            {
                foreach (var part in Leaves(pair.First == at ? pair.Second : pair.First, both, 0).Concat(PartsBeside(use, both, depth + 1)))
                {
                    yield return part;
                }
            }
        }
    }

    /// <summary>Tests before the one that a value decides which lead past it, to where those come who pass it.</summary>
    private IEnumerable<int> TestsBefore(int at, bool refuses)
    {
        var block = _function.Blocks[_function.BlockOf[at]];
        if (block.Condition != at || block.Successors is not [var whenTrue, var whenFalse] || whenTrue == whenFalse)
        {
            yield break;
        }

        var passed = refuses ? whenFalse : whenTrue;
        for (var tested = block; tested.Predecessors is [var before] && _function.Blocks[before] is { Condition: >= 0, Successors: [var one, var other] } earlier && (one == passed || other == passed); tested = earlier)
        {
            yield return earlier.Condition;
        }
    }

    private IEnumerable<int> Leaves(int at, bool both, int depth) =>
        depth < 3 && _function.Instructions[at].Op == Opcode.Phi && ShortCircuit(at) is { } pair ? pair.Both == both ? Leaves(pair.First, both, depth + 1).Concat(Leaves(pair.Second, both, depth + 1)) : [] : [at];

    private int Stripped(int at)
    {
        while (_function.Instructions[at] is { Op: Opcode.Unary or Opcode.Cast, A: >= 0 and var inner })
        {
            at = inner;
        }

        return at;
    }

    /// <summary>The name of the member that is tested for being there at all.</summary>
    private string? TestedMember(int at) => _function.Instructions[at] switch
    {
        { Op: Opcode.GetItem, B: >= 0 and var key } when Get(key) is { Constant: { Length: > 0 } named } => named,
        { Op: Opcode.GetField, Text: { } field } => field,
        { Op: Opcode.Binary, Text: "!=" or "!==" or "==" or "===" or "is not" or "is" } compared when Get(compared.B) is { ConstantKind: Bellator.Syntax.LiteralKind.Null, Constant: not null } => TestedMember(compared.A),
        { Op: Opcode.Call, C: 1 } call when CalledName(at) is "isset" => TestedMember(_function.Operands[call.B].Value),
        { Op: Opcode.CallMethod, C: 0, Text: "nil?" or "present?" or "blank?" } asked => TestedMember(asked.A),
        { Op: Opcode.CallMethod, C: 0, Text: { } member } when _rules.MembersAreCalls => member,
        _ => null,
    };

    private Taint? SentIn(int at, int depth)
    {
        var instruction = _function.Instructions[at];
        return Get(at).Taints.FirstOrDefault(t => t.IsSent) ?? (depth > 2 ? null : instruction.Op switch
        {
            Opcode.Binary => SentIn(instruction.A, depth + 1) ?? SentIn(instruction.B, depth + 1),
            Opcode.Unary or Opcode.Cast => SentIn(instruction.A, depth + 1),
            Opcode.Call => instruction.C > 0 ? SentIn(_function.List(instruction)[0].Value, depth + 1) : null,
            _ => null,
        });
    }

    /// <summary>Where values are negated or joined with others in a condition.</summary>
    private List<int> UsesOf(int at)
    {
        if (_conditionUses is null)
        {
            _conditionUses = [];
            for (var i = 0; i < _function.Instructions.Length; i++)
            {
                var instruction = _function.Instructions[i];
                if (instruction is { Op: Opcode.Unary, Text: "!" or "not" })
                {
                    Add(instruction.A, i);
                }
                else if (instruction.Op == Opcode.Phi)
                {
                    foreach (var operand in _function.List(instruction))
                    {
                        Add(operand.Value, i);
                    }
                }
            }
        }

        return _conditionUses.GetValueOrDefault(at) ?? [];

        void Add(int used, int by) => (_conditionUses.TryGetValue(used, out var list) ? list : _conditionUses[used] = []).Add(by);
    }
}
