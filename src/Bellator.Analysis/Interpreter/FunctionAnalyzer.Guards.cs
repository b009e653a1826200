using Bellator.Analysis.Domain;
using Bellator.Analysis.Guards;
using Bellator.Analysis.Ir;

namespace Bellator.Analysis.Interpreter;

/// <summary>Marks as harmless what has been tested on the way.</summary>
internal sealed partial class FunctionAnalyzer
{
    private AbstractValue Refine(AbstractValue value, int block, int instruction) =>
        value.IsTainted || value.Fields is not null ? Doubt(Vouch(value, _guards.InBlock(block), instruction), instruction) : value;

    /// <summary>Notes where a value was looked at by a test that does not hold here.</summary>
    private AbstractValue Doubt(AbstractValue value, int instruction)
    {
        if (!value.IsTainted || _guards.LookedAt.Count == 0 || !value.Taints.Any(IsDoubted))
        {
            return value;
        }

        Taint Mark(Taint taint) => IsDoubted(taint) ? taint with { Doubted = true } : taint;
        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : AbstractValue.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));

        bool IsDoubted(Taint taint) => !taint.Doubted && taint.Safe != OutputContext.All && _guards.LookedAt.Any(v => IsSameRead(v, instruction, 0) || (!taint.Altered && IsUnalteredIn(Get(v), taint)));
    }

    /// <summary>A value that becomes part of another one there: what has been tested on the way to it stays so, wherever the other one goes.</summary>
    private AbstractValue AsTested(int index, int instruction) => Refine(Get(instruction), _function.BlockOf[index], instruction);

    private AbstractValue RefineOnEdge(AbstractValue value, int from, int to, int instruction) =>
        Vouch(value, [.. _guards.InBlock(from), .. _guards.OnEdge(from, to, onlyWay: false)], instruction);

    private AbstractValue Vouch(AbstractValue value, IReadOnlyList<GuardFact> tested, int instruction, int depth = 0)
    {
        if (tested.Count == 0 || depth > 2)
        {
            return value;
        }

        if (value.Fields is not null && value.Fields.Values.Any(f => f.IsTainted))
        {
            value = value.With(fields: value.Fields.ToDictionary(f => f.Key, f => Vouch(f.Value, tested, -1, depth + 1), StringComparer.Ordinal));
        }

        if (!value.IsTainted)
        {
            return value;
        }

        foreach (var taint in value.Taints)
        {
            if (Vouched(taint, tested, instruction) != OutputContext.None)
            {
                return WithVouched(value, tested, instruction);
            }
        }

        return value;
    }

    private OutputContext Vouched(Taint taint, IReadOnlyList<GuardFact> tested, int instruction)
    {
        if (taint.Safe == OutputContext.All)
        {
            return OutputContext.None;
        }

        var safe = OutputContext.None;
        foreach (var test in tested)
        {
            if (test.Of is { } part)
            {
                safe |= !taint.Altered && part.Covers(taint.Origin) ? test.Safe : OutputContext.None;
            }
            else if (IsSameRead(test.Value, instruction, 0) || (!taint.Altered && IsUnalteredIn(Get(test.Value), taint)))
            {
                safe |= test.Safe;
            }
            else if (test.Safe == OutputContext.All && IsHostOf(test.Value, taint, instruction))
            {
                safe |= OutputContext.ServerAddress | OutputContext.Redirect;
            }
        }

        return safe;
    }

    /// <summary>What was tested is the host of the address: <c>new URL(address).hostname</c>, <c>parse_url($address)['host']</c>, <c>uri.host</c>.</summary>
    private bool IsHostOf(int tested, Taint taint, int used)
    {
        var part = tested;
        if (part >= 0 && PartName(part) is null)
        {
            // A change of letters before the comparison.
            part = _function.Instructions[part] is { Op: Opcode.CallMethod, C: 0 } changed ? changed.A : -1;
        }

        if (part < 0 || PartName(part) is not { } name || !_program.Vocabulary.NamesAddressHost(name))
        {
            return false;
        }

        var address = _function.Instructions[part].Op == Opcode.Call ? part : _function.Instructions[part].A;
        return IsSameRead(address, used, 0) || Made(address) is >= 0 and var of && (IsSameRead(of, used, 0) || (!taint.Altered && IsUnalteredIn(Get(of), taint)) || IsSameRead(Made(used), of, 0));
    }

    /// <summary>The name under which a part is read, or asked for by the second argument of a call.</summary>
    private string? PartName(int at) => _function.Instructions[at] switch
    {
        { Op: Opcode.GetField } field => field.Text,
        { Op: Opcode.GetItem, B: >= 0 } item => Get(item.B).Constant,
        { Op: Opcode.CallMethod, C: 0 } call when _rules.MembersAreCalls => call.Text,
        { Op: Opcode.Call, C: 2 } call => _function.Instructions[_function.List(call)[1].Value] is { Op: Opcode.Global, Text: { } constant } ? constant : null,
        _ => null,
    };

    /// <summary>What a call made its value of: its first argument; -1 for anything else.</summary>
    private int Made(int at) => at >= 0 && _function.Instructions[at] is { Op: Opcode.Call or Opcode.CallMethod or Opcode.CallStatic or Opcode.New, C: > 0 } call ? _function.List(call)[0].Value : -1;

    /// <summary>Both are one instruction, or read the same part of the same thing: <c>body[key]</c> is tested, and then read again.</summary>
    private bool IsSameRead(int tested, int used, int depth)
    {
        if (tested == used || tested < 0 || used < 0 || depth > 3)
        {
            return tested == used && used >= 0;
        }

        ref readonly var left = ref _function.Instructions[tested];
        ref readonly var right = ref _function.Instructions[used];
        return left.Op == right.Op && left.Op switch
        {
            Opcode.GetField => left.Text == right.Text && IsSameRead(left.A, right.A, depth + 1),
            Opcode.GetItem => IsSameRead(left.A, right.A, depth + 1) && IsSameRead(left.B, right.B, depth + 1),
            _ => false,
        };
    }

    private static bool IsUnalteredIn(AbstractValue value, Taint taint)
    {
        foreach (var known in value.Taints)
        {
            if (!known.Altered && known.Origin.IsSameValue(taint.Origin))
            {
                return true;
            }
        }

        return false;
    }

    private AbstractValue WithVouched(AbstractValue value, IReadOnlyList<GuardFact> tested, int instruction)
    {
        Taint Mark(Taint taint) => Vouched(taint, tested, instruction) is not OutputContext.None and var safe ? taint with { Safe = taint.Safe | safe } : taint;
        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : AbstractValue.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }
}
