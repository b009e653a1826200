namespace Bellator.Core.Flow;

/// <summary>Marks as harmless what has been tested on the way.</summary>
internal sealed partial class FunctionFlow
{
    private Value Refine(Value value, int block, int instruction) =>
        value.IsTainted || value.Fields is not null ? Vouch(value, _guards.InBlock(block), instruction) : value;

    private Value RefineOnEdge(Value value, int from, int to, int instruction) =>
        Vouch(value, [.. _guards.InBlock(from), .. _guards.OnEdge(from, to, onlyWay: false)], instruction);

    private Value Vouch(Value value, IReadOnlyList<Tested> tested, int instruction, int depth = 0)
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
            if (Vouched(taint, tested, instruction) != Position.None)
            {
                return WithVouched(value, tested, instruction);
            }
        }

        return value;
    }

    private Position Vouched(Taint taint, IReadOnlyList<Tested> tested, int instruction)
    {
        if (taint.Safe == Position.All)
        {
            return Position.None;
        }

        var safe = Position.None;
        foreach (var test in tested)
        {
            if (test.Of is { } part)
            {
                safe |= !taint.Altered && part.Covers(taint.Origin) ? test.Safe : Position.None;
            }
            else if (test.Value == instruction || (!taint.Altered && IsUnalteredIn(Get(test.Value), taint)))
            {
                safe |= test.Safe;
            }
        }

        return safe;
    }

    private static bool IsUnalteredIn(Value value, Taint taint)
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

    private Value WithVouched(Value value, IReadOnlyList<Tested> tested, int instruction)
    {
        Taint Mark(Taint taint) => Vouched(taint, tested, instruction) is not Position.None and var safe ? taint with { Safe = taint.Safe | safe } : taint;
        return value.Text is null
            ? value.With(taints: [.. value.Taints.Select(Mark)])
            : Value.OfText(value.Text.Map(p => [[Piece.Hole([.. p.Taints.Select(Mark)], p.At)]]));
    }
}
