using Bellator.Analysis.Domain;
using Bellator.Analysis.Events;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>Where the client chooses whether a value is what it sends or what the program knows of the person: <c>the header, if there is one, else the session</c>.</summary>
internal sealed partial class FunctionAnalyzer
{
    /// <summary>
    /// Which of two written values it is, yes or no or the name of a role, was decided by the request: <c>isAdmin = body.admin === 'on'</c>. The
    /// request is no part of the value, but whoever sends it chooses.
    /// </summary>
    private AbstractValue WithChoice(AbstractValue joined, BasicBlock block, ReadOnlySpan<Operand> operands)
    {
        if (joined.IsTainted || operands.Length != 2 || block.Dominator < 0 || _function.Blocks[block.Dominator].Condition is not (>= 0 and var condition))
        {
            return joined;
        }

        var decides = false;
        foreach (ref readonly var way in operands)
        {
            if (_function.Instructions[way.Value] is not { Op: Opcode.Constant, Text: { } written })
            {
                return joined;
            }

            decides |= written.ToLowerInvariant() is "true" or "false" || _program.Vocabulary.TellsOfRole(written);
        }

        return decides && AskedOf(condition) is { } chooses ? joined.With(taints: [chooses with { Safe = OutputContext.All, Altered = true, Selects = true, Trace = Trace.Add(chooses.Trace, StepKind.Checked, At(condition), "decides which") }]) : joined;
    }

    /// <summary>What of the request a condition, or a side of a comparison, looks at.</summary>
    private Taint? AskedOf(int condition) => _function.Instructions[condition] switch
    {
        { Op: Opcode.Binary, A: var left, B: var right } => Get(left).Taints.Concat(Get(right).Taints).FirstOrDefault(t => t.IsSent),
        { Op: Opcode.Unary, A: var inner } => Get(inner).Taints.FirstOrDefault(t => t.IsSent),
        _ => Get(condition).Taints.FirstOrDefault(t => t.IsSent),
    };

    /// <summary>Leaves of a condition that are looked at before it counts as not understood.</summary>
    private const int MaxConditionLeaves = 30;

    /// <summary>Marks what of the request takes the person's place, if nothing but the request itself decides that it does: a test of the person’s role in between may allow it.</summary>
    private AbstractValue WithReplacedSubject(AbstractValue joined, BasicBlock block, ReadOnlySpan<Operand> operands)
    {
        if (block.Dominator < 0 || !StandsForSubject(joined) || !joined.Taints.Any(t => t.IsSent))
        {
            return joined;
        }

        for (var i = 0; i < operands.Length && i < block.Predecessors.Count; i++)
        {
            if (_values[operands[i].Value] is not { } sent || !sent.Taints.Any(t => t.IsSent) || StandsForSubject(sent))
            {
                continue;
            }

            // Between the place where the ways part and the request's own, only the request is asked; before that, no role.
            var parted = false;
            for (var at = block.Predecessors[i]; at >= 0; at = _function.Blocks[at].Dominator)
            {
                if (_function.Blocks[at].Condition is >= 0 and var condition && (parted ? AsksForRole(condition) : !IsAboutRequest(condition)))
                {
                    return joined;
                }

                parted |= at == block.Dominator;
            }

            return Replacing(joined);
        }

        return joined;
    }

    private bool AsksForRole(int condition) =>
        Leaves(condition).Any(i => (Get(i).Taints.Any(t => t.Origin is { Kind: OriginKind.Subject, Name: { } name } && _program.Vocabulary.TellsOfRole(name)))
            || (_function.Instructions[i].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic && CalledName(i) is var called && (_program.Vocabulary.TellsOfRole(called) || _program.Vocabulary.Authorizes(called))));

    /// <summary>The values that a condition is made of, itself first.</summary>
    private List<int> Leaves(int condition)
    {
        var found = new List<int> { condition };
        for (var i = 0; i < found.Count && found.Count < MaxConditionLeaves; i++)
        {
            found.AddRange(_function.InputsOf(found[i]).Where(v => !found.Contains(v)));
        }

        return found;
    }

    /// <summary>The value, of which what was sent replaces the person.</summary>
    private static AbstractValue Replacing(AbstractValue value) =>
        value.With(taints: [.. value.Taints.Select(t => t.IsSent && !t.ReplacesSubject ? t with { ReplacesSubject = true } : t)]);

    /// <summary>A part of the request that is looked up with the person for its default: <c>request.args.get('keeper', current_user.id)</c>.</summary>
    private static AbstractValue WithDefault(AbstractValue read, CallSite site, int? named)
    {
        for (var i = 0; i < site.Arguments.Count; i++)
        {
            if (i != named && StandsForSubject(site.Arguments[i]))
            {
                return Replacing(read.With(taints: AbstractValue.Union(read.Taints, [.. site.Arguments[i].Taints.Where(t => t.Origin.Kind == OriginKind.Subject)])));
            }
        }

        return read;
    }

    /// <summary>What a look-up found, or the argument that stands in for it.</summary>
    private static AbstractValue WithOtherwise(AbstractValue found, CallSite site, int? otherwise)
    {
        if (otherwise is not { } at || !site.Has(at))
        {
            return found;
        }

        var either = AbstractValue.Join(found, site.Argument(at));
        return StandsForSubject(site.Argument(at)) ? Replacing(either) : either;
    }

    /// <summary>Everything that the condition looks at came with the request or is constant: whether something is there, whether it is a number.</summary>
    private bool IsAboutRequest(int condition)
    {
        var leaves = Leaves(condition);
        return leaves.Count < MaxConditionLeaves && leaves.TrueForAll(IsOfRequest);
    }

    /// <summary>A part of the request, or what says nothing of anything else.</summary>
    private bool IsOfRequest(int at)
    {
        if (Get(at).Taints.Any(t => t.Origin.Kind is OriginKind.Subject or OriginKind.Stored))
        {
            return false;
        }

        var inputs = _function.InputsOf(at).ToList();
        return _function.Instructions[at].Op is Opcode.Call or Opcode.CallMethod or Opcode.CallStatic
            ? FieldAccess.DeepTaints(Get(at)).Any(t => t.IsSent) || inputs.Exists(i => Get(i).IsTainted)
            : inputs.Count > 0 || IsLiteralOrLibrary(at) || Get(at).Taints.Any(t => t.IsSent) || Get(at).Types.Count > 0;
    }

    private bool IsLiteralOrLibrary(int at) => _function.Instructions[at].Op is Opcode.Constant or Opcode.Undefined or Opcode.Class || Get(at) is { Library: not null } or { Constant: not null } || _function.Instructions[at] is { Op: Opcode.Global };

    /// <summary>Notes a role from a header or cookie that decides what happens. A role in a form is looked at to see whether it is a valid one.</summary>
    private void NoteClaimedRole(int index, AbstractValue left, AbstractValue right)
    {
        if ((IsFixed(right) ? left : IsFixed(left) ? right : null) is { } claimed
            && claimed.Taints.Any(t => t.IsSent && t.Origin is { Part: "header" or "cookie", Name: { } name } && _program.Vocabulary.TellsOfRole(name)) && !StandsForSubject(claimed) && Decides(index))
        {
            Raise(EventKind.ClaimedRole, null, index, false, ("value", claimed));
        }
    }

    /// <summary>A constant, or a list of them.</summary>
    private static bool IsFixed(AbstractValue value) =>
        value is { IsTainted: false } && (value.Constant is { Length: > 0 } || value.Library is not null || (value.Fields is { Count: > 0 } fields && fields.Values.All(f => f.Constant is not null || f.Library is not null)));
}
